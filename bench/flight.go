package main

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"net"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/decimal128"
	"github.com/apache/arrow-go/v18/arrow/flight"
	"github.com/apache/arrow-go/v18/arrow/flight/flightsql"
	arrowmemory "github.com/apache/arrow-go/v18/arrow/memory"
	"google.golang.org/grpc"
	"google.golang.org/grpc/credentials/insecure"
)

// streaming is a server that answers every query with the same million rows, which it has at hand.
type streaming struct {
	flightsql.BaseServer
	schema  *arrow.Schema
	batches []arrow.RecordBatch
}

var amounts = &arrow.Decimal128Type{Precision: 14, Scale: 2}

// newStreaming makes the rows, of values like those of the other benchmarks.
func newStreaming() (*streaming, error) {
	const rows, batch = 1_000_000, 1 << 16
	names := []string{"id", "region", "item", "day", "status", "quantity", "pieces", "amount", "weight", "price"}
	whole, text := arrow.PrimitiveTypes.Int64, arrow.BinaryTypes.String
	types := []arrow.DataType{whole, text, text, arrow.FixedWidthTypes.Date32, text, whole, whole, amounts, whole, amounts}
	fields := make([]arrow.Field, len(names))
	for i := range names {
		fields[i] = arrow.Field{Name: names[i], Type: types[i], Nullable: true}
	}
	s := &streaming{schema: arrow.NewSchema(fields, nil)}
	r := rand.New(rand.NewPCG(7, 8))
	b := array.NewRecordBuilder(arrowmemory.DefaultAllocator, s.schema)
	wholes := func(i int, v int64) { b.Field(i).(*array.Int64Builder).Append(v) }
	texts := func(i int, v string) { b.Field(i).(*array.StringBuilder).Append(v) }
	for n := range rows {
		wholes(0, int64(n))
		texts(1, fmt.Sprint("region-", r.IntN(4)))
		texts(2, fmt.Sprintf("item-%04d", r.IntN(4000)))
		b.Field(3).(*array.Date32Builder).Append(arrow.Date32(19358 + r.IntN(1300)))
		texts(4, []string{"open", "sent", "paid"}[r.IntN(3)])
		wholes(5, r.Int64N(1000))
		wholes(6, r.Int64N(100))
		b.Field(7).(*array.Decimal128Builder).Append(decimal128.FromI64(r.Int64N(1e9)))
		wholes(8, r.Int64N(1e6))
		b.Field(9).(*array.Decimal128Builder).Append(decimal128.FromI64(r.Int64N(1e5)))
		if n%batch == batch-1 || n == rows-1 {
			s.batches = append(s.batches, b.NewRecordBatch())
		}
	}
	return s, errors.Join(s.RegisterSqlInfo(flightsql.SqlInfoFlightSqlServerReadOnly, true),
		s.RegisterSqlInfo(flightsql.SqlInfoFlightSqlServerTransaction, int32(flightsql.SqlTransactionTransaction)))
}

// BeginTransaction begins one of many that are the same.
func (s *streaming) BeginTransaction(context.Context, flightsql.ActionBeginTransactionRequest) ([]byte, error) {
	return []byte("one"), nil
}

// EndTransaction ends it.
func (s *streaming) EndTransaction(context.Context, flightsql.ActionEndTransactionRequest) error {
	return nil
}

// CreatePreparedStatement takes any query.
func (s *streaming) CreatePreparedStatement(context.Context, flightsql.ActionCreatePreparedStatementRequest) (
	flightsql.ActionCreatePreparedStatementResult, error) {
	return flightsql.ActionCreatePreparedStatementResult{Handle: []byte("one")}, nil
}

// ClosePreparedStatement forgets it.
func (s *streaming) ClosePreparedStatement(context.Context, flightsql.ActionClosePreparedStatementRequest) error {
	return nil
}

// GetFlightInfoPreparedStatement tells where the rows are.
func (s *streaming) GetFlightInfoPreparedStatement(_ context.Context, _ flightsql.PreparedStatementQuery,
	d *flight.FlightDescriptor) (*flight.FlightInfo, error) {
	return &flight.FlightInfo{Endpoint: []*flight.FlightEndpoint{{Ticket: &flight.Ticket{Ticket: d.Cmd}}}}, nil
}

// DoGetPreparedStatement streams them.
func (s *streaming) DoGetPreparedStatement(ctx context.Context, _ flightsql.PreparedStatementQuery) (*arrow.Schema,
	<-chan flight.StreamChunk, error) {
	chunks := make(chan flight.StreamChunk)
	go func() {
		defer close(chunks)
		for _, batch := range s.batches {
			batch.Retain()
			select {
			case chunks <- flight.StreamChunk{Data: batch}:
			case <-ctx.Done():
				return
			}
		}
	}()
	return s.schema, chunks, nil
}

// fromFlight measures the capture from such a server beside reading it and throwing all away.
func fromFlight(ctx context.Context) error {
	rows, err := newStreaming()
	if err != nil {
		return err
	}
	server := flight.NewServerWithMiddleware(nil)
	if err := server.Init("127.0.0.1:0"); err != nil {
		return err
	}
	server.RegisterFlightService(flightsql.NewFlightServer(rows))
	go func() { _ = server.Serve() }() // it ends when it is shut down
	defer server.Shutdown()
	client, err := flightsql.NewClient(server.Addr().String(), nil, nil,
		grpc.WithTransportCredentials(insecure.NewCredentials()),
		grpc.WithDefaultCallOptions(grpc.MaxCallRecvMsgSize(1<<28)))
	if err != nil {
		return err
	}
	defer client.Close()
	fmt.Println("\nArrow Flight SQL")
	port := server.Addr().(*net.TCPAddr).Port
	return captureFrom(ctx, "flightsql", port, func() error { return streamed(ctx, client) })
}

// streamed reads all rows by the bare client.
func streamed(ctx context.Context, client *flightsql.Client) error {
	stmt, err := client.Prepare(ctx, "select * from made_rows")
	if err != nil {
		return err
	}
	info, err := stmt.Execute(ctx)
	if err != nil {
		return err
	}
	r, err := client.DoGet(ctx, info.Endpoint[0].Ticket)
	if err != nil {
		return err
	}
	defer r.Release()
	rows := int64(0)
	for r.Next() {
		rows += r.RecordBatch().NumRows()
	}
	if rows != 1_000_000 {
		return errors.Join(fmt.Errorf("%d rows were read", rows), r.Err())
	}
	return stmt.Close(ctx)
}
