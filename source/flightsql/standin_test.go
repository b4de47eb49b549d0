package flightsql

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/decimal128"
	"github.com/apache/arrow-go/v18/arrow/flight"
	"github.com/apache/arrow-go/v18/arrow/flight/flightsql"
	"github.com/apache/arrow-go/v18/arrow/memory"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgconn/ctxwatch"
	"github.com/jackc/pgx/v5/pgtype"
	"google.golang.org/grpc"
)

// standin is a server that speaks Flight SQL over a PostgreSQL database: the simulated one that
// the agreements are held by.
type standin struct {
	flightsql.BaseServer
	database string
	at       string

	mu       sync.Mutex
	ids      atomic.Int64
	sessions map[string]*transaction
	prepared map[string]statement
}

// transaction is a connection in one, which answers one query at a time.
type transaction struct {
	mu   sync.Mutex
	conn *pgconn.PgConn
}

// statement is a query with what is bound to it, of a transaction.
type statement struct {
	Text string
	Of   string
	Args []*string
}

// start starts a stand-in over a database, as an account that may read it.
func start(t *testing.T, database string, options ...grpc.ServerOption) *standin {
	t.Helper()
	s := &standin{database: database, sessions: map[string]*transaction{}, prepared: map[string]statement{}}
	for info, value := range map[flightsql.SqlInfo]any{flightsql.SqlInfoFlightSqlServerName: "Stand-in",
		flightsql.SqlInfoFlightSqlServerVersion: "1", flightsql.SqlInfoFlightSqlServerReadOnly: true,
		flightsql.SqlInfoFlightSqlServerTransaction: int32(flightsql.SqlTransactionTransaction)} {
		if err := s.RegisterSqlInfo(info, value); err != nil {
			t.Fatal(err)
		}
	}
	s.at = serve(t, flightsql.NewFlightServer(s), options...)
	return s
}

// serve serves at a free port until the test is over.
func serve(t *testing.T, service flight.FlightServer, options ...grpc.ServerOption) (at string) {
	t.Helper()
	server := flight.NewServerWithMiddleware(nil, options...)
	if err := server.Init("127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	server.RegisterFlightService(service)
	go func() { _ = server.Serve() }() // it ends when it is shut down
	t.Cleanup(server.Shutdown)
	return server.Addr().String()
}

func (s *standin) connect(ctx context.Context) (*pgconn.PgConn, error) {
	c, err := pgconn.ParseConfig(fmt.Sprintf("host=127.0.0.1 port=%d dbname=%s user=reports password=%s sslmode=disable "+
		"options='-c timezone=UTC'", own.Port, s.database, password))
	if err != nil {
		return nil, err
	}
	c.BuildContextWatcherHandler = func(conn *pgconn.PgConn) ctxwatch.Handler { // a query ends, and its connection not
		return &pgconn.CancelRequestContextWatcherHandler{Conn: conn, DeadlineDelay: 5 * time.Second}
	}
	return pgconn.ConnectConfig(ctx, c)
}

// BeginTransaction begins one that sees one state and only reads.
func (s *standin) BeginTransaction(ctx context.Context, _ flightsql.ActionBeginTransactionRequest) ([]byte, error) {
	conn, err := s.connect(context.WithoutCancel(ctx))
	if err == nil {
		_, err = conn.Exec(ctx, "begin isolation level repeatable read, read only; select txid_current_snapshot()").ReadAll()
	}
	if err != nil {
		return nil, err
	}
	id := fmt.Sprint("transaction ", s.ids.Add(1))
	s.mu.Lock()
	defer s.mu.Unlock()
	s.sessions[id] = &transaction{conn: conn}
	return []byte(id), nil
}

// EndTransaction ends one.
func (s *standin) EndTransaction(ctx context.Context, r flightsql.ActionEndTransactionRequest) error {
	s.mu.Lock()
	of := s.sessions[string(r.GetTransactionId())]
	delete(s.sessions, string(r.GetTransactionId()))
	s.mu.Unlock()
	if of == nil {
		return errors.New("there is no such transaction")
	}
	of.mu.Lock()
	defer of.mu.Unlock()
	return of.conn.Close(context.WithoutCancel(ctx))
}

// CreatePreparedStatement has the database parse a query.
func (s *standin) CreatePreparedStatement(ctx context.Context, r flightsql.ActionCreatePreparedStatementRequest) (
	out flightsql.ActionCreatePreparedStatementResult, err error) {
	stmt := statement{Text: numbered(r.GetQuery()), Of: string(r.GetTransactionId())}
	err = s.within(ctx, stmt.Of, func(conn *pgconn.PgConn) error {
		_, err := conn.Prepare(ctx, "", stmt.Text, nil)
		return err
	})
	if err != nil {
		return out, err
	}
	id := fmt.Sprint("statement ", s.ids.Add(1))
	s.mu.Lock()
	defer s.mu.Unlock()
	s.prepared[id] = stmt
	out.Handle = []byte(id)
	return out, nil
}

// numbered writes the marks of a query as the database has them.
func numbered(text string) string {
	var b strings.Builder
	n, quote := 0, rune(0)
	for _, c := range text {
		switch {
		case quote != 0 && c == quote:
			quote = 0
		case quote == 0 && (c == '\'' || c == '"'):
			quote = c
		case quote == 0 && c == '?':
			n++
			b.WriteString("$" + strconv.Itoa(n))
			continue
		}
		b.WriteRune(c)
	}
	return b.String()
}

// ClosePreparedStatement forgets one.
func (s *standin) ClosePreparedStatement(_ context.Context, r flightsql.ActionClosePreparedStatementRequest) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	delete(s.prepared, string(r.GetPreparedStatementHandle()))
	return nil
}

