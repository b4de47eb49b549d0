package sourcetest

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"sync"
	"testing"
)

// Answer is what a simulated engine gives to a statement that holds a text.
type Answer struct {
	To      string
	Columns []string
	Types   []string         // of the columns, as the driver names them
	Rows    [][]driver.Value // as the driver gives them
	Err     error
	Until   bool // it comes when the statement's context has ended
}

// Engine is a simulated one: the stand-in for a server that the tests have not, in the place of
// its driver. The first answer that fits a statement is given, none to what nothing is answered.
type Engine struct {
	Answers []Answer
	Takes   func(value any) bool // what the driver takes beside whole numbers, flags and texts

	mu     sync.Mutex
	begun  []sql.IsolationLevel
	ended  int
	asked  []string
	bounds [][]any
}

// Open makes a pool of connections to the engine.
func (e *Engine) Open() *sql.DB { return sql.OpenDB(e) }

// Asked are the statements that reached it, in order.
func (e *Engine) Asked() []string {
	e.mu.Lock()
	defer e.mu.Unlock()
	return slices.Clone(e.asked)
}

// Bound are the values of the last statement that holds a text.
func (e *Engine) Bound(t *testing.T, text string) []any {
	t.Helper()
	e.mu.Lock()
	defer e.mu.Unlock()
	for i, asked := range slices.Backward(e.asked) {
		if strings.Contains(asked, text) {
			return e.bounds[i]
		}
	}
	t.Fatalf("nothing was asked that holds %q, of\n%s", text, strings.Join(e.asked, "\n"))
	return nil
}

// Transactions tells how many were begun, at which levels, and how many of them are ended.
func (e *Engine) Transactions() (levels []sql.IsolationLevel, ended int) {
	e.mu.Lock()
	defer e.mu.Unlock()
	return slices.Clone(e.begun), e.ended
}

// Connect connects.
func (e *Engine) Connect(context.Context) (driver.Conn, error) { return conn{e}, nil }

// Driver is none of a name.
func (e *Engine) Driver() driver.Driver { return nil }

func (e *Engine) answer(ctx context.Context, text string, args []driver.NamedValue) (Answer, error) {
	values := make([]any, len(args))
	for i, arg := range args {
		values[i] = arg.Value
	}
	e.mu.Lock()
	e.asked, e.bounds = append(e.asked, text), append(e.bounds, values)
	at := slices.IndexFunc(e.Answers, func(a Answer) bool { return strings.Contains(text, a.To) })
	e.mu.Unlock()
	if at < 0 {
		return Answer{}, nil
	}
	a := e.Answers[at]
	if a.Until {
		<-ctx.Done()
		return a, ctx.Err()
	}
	return a, a.Err
}

type conn struct{ engine *Engine }

func (c conn) Prepare(string) (driver.Stmt, error) { return nil, errors.New("nothing is prepared") }
func (c conn) Close() error                        { return nil }
func (c conn) Begin() (driver.Tx, error)           { return nil, errors.New("a level is wanted") }

// CheckNamedValue takes values as they are, which drivers have types of their own for.
func (c conn) CheckNamedValue(v *driver.NamedValue) error {
	switch v.Value.(type) {
	case nil, int64, bool, string:
		return nil
	}
	if c.engine.Takes != nil && c.engine.Takes(v.Value) {
		return nil
	}
	return fmt.Errorf("the driver takes no %T", v.Value)
}

// BeginTx begins a transaction.
func (c conn) BeginTx(_ context.Context, o driver.TxOptions) (driver.Tx, error) {
	if o.ReadOnly {
		return nil, errors.New("the driver knows no transactions that only read")
	}
	c.engine.mu.Lock()
	defer c.engine.mu.Unlock()
	c.engine.begun = append(c.engine.begun, sql.IsolationLevel(o.Isolation))
	return tx(c), nil
}

type tx conn

func (t tx) Commit() error { return errors.New("nothing was written that could be committed") }

func (t tx) Rollback() error {
	t.engine.mu.Lock()
	defer t.engine.mu.Unlock()
	t.engine.ended++
	return nil
}

// ExecContext answers without rows.
func (c conn) ExecContext(ctx context.Context, text string, args []driver.NamedValue) (driver.Result, error) {
	_, err := c.engine.answer(ctx, text, args)
	return driver.RowsAffected(0), err
}

// QueryContext answers with rows.
func (c conn) QueryContext(ctx context.Context, text string, args []driver.NamedValue) (driver.Rows, error) {
	a, err := c.engine.answer(ctx, text, args)
	if err != nil {
		return nil, err
	}
	return &rows{Answer: a}, nil
}

type rows struct {
	Answer
	at int
}

// Columns are the names.
func (r *rows) Columns() []string { return r.Answer.Columns }

// ColumnTypeDatabaseTypeName is the type of a column.
func (r *rows) ColumnTypeDatabaseTypeName(i int) string {
	if r.Types == nil {
		return ""
	}
	return r.Types[i]
}

// Close ends nothing.
func (r *rows) Close() error { return nil }

// Next gives the next row.
func (r *rows) Next(into []driver.Value) error {
	if r.at == len(r.Rows) {
		return io.EOF
	}
	copy(into, r.Rows[r.at])
	r.at++
	return nil
}
