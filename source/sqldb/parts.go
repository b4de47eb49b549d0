package sqldb

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
)

// Confine refuses a connection whose account could do more than read: more is a query for what that
// is, a row each, and mend says how an account is made that may not.
func Confine(ctx context.Context, conn *sql.Conn, more, mend string) error {
	var may string
	switch err := conn.QueryRowContext(ctx, more).Scan(&may); {
	case errors.Is(err, sql.ErrNoRows):
		return nil
	case err != nil:
		return err
	}
	return fmt.Errorf("%w: it has %s. %s", ErrMayWrite, may, mend)
}

// mostBound is how many values of a list are bound one by one; engines take 2,100 in a statement, or
// 1,000 in a list.
const mostBound = 1000

// List writes what stands for texts behind "in": a mark for each, which one gives, or for many what
// long makes of an array of them in JSON.
func List(texts []string, one func(any) string, long func(array string) string) string {
	if len(texts) == 0 {
		return "(null)"
	}
	if len(texts) > mostBound {
		array, err := json.Marshal(texts)
		if err != nil {
			panic(err) // texts can always be written
		}
		return long(string(array))
	}
	marks := make([]string, len(texts))
	for i, text := range texts {
		marks[i] = one(text)
	}
	return "(" + strings.Join(marks, ", ") + ")"
}
