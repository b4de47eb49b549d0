package flightsql

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/flight"
	"github.com/apache/arrow-go/v18/arrow/flight/flightsql"
	"github.com/apache/arrow-go/v18/arrow/memory"
	"google.golang.org/grpc/codes"
	"google.golang.org/grpc/status"

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

// Tables are the tables and views that the account sees, of the schemas that are declared, with
// their rows counted where that takes less than a second for all.
func (s *Server) Tables(ctx context.Context) (tables []source.Table, err error) {
	v, err := s.begin(ctx)
	if err != nil {
		return nil, err
	}
	within, done := v.within(ctx)
	defer done()
	tables, err = s.listed(within)
	if err := errors.Join(s.explain(ctx, cause(within, err)), v.Close()); err != nil {
		return nil, err
	}
	s.count(ctx, tables)
	return tables, nil
}

// listed asks for the tables with their columns and keys.
func (s *Server) listed(ctx context.Context) (tables []source.Table, err error) {
	info, err := s.client.GetTables(ctx, &flightsql.GetTablesOpts{IncludeSchema: true})
	if err != nil {
		return nil, err
	}
	shown := s.config.Server.Schemas
	err = s.batches(ctx, info, func(batch arrow.RecordBatch) error {
		return each(batch, func(cell func(int) string) error {
			if len(shown) > 0 && !slices.Contains(shown, cell(1)) || strings.HasPrefix(cell(3), "SYSTEM") {
				return nil
			}
			t := source.Table{Name: cell(2), View: strings.Contains(strings.ToUpper(cell(3)), "VIEW"), Rows: -1}
			schema, err := flight.DeserializeSchema([]byte(cell(4)), memory.DefaultAllocator)
			if err != nil {
				return fmt.Errorf("the columns of %s: %w", t.Name, err)
			}
			for _, f := range schema.Fields() {
				t.Columns = append(t.Columns, source.TableColumn{Name: f.Name, Type: typeOf(f), Required: !f.Nullable})
			}
			tables = append(tables, t)
			return s.keys(ctx, &tables[len(tables)-1], flightsql.TableRef{Catalog: optional(cell(0)),
				DBSchema: optional(cell(1)), Table: cell(2)})
		})
	})
	return tables, err
}

func optional(text string) *string {
	if text == "" {
		return nil
	}
	return &text
}

// typeOf is the type of a column, as the engine calls it where it says so.
func typeOf(f arrow.Field) string {
	if name, ok := f.Metadata.GetValue(flightsql.TypeNameKey); ok && name != "" {
		return name
	}
	return f.Type.String()
}

// keys finds which columns are keys, of the table itself or of others; a server need not know.
func (s *Server) keys(ctx context.Context, t *source.Table, ref flightsql.TableRef) error {
	mark := func(name string, as func(c *source.TableColumn)) {
		at := slices.IndexFunc(t.Columns, func(c source.TableColumn) bool { return c.Name == name })
		if at >= 0 {
			as(&t.Columns[at])
		}
	}
	info, err := s.client.GetPrimaryKeys(ctx, ref)
	if err == nil {
		err = s.rows(ctx, info, func(cell func(int) string) error {
			mark(cell(3), func(c *source.TableColumn) { c.Key = true })
			return nil
		})
	}
	if err == nil {
		info, err = s.client.GetImportedKeys(ctx, ref)
	}
	if err == nil {
		err = s.rows(ctx, info, func(cell func(int) string) error {
			mark(cell(7), func(c *source.TableColumn) { c.References = cell(2) })
			return nil
		})
	}
	if status.Code(err) == codes.Unimplemented {
		return nil
	}
	return err
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
		err := s.entries(counting, "select count(*) from "+dialect{}.Name(t.Name), nil, func(cell func(int) string) {
			if n, err := strconv.ParseInt(cell(0), 10, 64); err == nil {
				t.Rows = n
			}
		})
		if err != nil {
			return // it took too long, and stays uncounted
		}
	}
}

// Sample reads the first rows of a table or view.
func (s *Server) Sample(ctx context.Context, table string, most int) (out source.Sample, err error) {
	ctx, cancel := context.WithTimeoutCause(ctx, longestSample,
		fmt.Errorf("reading the first rows of %s took longer than %s", table, longestSample))
	defer cancel()
	names, err := s.names(ctx)
	if err != nil {
		return out, err
	}
	if !slices.Contains(names, table) {
		return out, model.NoSuch("table", table, names)
	}
	text := fmt.Sprintf("select * from %s limit %d", dialect{}.Name(table), most)
	err = s.once(ctx, text, nil, func(batch arrow.RecordBatch) error {
		out.Columns = nil
		for _, f := range batch.Schema().Fields() {
			out.Columns = append(out.Columns, f.Name)
		}
		for row := range int(batch.NumRows()) {
			shown := make([]*string, batch.NumCols())
			for col := range shown {
				if text, ok := textOf(batch.Column(col), row); ok {
					shown[col] = cells.Cut([]byte(text))
				}
			}
			out.Rows = append(out.Rows, shown)
		}
		return nil
	})
	return out, err
}

// names are those of the tables and views.
func (s *Server) names(ctx context.Context) (names []string, err error) {
	signed, err := s.signed(ctx)
	if err != nil {
		return nil, s.explain(ctx, err)
	}
	info, err := s.client.GetTables(signed, &flightsql.GetTablesOpts{})
	if err == nil {
		err = s.rows(signed, info, func(cell func(int) string) error {
			names = append(names, cell(2))
			return nil
		})
	}
	return names, s.explain(ctx, err)
}

// Examine looks whether the source can be reached and used, step by step; what cannot be
// looked at after a step that failed is left out.
func (s *Server) Examine(ctx context.Context) (found source.Findings) {
	var of said
	within, err := s.signed(ctx)
	reached := found.Add("reached", func() (string, error) {
		if err == nil {
			of, err = s.says(within)
		}
		return strings.TrimSpace(fmt.Sprintf("%s %s at %s answers", of.name, of.version, s.config.Server.Host)),
			s.explain(ctx, err)
	})
	if !reached {
		return found
	}
	if !found.Add("only read", func() (string, error) {
		return "the server says that it can only be read, and has transactions", s.explain(ctx, of.confined())
	}) {
		return found
	}
	found.Add("round trip", func() (string, error) {
		began := time.Now()
		_, err := s.says(within)
		return fmt.Sprintf("%.1f ms to the server and back", float64(time.Since(began).Microseconds())/1000),
			s.explain(ctx, err)
	})
	found.Lists(ctx, s.config, s)
	return found
}
