package sqldb

import (
	"context"
	"database/sql"
	"fmt"
	"slices"
	"strconv"
	"time"

	"mantilla/model"
	"mantilla/source"
	"mantilla/source/cells"
)

// How long looking at tables may take: to count the rows of all, and to read the
// first of one.
const (
	longestCount  = time.Second
	longestSample = 5 * time.Second
)

// Tables are the tables and views that the account may read, with their rows counted, or as
// the engine reckons them when counting takes longer than a second for all.
func (s *Server) Tables(ctx context.Context) (tables []source.Table, err error) {
	err = s.texts(ctx, s.engine.Asks().Tables, nil, func(_ []string, row []sql.RawBytes) error {
		t := source.Table{Name: string(row[0]), View: string(row[1]) == "1", Rows: -1}
		if n, err := strconv.ParseInt(string(row[2]), 10, 64); err == nil && !t.View {
			t.Rows = n
		}
		tables = append(tables, t)
		return nil
	})
	if err != nil {
		return nil, err
	}
	for i := range tables {
		t := &tables[i]
		err := s.texts(ctx, s.engine.Asks().Columns, []any{t.Name}, func(_ []string, row []sql.RawBytes) error {
			is := func(at int) bool { return string(row[at]) == "1" }
			t.Columns = append(t.Columns, source.TableColumn{Name: string(row[0]), Type: string(row[1]), Key: is(2),
				Required: is(3), References: string(row[4])})
			return nil
		})
		if err != nil {
			return nil, err
		}
	}
	s.count(ctx, tables)
	return tables, nil
}

// count counts the rows of tables as long as there is time.
func (s *Server) count(ctx context.Context, tables []source.Table) {
	counting, cancel := context.WithTimeout(ctx, longestCount)
	defer cancel()
	for i := range tables {
		t := &tables[i]
		if t.View {
			continue
		}
		err := s.texts(counting, "select count(*) from "+s.engine.Dialect().Name(t.Name), nil, func(_ []string,
			row []sql.RawBytes) error {
			n, err := strconv.ParseInt(string(row[0]), 10, 64)
			t.Rows = n
			return err
		})
		if err != nil {
			return // it took too long, and what the engine reckons stands
		}
	}
}

// Sample reads the first rows of a table or view.
func (s *Server) Sample(ctx context.Context, table string, most int) (out source.Sample, err error) {
	ctx, cancel := context.WithTimeoutCause(ctx, longestSample,
		fmt.Errorf("reading the first rows of %s took longer than %s", table, longestSample))
	defer cancel()
	var names []string
	err = s.texts(ctx, s.engine.Asks().Tables, nil, func(_ []string, row []sql.RawBytes) error {
		names = append(names, string(row[0]))
		return nil
	})
	if err == nil && !slices.Contains(names, table) {
		err = model.NoSuch("table", table, names)
	}
	if err != nil {
		return out, err
	}
	err = s.texts(ctx, s.engine.Asks().First(s.engine.Dialect().Name(table), most), nil,
		func(columns []string, row []sql.RawBytes) error {
			out.Columns = columns
			shown := make([]*string, len(row))
			for i, cell := range row {
				if cell != nil {
					shown[i] = cells.Cut(cell)
				}
			}
			out.Rows = append(out.Rows, shown)
			return nil
		})
	return out, err
}

// Examine looks whether the source can be reached and used, step by step; what cannot be
// looked at after a step that failed is left out.
func (s *Server) Examine(ctx context.Context) (found source.Findings) {
	var v *session
	reached := found.Add("reached", func() (string, error) {
		var err error
		if v, err = s.begin(ctx); err != nil {
			return "", err
		}
		who, err := v.one(ctx, s.engine.Asks().Who)
		return fmt.Sprintf("%s %s at %s", s.engine.Title(), who, s.config.Server.Host), s.explain(ctx, err)
	})
	if v != nil {
		defer func() { _ = v.Close() }() // what was found stands, however the session ends
	}
	if !reached {
		return found
	}
	found.Add("only read", func() (string, error) {
		return "the account may read and nothing else, and every transaction is read-only",
			s.explain(ctx, s.engine.Confined(ctx, v.conn))
	})
	found.Add("round trip", func() (string, error) {
		began := time.Now()
		_, err := v.one(ctx, s.engine.Asks().Nothing)
		return fmt.Sprintf("%.1f ms to the server and back", float64(time.Since(began).Microseconds())/1000),
			s.explain(ctx, err)
	})
	found.Add("clock", func() (string, error) {
		return source.Clock(func() (time.Time, error) {
			told, err := v.one(ctx, s.engine.Asks().Clock)
			if err != nil {
				return time.Time{}, s.explain(ctx, err)
			}
			micros, err := strconv.ParseInt(told, 10, 64)
			return time.UnixMicro(micros), err
		})
	})
	found.Lists(ctx, s.config, s)
	return found
}

// one is the text of the one cell that a query gives.
func (v *session) one(ctx context.Context, text string) (said string, err error) {
	err = v.each(ctx, text, nil, func(_ []string, row []sql.RawBytes) error {
		said = string(row[0])
		return nil
	})
	return said, err
}
