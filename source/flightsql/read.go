package flightsql

import (
	"context"
	"errors"
	"fmt"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/flight"
	"github.com/apache/arrow-go/v18/arrow/flight/flightsql"

	"mantilla/core/query"
	"mantilla/source"
)

// Prepare checks that the server understands the query.
func (s *Server) Prepare(ctx context.Context, q query.Query) error {
	v, err := s.begin(ctx)
	if err != nil {
		return err
	}
	within, done := v.within(ctx)
	defer done()
	stmt, err := v.prepared(within, source.Write(q, dialect{}).Text)
	if err == nil {
		err = stmt.Close(within)
	}
	return errors.Join(s.explain(ctx, cause(within, err)), v.Close())
}

// prepared has the server prepare a query, and refuses what it would not call one.
func (v *session) prepared(ctx context.Context, text string) (*flightsql.PreparedStatement, error) {
	stmt, err := v.txn.Prepare(ctx, text)
	if err != nil {
		return nil, err
	}
	if changes, told := stmt.IsUpdate(); told && changes {
		return nil, errors.Join(errors.New("the server would change something, and may only be read"), stmt.Close(ctx))
	}
	return stmt, nil
}

// cause is why a call ended: an error, or what ended its context.
func cause(within context.Context, err error) error {
	if err != nil && within.Err() != nil {
		return context.Cause(within)
	}
	return err
}

// Read pours the rows of one query.
func (v *session) Read(ctx context.Context, q query.Query, to *source.Sink) error {
	of := source.Write(q, dialect{})
	columns := of.Dataset.Read()
	err := v.asked(ctx, of.Text, of.Args, func(batch arrow.RecordBatch) error { return pour(batch, columns, to) })
	if err != nil {
		return fmt.Errorf("dataset %s: %w", of.Dataset.ID, err)
	}
	return to.Tick()
}

// asked runs a query and visits the batches that the server answers with.
func (v *session) asked(ctx context.Context, text string, args []any, visit func(arrow.RecordBatch) error) error {
	within, done := v.within(ctx)
	defer done()
	stmt, err := v.prepared(within, text)
	if err != nil {
		return v.server.explain(ctx, cause(within, err))
	}
	defer func() {
		closing, cancel := context.WithTimeout(v.signed, longestConnect)
		defer cancel()
		_ = stmt.Close(closing) // it goes with the transaction
	}()
	if len(args) > 0 {
		row, err := bound(args)
		if err != nil {
			return err
		}
		stmt.SetParameters(row)
	}
	info, err := stmt.Execute(within)
	if err == nil {
		err = v.server.batches(within, info, visit)
	}
	return v.server.explain(ctx, cause(within, err))
}

// batches visits all batches of what the server made ready.
func (s *Server) batches(ctx context.Context, info *flight.FlightInfo, visit func(arrow.RecordBatch) error) error {
	endpoints, err := s.endpoints(info)
	if err != nil {
		return err
	}
	for _, e := range endpoints {
		if err := s.stream(ctx, e.Ticket, visit); err != nil {
			return err
		}
	}
	return nil
}

func (s *Server) stream(ctx context.Context, ticket *flight.Ticket, visit func(arrow.RecordBatch) error) error {
	ctx, leave := context.WithCancel(ctx)
	defer leave() // else what is left would come
	r, err := s.client.DoGet(ctx, ticket)
	if err != nil {
		return err
	}
	defer r.Release()
	for r.Next() {
		if err := visit(r.RecordBatch()); err != nil {
			return err
		}
	}
	return r.Err()
}

// rows visits the rows of what the server made ready, as texts; no value is "".
func (s *Server) rows(ctx context.Context, info *flight.FlightInfo, visit func(cell func(col int) string) error) error {
	return s.batches(ctx, info, func(batch arrow.RecordBatch) error { return each(batch, visit) })
}

// each visits the rows of a batch, as texts; no value is "".
func each(batch arrow.RecordBatch, visit func(cell func(col int) string) error) error {
	for row := range int(batch.NumRows()) {
		err := visit(func(col int) string {
			text, _ := textOf(batch.Column(col), row)
			return text
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// List reads all entries of a declared list.
func (s *Server) List(ctx context.Context, id string) ([]source.Item, error) {
	return source.ReadList(ctx, s.config, dialect{}, id, s.entries)
}

// Find returns the entries of a declared list that are sought.
func (s *Server) Find(ctx context.Context, id string, w source.Sought) ([]source.Item, error) {
	return source.FindIn(ctx, s.config, dialect{}, id, w, s.entries)
}

func (s *Server) entries(ctx context.Context, text string, args []any, row func(cell func(int) string)) error {
	return s.once(ctx, text, args, func(batch arrow.RecordBatch) error {
		return each(batch, func(cell func(int) string) error { row(cell); return nil })
	})
}

// once runs a query in a transaction of its own.
func (s *Server) once(ctx context.Context, text string, args []any, visit func(arrow.RecordBatch) error) error {
	v, err := s.begin(ctx)
	if err != nil {
		return err
	}
	err = v.asked(ctx, text, args, visit)
	return errors.Join(err, v.Close())
}
