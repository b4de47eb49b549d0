package source

import (
	"strings"

	"mantilla/core/query"
	"mantilla/core/report"
)

// Dialect is how an engine writes what engines write differently.
type Dialect interface {
	// String is its name, as definitions switch by it.
	String() string
	// Quotes are the marks that begin what is quoted in its SQL.
	Quotes() report.Quotes
	// Name writes a name.
	Name(id string) string
	// Bind writes what stands for a value, of the kinds of [query.Value], and adds
	// to args what is bound there. What stands for strings can follow "in".
	Bind(args *[]any, value any) string
	// Instant writes that a piece, as it is or bound, is read as a day or a moment,
	// so that it can be compared. Where is named by a fault of a row.
	Instant(piece, where string, moments bool) string
	// Holds writes that a text holds a word, whatever the case and, where the engine can, the
	// accents.
	Holds(args *[]any, piece, word string) string
	// Limit writes that only so many rows are read.
	Limit(count string) string
}

// Statement is a query as an engine reads it.
type Statement struct {
	Dataset *report.Dataset
	Text    string
	Args    []any // in the order in which they stand in the text
}

// Write writes a query in a dialect.
func Write(q query.Query, d Dialect) Statement {
	w := writer{dialect: d, query: q}
	if q.Newest != nil && len(q.Each) > 0 {
		w.ranked()
	} else {
		w.plain()
	}
	return Statement{Dataset: q.Dataset, Text: w.text.String(), Args: w.args}
}

// writer writes one statement. Values are bound in the order of writing.
type writer struct {
	dialect Dialect
	query   query.Query
	text    strings.Builder
	args    []any
}

// plain writes all rows, or the first by an order.
func (w *writer) plain() {
	w.columns()
	w.rows()
	if w.query.Newest != nil {
		w.list("\norder by ", w.query.Order)
		w.text.WriteString("\n" + w.dialect.Limit(w.dialect.Bind(&w.args, w.query.Newest.Is)))
	}
}

// ranked writes the first rows of each: they are numbered by the order, after all
// conditions.
func (w *writer) ranked() {
	var names []string
	for _, c := range w.query.Columns {
		names = append(names, w.dialect.Name(c.ID))
	}
	w.text.WriteString("select " + strings.Join(names, ", ") + "\nfrom (")
	w.columns()
	w.text.WriteString(", row_number() over (")
	w.list("partition by ", w.query.Each)
	w.list(" order by ", w.query.Order)
	w.text.WriteString(") as rank_of_each")
	w.rows()
	w.text.WriteString("\n) ranked\nwhere rank_of_each <= " + w.dialect.Bind(&w.args, w.query.Newest.Is))
}

func (w *writer) columns() {
	for i, c := range w.query.Columns {
		w.joint(i, "select ", ", ")
		w.piece(c.Is)
		w.text.WriteString(" as " + w.dialect.Name(c.ID))
	}
}

// rows writes where rows come from, which of them, and how they are grouped.
func (w *writer) rows() {
	w.text.WriteString("\nfrom ")
	w.piece(w.query.From)
	for i, c := range w.query.Where {
		w.joint(i, "\nwhere ", "\n  and ")
		w.text.WriteString("(")
		switch {
		case c.Within != nil:
			w.within(c)
			w.text.WriteString(")")
		case c.Among != nil:
			w.piece(c.Is)
			w.text.WriteString(") in " + w.dialect.Bind(&w.args, c.Among.Is))
		default:
			w.piece(c.Is)
			w.text.WriteString(")")
		}
	}
	w.list("\ngroup by ", w.query.Group)
}

// within writes that a day or moment lies in those of a parameter. Without any it
// lies in none, which only the check of a definition asks for.
func (w *writer) within(c query.Condition) {
	if !c.Within.Moments {
		w.compared(c, ">=", c.Within.Days.First)
		w.text.WriteString(" and ")
		w.compared(c, "<=", c.Within.Days.Last)
		return
	}
	if len(c.Within.Spans) == 0 {
		w.compared(c, "=", nil)
		return
	}
	for i, span := range c.Within.Spans {
		w.joint(i, "", " or ")
		w.compared(c, ">=", span.From)
		w.text.WriteString(" and ")
		w.compared(c, "<", span.To)
	}
}

func (w *writer) compared(c query.Condition, op string, value any) {
	instant := func(piece string) string { return w.dialect.Instant(piece, c.Within.Where, c.Within.Moments) }
	w.text.WriteString(instant(w.written(c.Is)) + " " + op + " ")
	w.text.WriteString(instant(w.dialect.Bind(&w.args, value)))
}

func (w *writer) list(before string, pieces []query.Piece) {
	for i, p := range pieces {
		w.joint(i, before, ", ")
		w.piece(p)
	}
}

// joint writes what stands before the first of several, or between them.
func (w *writer) joint(i int, before, between string) {
	if i == 0 {
		w.text.WriteString(before)
		return
	}
	w.text.WriteString(between)
}

func (w *writer) piece(p query.Piece) { w.text.WriteString(w.written(p)) }

// written is a piece as text, with its values bound.
func (w *writer) written(p query.Piece) string {
	var b strings.Builder
	for _, part := range p {
		if part.Value == nil {
			b.WriteString(part.Text)
			continue
		}
		b.WriteString(w.dialect.Bind(&w.args, part.Value.Is))
	}
	return b.String()
}
