package document

import (
	"context"
	"net/url"
	"slices"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/sheet"
	"mantilla/core/shown"
)

// Table is a sheet as people read it, in texts. Where lines are grouped, the
// first column names the groups.
type Table struct {
	Heads []Head
	Named bool // the first column names groups
	Total []string

	document *Document
	sheet    *sheet.Sheet
	stacked  bool
}

// Head is the heading of a column; Over are those it stands under, outermost
// first.
type Head struct {
	Over  []string
	Text  string
	Right bool
	Blank bool // to be filled in by hand
	Kind  frame.Kind
}

// Line is one line of a table.
type Line struct {
	Kind      sheet.LineKind
	Level     int // of a group, 1 outermost; 0 of totals
	Below     int // lines below a group
	Cells     []string
	Tone      string
	Tones     []string // of cells; nil where none has any
	Addresses []string // where cells lead; nil where none does
}

// Read returns a sheet as a table. Charts are read as their figures.
func (d *Document) Read(s *sheet.Sheet) *Table {
	t := &Table{document: d, sheet: s, Named: len(s.Levels) > 0 && s.Chart == nil}
	if s.Chart != nil {
		for _, c := range s.Grid().Columns {
			t.Heads = append(t.Heads, Head{Text: c.Heading, Right: c.Field.Kind.Numeric(), Kind: c.Field.Kind})
		}
		return t
	}
	if t.Named {
		var labels []string
		for _, l := range s.Levels {
			labels = append(labels, l.Label)
		}
		t.Heads = append(t.Heads, Head{Text: strings.Join(labels, " › ")})
	}
	if t.stacked = s.View.Stacked && s.View.Show == "crosstab"; t.stacked {
		t.Heads = append(t.Heads, Head{Text: "Measure"})
	}
	for _, c := range s.Columns {
		h := Head{Over: c.Heads, Text: shown.Heading(c.Column), Right: shown.RightAligned(c.Column), Kind: c.Field.Kind}
		switch {
		case t.stacked && len(c.Heads) > 0:
			h.Over, h.Text = c.Heads[:len(c.Heads)-1], c.Heads[len(c.Heads)-1]
		case t.stacked:
			h.Text = "Total"
		case len(c.Heads) == 0 && len(s.AcrossLevels()) > 0:
			h.Over = []string{"Total"}
		case c.Under != "":
			h.Over = []string{c.Under}
		}
		t.Heads = append(t.Heads, h)
	}
	for _, b := range s.View.Blanks {
		t.Heads = append(t.Heads, Head{Text: b, Blank: true})
	}
	if s.HasTotals() {
		t.Total = t.total()
	}
	return t
}

// Over returns how many rows of headings stand over the lowest one.
func (t *Table) Over() (deep int) {
	for _, h := range t.Heads {
		deep = max(deep, len(h.Over))
	}
	return deep
}

func (t *Table) total() []string {
	out := make([]string, len(t.Heads))
	before := t.before()
	for i, x := range t.sheet.Totals {
		if x.Op != frame.NoTotal {
			out[before+i] = t.text(x.Value)
			if name := opNames[x.Op]; name != "" && out[before+i] != "" {
				out[before+i] = name + " " + out[before+i]
			}
		}
	}
	if before > 0 || out[0] == "" {
		out[0] = "Total"
	}
	return out
}

// opNames are the totals that are no sums, as they are named in the line of
// totals.
var opNames = map[frame.Op]string{frame.Avg: "avg", frame.Min: "min", frame.Max: "max", frame.Count: "count",
	frame.Distinct: "distinct",
	frame.Median:   "median", frame.Stddev: "stddev", frame.First: "first", frame.Last: "last"}

// before is how many columns stand before those of the sheet.
func (t *Table) before() (n int) {
	if t.Named {
		n++
	}
	if t.stacked {
		n++
	}
	return n
}

func (t *Table) text(v frame.Value) string { return t.document.Form.Text(v) }

