package meaning

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/library/catalog"
	"mantilla/model"
	"mantilla/source"
)

// Column is a column of a report's dataset with what it means and where it comes from.
type Column struct {
	*report.Column
	Report  string
	Dataset string
	Term    *model.Term // that it points to; nil for none
	Formula string      // that it is computed by; "" where it is read
	MadeOf  []string    // the columns of the dataset in the formula
	SQL     string      // that it is read by; "" where it is computed
	Tables  []string    // that its SQL, or that of the columns it is made of, reads
}

// Origin is where the columns of a report or a result come from.
type Origin struct {
	Columns    []Column
	Statements map[string]source.Statement // by dataset, with what was bound; those of a result only
	Unknown    string                      // why the SQL cannot be told; "" where it can
}

func sorted[T any](m map[string]T) []string { return slices.Sorted(maps.Keys(m)) }

// OfReport tells what the columns of a report mean and where they come from.
func (a *Access) OfReport(ctx context.Context, id string) (Origin, error) {
	d, err := a.catalog.Report(id)
	if err != nil {
		return Origin{}, err
	}
	return a.room.origin(ctx, d, d), nil
}

// OfResult tells what the columns of a result mean and where its figures come from: by the
// version of the report that it was made by.
func (a *Access) OfResult(ctx context.Context, number int64) (Origin, error) {
	r, err := a.reading.Result(ctx, number)
	if err != nil {
		return Origin{}, err
	}
	if m := r.Manifest.Made; m != nil {
		o := a.room.origin(ctx, r.Definition, r.Definition)
		first, last := m.Of[0].Result, m.Of[len(m.Of)-1].Result
		switch {
		case len(m.Of) == 1:
			o.Unknown = fmt.Sprintf("its rows are made of R-%06d; see there where they come from", first)
		case len(m.Of) == 2:
			o.Unknown = fmt.Sprintf("its rows are made of R-%06d and R-%06d; see there where they come from", first, last)
		default:
			o.Unknown = fmt.Sprintf("its rows are made of %d results, from R-%06d to R-%06d; see there where they come from",
				len(m.Of), first, last)
		}
		return o, nil
	}
	full, err := a.room.catalog.Version(ctx, r.Report, r.Manifest.Version, r.Manifest.Currency)
	if err != nil {
		o := a.room.origin(ctx, r.Definition, r.Definition)
		o.Unknown = "the version of the report that made it cannot be read any more: " + err.Error()
		return o, nil
	}
	settled := full.Settle(r.Values)
	o := a.room.origin(ctx, r.Definition, settled)
	src, err := a.room.catalog.Source(settled.Source)
	if err != nil {
		o.Unknown = err.Error()
		return o, nil
	}
	queries, err := query.Plan(settled, r.Values, r.Manifest.Reach, src.Dialect().Quotes())
	if err != nil {
		o.Unknown = err.Error()
		return o, nil
	}
	o.Statements = map[string]source.Statement{}
	for _, q := range queries {
		o.Statements[q.Dataset.ID] = source.Write(q, src.Dialect())
	}
	return o, nil
}

// origin tells of the columns of a definition, as far as its SQL is known by another
// reading of it.
func (room *Room) origin(ctx context.Context, d, full *report.Definition) (o Origin) {
	tables, err := room.tables(ctx, full.Source)
	if err != nil {
		o.Unknown = err.Error()
	}
	for i := range d.Datasets {
		set := &d.Datasets[i]
		for j := range set.Columns {
			c := Column{Report: d.ID, Dataset: set.ID, Column: &set.Columns[j], Term: room.term(set.Columns[j].Means),
				Formula: formulaOf(&set.Columns[j]), MadeOf: set.MadeOf(&set.Columns[j])}
			if whole := full.Dataset(set.ID); whole != nil {
				c.SQL, c.Tables = readBy(whole, c.Column, tables)
			}
			o.Columns = append(o.Columns, c)
		}
	}
	return o
}

// formulaOf is how a column is computed; "" where it is read.
func formulaOf(c *report.Column) string {
	switch {
	case c.Percent != nil:
		return fmt.Sprintf("100 * %s / %s", c.Percent.Of, c.Percent.By)
	case c.Difference != nil:
		return fmt.Sprintf("%s - %s", c.Difference.Of, c.Difference.From)
	}
	return c.Formula
}