// DoPutPreparedStatementQuery binds values.
func (s *standin) DoPutPreparedStatementQuery(_ context.Context, q flightsql.PreparedStatementQuery,
	r flight.MessageReader, _ flight.MetadataWriter) ([]byte, error) {
	handle := q.GetPreparedStatementHandle()
	s.mu.Lock()
	defer s.mu.Unlock()
	stmt := s.prepared[string(handle)]
	for r.Next() {
		for i := range int(r.RecordBatch().NumCols()) {
			a := r.RecordBatch().Column(i)
			if a.IsNull(0) {
				stmt.Args = append(stmt.Args, nil)
				continue
			}
			text := a.ValueStr(0)
			stmt.Args = append(stmt.Args, &text)
		}
	}
	s.prepared[string(handle)] = stmt
	return handle, r.Err()
}

// GetFlightInfoPreparedStatement tells where the rows will be.
func (s *standin) GetFlightInfoPreparedStatement(_ context.Context, _ flightsql.PreparedStatementQuery,
	d *flight.FlightDescriptor) (*flight.FlightInfo, error) {
	return ticketed(d), nil
}

func ticketed(d *flight.FlightDescriptor) *flight.FlightInfo {
	return &flight.FlightInfo{Endpoint: []*flight.FlightEndpoint{{Ticket: &flight.Ticket{Ticket: d.Cmd}}},
		FlightDescriptor: d, TotalRecords: -1, TotalBytes: -1}
}

// DoGetPreparedStatement runs it.
func (s *standin) DoGetPreparedStatement(ctx context.Context, q flightsql.PreparedStatementQuery) (*arrow.Schema,
	<-chan flight.StreamChunk, error) {
	s.mu.Lock()
	stmt, ok := s.prepared[string(q.GetPreparedStatementHandle())]
	s.mu.Unlock()
	if !ok {
		return nil, nil, errors.New("there is no such statement")
	}
	schemas, chunks := make(chan *arrow.Schema, 1), make(chan flight.StreamChunk)
	failed := make(chan error, 1)
	go func() {
		defer close(chunks)
		sent := false
		err := s.within(ctx, stmt.Of, func(conn *pgconn.PgConn) error {
			args := make([][]byte, len(stmt.Args))
			for i, arg := range stmt.Args {
				if arg != nil {
					args[i] = []byte(*arg)
				}
			}
			return send(ctx, conn.ExecParams(ctx, stmt.Text, args, nil, nil, nil),
				func(schema *arrow.Schema) { sent = true; schemas <- schema }, chunks)
		})
		switch {
		case err != nil && sent:
			chunks <- flight.StreamChunk{Err: err}
		case err != nil:
			failed <- err
		}
	}()
	select {
	case err := <-failed:
		return nil, nil, err
	case schema := <-schemas:
		return schema, chunks, nil
	}
}