// Each hands on the lines in order, some thousand at a time.
func (t *Table) Each(ctx context.Context, visit func([]Line) error) error {
	if t.sheet.Chart != nil {
		return t.sheet.Grid().Each(ctx, func(cells []frame.Value) error {
			return visit([]Line{{Kind: sheet.RowLine, Cells: t.texts(cells)}})
		})
	}
	return t.sheet.LinesInTurn(ctx, func(lines []sheet.Line) error {
		out := make([]Line, len(lines))
		for i, l := range lines {
			out[i] = t.line(l)
		}
		return visit(out)
	})
}

func (t *Table) texts(cells []frame.Value) []string {
	out := make([]string, len(cells))
	for i, v := range cells {
		out[i] = t.text(v)
	}
	return out
}

func (t *Table) line(l sheet.Line) Line {
	before := t.before()
	out := Line{Kind: l.Kind, Level: l.Level, Below: l.Below, Cells: make([]string, len(t.Heads)), Tone: l.Tone}
	for i, v := range l.Cells {
		out.Cells[before+i] = t.text(v)
	}
	if l.Tones != nil {
		out.Tones = append(make([]string, before), l.Tones...)
		out.Tones = append(out.Tones, make([]string, len(t.Heads)-len(out.Tones))...)
	}
	if l.Kind == sheet.RowLine {
		if addresses := t.Addresses(l); addresses != nil {
			out.Addresses = append(make([]string, before, len(t.Heads)), addresses...)
			out.Addresses = append(out.Addresses, make([]string, len(t.Heads)-len(out.Addresses))...)
		}
		return out
	}
	if t.stacked {
		out.Cells[before-1] = shown.Heading(*t.sheet.Dataset.Column(t.sheet.View.Cells[l.Measure]))
	}
	if t.Named && l.Measure == 0 {
		out.Cells[0] = t.sheet.KeyText(l.Key)
		if l.Level == 0 {
			out.Cells[0] = "Total"
		}
	}
	return out
}

// Addresses says where the cells of a row of the sheet lead, by column; nil
// where none leads anywhere.
func (t *Table) Addresses(l sheet.Line) (out []string) {
	for i, c := range t.sheet.Columns {
		if c.Opens == nil || l.Cells[i].Null {
			continue
		}
		if address := t.address(c, l); address != "" {
			if out == nil {
				out = make([]string, len(t.sheet.Columns))
			}
			out[i] = address
		}
	}
	return out
}

func (t *Table) address(c sheet.Column, l sheet.Line) string {
	of := func(id string) string {
		if at := slices.Index(t.sheet.Links, id); at >= 0 && at < len(l.Links) {
			return l.Links[at].String()
		}
		return ""
	}
	if c.Opens.Address != "" {
		address := c.Opens.Address
		for _, id := range c.Opens.Fields() {
			address = strings.ReplaceAll(address, "{"+id+"}", url.PathEscape(of(id)))
		}
		return address
	}
	if t.document.Base == "" {
		return ""
	}
	with := url.Values{}
	for _, f := range c.Opens.With {
		value := of(f.From)
		for _, v := range t.document.Values {
			if f.From == ":"+v.Parameter {
				value = v.Resolved
			}
		}
		with.Set(f.Parameter, value)
	}
	return t.document.Base + "/open/" + c.Opens.Report + "?" + with.Encode()
}

// Leading is how many columns at the beginning tell a line from all others: the
// names of groups, and the columns of the key with what stands before them.
func (t *Table) Leading() int {
	lead := 1
	if t.Named {
		lead = 0
	}
	for i, c := range t.sheet.Columns {
		if t.sheet.IsFigure(c.ID) {
			break
		}
		if slices.Contains(t.sheet.Dataset.Key, c.ID) {
			lead = i + 1
		}
	}
	if t.Named {
		lead++
	}
	return max(lead, 1)
}