// readBy is the SQL of a column, and the tables that it reads with all that it is made of.
func readBy(set *report.Dataset, c *report.Column, tables []source.Table) (sql string, reads []string) {
	of := map[string]bool{}
	var gather func(c *report.Column)
	gather = func(c *report.Column) {
		if of[c.ID] {
			return
		}
		of[c.ID] = true
		for _, id := range set.MadeOf(c) {
			gather(set.Column(id))
		}
	}
	whole := set.Column(c.ID)
	if whole == nil {
		return "", nil
	}
	gather(whole)
	for _, t := range tables {
		if set.From.Speaks(t.Name) && reachedBy(set, of, t, tables) {
			reads = append(reads, t.Name)
		}
	}
	if formulaOf(c) == "" {
		sql = whole.Is.SQL
	}
	return sql, reads
}

// reachedBy tells whether some columns read a table: their SQL names it, or names a column
// that no other table of the query has. Where the SQL of none of them tells, each table of
// the query may be meant.
func reachedBy(set *report.Dataset, of map[string]bool, t source.Table, tables []source.Table) bool {
	told := false
	for i := range set.Columns {
		c := &set.Columns[i]
		if !of[c.ID] || c.Formula != "" {
			continue
		}
		for _, other := range tables {
			if !set.From.Speaks(other.Name) || !names(c.Is, other, set, tables) {
				continue
			}
			told = true
			if other.Name == t.Name {
				return true
			}
		}
	}
	return !told
}

// names tells whether a piece names a table, or a column that it alone has.
func names(p report.Piece, t source.Table, set *report.Dataset, tables []source.Table) bool {
	if p.Speaks(t.Name) || p.Speaks(aliasOf(set.From.SQL, t.Name)) {
		return true
	}
	for _, c := range t.Columns {
		if !p.Speaks(c.Name) {
			continue
		}
		alone := !slices.ContainsFunc(tables, func(other source.Table) bool {
			return other.Name != t.Name && set.From.Speaks(other.Name) &&
				slices.ContainsFunc(other.Columns, func(o source.TableColumn) bool { return o.Name == c.Name })
		})
		if alone {
			return true
		}
	}
	return false
}

// afterTable are words that may follow a table's name without being another name for it.
var afterTable = []string{"join", "on", "where", "left", "right", "full", "inner", "cross", "natural", "using", "group",
	"order", "union", "select", "limit"}

// aliasOf is the name that a table has within SQL; "" where it has no other.
func aliasOf(sql, table string) string {
	words := strings.Fields(strings.NewReplacer(",", " , ", "(", " ( ", ")", " ) ").Replace(sql))
	for i, w := range words {
		if !strings.EqualFold(w, table) {
			continue
		}
		next := i + 1
		if next < len(words) && strings.EqualFold(words[next], "as") {
			next++
		}
		if next < len(words) && !slices.Contains(afterTable, strings.ToLower(words[next])) &&
			strings.Trim(words[next], ",()") != "" {
			return words[next]
		}
	}
	return ""
}

// tables are those of a source.
func (room *Room) tables(ctx context.Context, id string) ([]source.Table, error) {
	src, err := room.catalog.Source(id)
	if err != nil {
		return nil, err
	}
	asked, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	tables, err := src.Tables(asked)
	if errors.Is(err, context.DeadlineExceeded) || asked.Err() != nil && ctx.Err() == nil {
		err = fmt.Errorf("the source %s does not answer within %s", id, patience)
	}
	return tables, err
}

// patience is how long whoever reads what columns mean waits for the source to say where they come from.
const patience = 2 * time.Second

// explains tells of the columns of a dataset what they mean, for what is taken away.
func (room *Room) explains(c *report.Column) string {
	t := room.term(c.Means)
	switch {
	case t != nil && c.About != "":
		return c.About + " " + t.Name + ": " + t.Meaning
	case t != nil:
		return t.Name + ": " + t.Meaning
	}
	return c.About
}

var _ catalog.Known = (*Room)(nil)