// within does something in a transaction, which goes on whatever comes of it.
func (s *standin) within(ctx context.Context, id string, do func(conn *pgconn.PgConn) error) error {
	s.mu.Lock()
	of := s.sessions[id]
	s.mu.Unlock()
	if of == nil {
		return errors.New("there is no such transaction")
	}
	of.mu.Lock()
	defer of.mu.Unlock()
	conn := of.conn
	if _, err := conn.Exec(ctx, "savepoint before").ReadAll(); err != nil {
		return err
	}
	err := do(conn)
	back, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
	defer cancel()
	if _, failed := conn.Exec(back, "rollback to before").ReadAll(); failed != nil {
		return errors.Join(err, failed)
	}
	return err
}

// send sends rows as batches of two, so that there are several.
func send(ctx context.Context, rows *pgconn.ResultReader, begin func(*arrow.Schema),
	to chan<- flight.StreamChunk) error {
	const most = 2
	var b *array.RecordBuilder
	opened := func() {
		var fields []arrow.Field
		for _, f := range rows.FieldDescriptions() {
			fields = append(fields, arrow.Field{Name: f.Name, Type: arrowType(f), Nullable: true})
		}
		schema := arrow.NewSchema(fields, nil)
		b = array.NewRecordBuilder(memory.DefaultAllocator, schema)
		begin(schema)
	}
	hand := func() {
		select {
		case to <- flight.StreamChunk{Data: b.NewRecordBatch()}:
		case <-ctx.Done():
		}
	}
	n := 0
	for rows.NextRow() && ctx.Err() == nil {
		if b == nil {
			opened()
		}
		for i, value := range rows.Values() {
			if value == nil {
				b.Field(i).AppendNull()
				continue
			}
			if err := appended(b.Field(i), string(value)); err != nil {
				return err
			}
		}
		if n++; n%most == 0 {
			hand()
		}
	}
	if b == nil && len(rows.FieldDescriptions()) > 0 {
		opened()
	}
	if b != nil {
		hand()
	}
	_, err := rows.Close()
	return err
}

// arrowType is how a column of the database comes.
func arrowType(f pgconn.FieldDescription) arrow.DataType {
	switch f.DataTypeOID {
	case pgtype.Int4OID:
		return arrow.PrimitiveTypes.Int32
	case pgtype.Int8OID:
		return arrow.PrimitiveTypes.Int64
	case pgtype.NumericOID:
		if f.TypeModifier < 0 { // of an expression, with as many places as it has
			return arrow.BinaryTypes.String
		}
		return &arrow.Decimal128Type{Precision: 38, Scale: (f.TypeModifier - 4) & 0xffff}
	case pgtype.BoolOID:
		return arrow.FixedWidthTypes.Boolean
	case pgtype.DateOID:
		return arrow.FixedWidthTypes.Date32
	case pgtype.TimestamptzOID:
		return arrow.FixedWidthTypes.Timestamp_us
	case pgtype.VarcharOID:
		return &arrow.DictionaryType{IndexType: arrow.PrimitiveTypes.Int32, ValueType: arrow.BinaryTypes.String}
	}
	return arrow.BinaryTypes.String
}

func appended(b array.Builder, text string) error {
	switch b := b.(type) {
	case *array.BooleanBuilder:
		b.Append(text == "t")
	case *array.Decimal128Builder:
		t := b.Type().(*arrow.Decimal128Type)
		n, err := decimal128.FromString(text, t.Precision, t.Scale)
		if err != nil {
			return err
		}
		b.Append(n)
	case *array.TimestampBuilder:
		at, err := time.Parse("2006-01-02 15:04:05.999999-07", text)
		if err != nil {
			return err
		}
		b.Append(arrow.Timestamp(at.UnixMicro()))
	default:
		return b.AppendValueFromString(text)
	}
	return nil
}
