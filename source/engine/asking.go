package engine

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"mantilla/core/frame"
)

// asking is one query while it is written: what is bound, and what the table of the rows is
// joined with.
type asking struct {
	table *Table
	args  []string
	joins string
	cells map[int]string   // how a computed column is written, by its place
	ranks map[int][]string // how a column is ordered by, likewise
	named int              // names that were given
}

func (t *Table) asking() *asking {
	return &asking{table: t, cells: map[int]string{}, ranks: map[int][]string{}}
}

// clone is the query so far, written on by itself.
func (a *asking) clone() *asking {
	out := *a
	out.args, out.cells, out.ranks = slices.Clone(a.args), maps.Clone(a.cells), maps.Clone(a.ranks)
	return &out
}

// from is what the query is of; it is written when all columns are.
func (a *asking) from() string { return " from " + a.table.rows.Name + " t" + a.joins }

// bind writes what stands for a value of a type.
func (a *asking) bind(value, kind string) string {
	a.args = append(a.args, value)
	return fmt.Sprintf("$%d::%s", len(a.args), kind)
}

func (a *asking) text(value string) string { return a.bind(value, "text") + ` collate "C"` }

func (a *asking) int(value int64) string { return a.bind(strconv.FormatInt(value, 10), "bigint") }

func (a *asking) texts(values []string) string { return a.bind(arrayOfTexts(values, nil), "text[]") }

func (a *asking) ints(values []int64) string { return a.bind(arrayOfInts(values, nil), "bigint[]") }

// name is one that nothing else in the query has.
func (a *asking) name() string {
	a.named++
	return fmt.Sprintf("m%d", a.named)
}

// column writes a column of the rows: one that is kept, or one that is computed of each row.
func (a *asking) column(ctx context.Context, col int) (string, error) {
	if col < 0 || col >= len(a.table.schema) {
		return "", fmt.Errorf("there is no column %d", col)
	}
	if col < a.table.own() {
		return fmt.Sprintf("t.c%d", col), nil
	}
	if written, ok := a.cells[col]; ok {
		return written, nil
	}
	written, err := a.computed(ctx, col)
	if err == nil {
		a.cells[col] = written
	}
	return written, err
}

// columns writes several, with commas between, and tells which of them are texts.
func (a *asking) columns(ctx context.Context, columns []int) (list []string, words []bool, err error) {
	for _, col := range columns {
		written, err := a.column(ctx, col)
		if err != nil {
			return nil, nil, err
		}
		list, words = append(list, written), append(words, a.table.schema[col].Kind == frame.Text)
	}
	return list, words, nil
}

// arrayOfTexts writes texts as the engine reads an array; those of nulls have no value.
func arrayOfTexts(values []string, nulls []bool) string {
	escape := strings.NewReplacer(`\`, `\\`, `"`, `\"`)
	var b strings.Builder
	b.WriteByte('{')
	for i, v := range values {
		if i > 0 {
			b.WriteByte(',')
		}
		if nulls != nil && nulls[i] {
			b.WriteString("NULL")
			continue
		}
		b.WriteString(`"` + escape.Replace(v) + `"`)
	}
	return b.String() + "}"
}

// arrayOfInts writes numbers likewise.
func arrayOfInts(values []int64, nulls []bool) string {
	var b []byte
	b = append(b, '{')
	for i, v := range values {
		if i > 0 {
			b = append(b, ',')
		}
		if nulls != nil && nulls[i] {
			b = append(b, "NULL"...)
			continue
		}
		b = strconv.AppendInt(b, v, 10)
	}
	return string(append(b, '}'))
}
