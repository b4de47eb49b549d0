package files

import (
	"bytes"
	"fmt"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	"mantilla/core/fold"
	"mantilla/grid"
	"mantilla/source"
)

// Looked is what a file seems to hold.
type Looked struct {
	Text    string // the declaration of a source with a table for it
	Columns []string
	Rows    [][]string // the first below the headings
	Sheets  []string   // of a workbook
}

// How much of a file is looked at, and shown.
const (
	mostLooked = 1000
	mostShown  = 10
)

// Look tells what a file seems to hold: how it is written, where its headings are, and of
// which type each column is in all rows that are looked at. What it tells is to be read before
// it is believed.
func Look(name string, data []byte) (Looked, error) {
	separator := ""
	if !grid.IsWorkbook(data) && !grid.IsColumnar(data) {
		separator = separatorOf(data)
	}
	file, err := grid.Open(data, grid.Form{Separator: separator})
	if err != nil {
		return Looked{}, err
	}
	defer func() { _ = file.Close() }() // it is only read
	out := Looked{}
	if file.Workbook() {
		out.Sheets = file.Sheets
	}
	for _, sheet := range file.Sheets {
		heads, rows, err := table(file, sheet)
		if err != nil {
			return Looked{}, err
		}
		if len(heads) == 0 {
			continue
		}
		g := guess{data: data, separator: separator, sheet: sheet, rows: rows}
		t := g.table(heads)
		out.Columns, out.Rows = heads, rows[:min(len(rows), mostShown)]
		out.Text = declarationOf(name, t)
		return out, nil
	}
	return Looked{}, fmt.Errorf("no row of it looks like headings with rows below")
}

// separatorOf is what stands most evenly in the first lines of a text.
func separatorOf(data []byte) string {
	lines := bytes.SplitN(data[:min(len(data), 64<<10)], []byte("\n"), 40)
	best, most := "comma", 0
	for _, s := range []struct{ name, mark string }{{"semicolon", ";"}, {"tab", "\t"}, {"bar", "|"}, {"comma", ","}} {
		counts := map[int]int{}
		for _, line := range lines[:max(len(lines)-1, 1)] {
			counts[bytes.Count(line, []byte(s.mark))]++
		}
		for n, times := range counts {
			if score := n * times; n > 0 && score > most && times*2 > len(lines)-2 {
				best, most = s.name, score
			}
		}
	}
	return best
}

// table is the headings of a sheet, which are the first row of those with most cells where the
// file does not name its columns, and the rows below.
func table(file *grid.File, sheet string) (heads []string, rows [][]string, err error) {
	var all [][]string
	err = file.Each(sheet, func(_ grid.Place, row []string) error {
		if len(all) == mostLooked+mostBefore {
			return grid.ErrEnough
		}
		cut := make([]string, len(row))
		for i, cell := range row {
			cut[i] = strings.TrimSpace(cell)
		}
		for len(cut) > 0 && cut[len(cut)-1] == "" {
			cut = cut[:len(cut)-1]
		}
		all = append(all, cut)
		return nil
	})
	at := -1
	if len(file.Columns()) > 0 && len(all) > 0 {
		return all[0], all[1:], err
	}
	for i := range all[:min(len(all), mostBefore)] {
		full := !slices.Contains(all[i], "")
		if full && (at < 0 || len(all[i]) > len(all[at])) {
			at = i
		}
	}
	if err != nil || at < 0 || at+1 == len(all) {
		return nil, nil, err
	}
	return all[at], all[at+1:], nil
}

// guess finds how a file is written, and of which types its columns are.
type guess struct {
	data      []byte
	separator string
	sheet     string
	rows      [][]string
}

// ways are how numbers and days may be written, the commonest first.
var ways = func() (all []grid.Form) {
	for _, dates := range []string{"iso", "dmy", "mdy"} {
		for _, decimal := range []string{"point", "comma"} {
			all = append(all, grid.Form{Decimal: decimal, Dates: dates})
		}
	}
	return all
}()

// table is the way in which most columns are something else than texts.
func (g *guess) table(heads []string) source.FileTable {
	best, most := source.FileTable{}, -1
	for _, way := range ways {
		way.Separator = g.separator
		file, err := grid.Open(g.data, way)
		if err != nil {
			continue
		}
		t := source.FileTable{Separator: g.separator, Decimal: way.Decimal, Dates: way.Dates, Sheet: g.sheet}
		sure, used := 0, map[string]bool{}
		for i, head := range heads {
			c := g.column(file, i)
			if known := file.Columns(); i < len(known) && known[i].Type != "" {
				c = typed(known[i])
			}
			c.Name, c.Heading = nameOf(head, used), head
			if c.Type != "text" {
				sure++
			}
			t.Columns = append(t.Columns, c)
		}
		_ = file.Close() // it was only read
		if sure > most {
			best, most = t, sure
		}
		if grid.IsColumnar(g.data) {
			break // they are written in one way
		}
	}
	return best
}

// typed is a column that its file says the type of. What has more places than are held here, or
// fewer than none, is declared as near as can be.
func typed(c grid.Column) source.FileColumn {
	return source.FileColumn{Type: c.Type, Scale: min(max(c.Scale, 0), source.MostFileScale)}
}

var (
	numeric = regexp.MustCompile(`^[-+−]?[\d.,' \x{a0}\x{202f}]*\d$`)
	leading = regexp.MustCompile(`^-?0\d`)
)

// column is the first type that all values of a column are of.
func (g *guess) column(file *grid.File, at int) source.FileColumn {
	var values []string
	for _, row := range g.rows {
		if at < len(row) && row[at] != "" {
			values = append(values, row[at])
		}
	}
	all := func(is func(string) bool) bool {
		return len(values) > 0 && !slices.ContainsFunc(values, func(v string) bool { return !is(v) })
	}
	number := func(scale int32) func(string) bool {
		return func(v string) bool {
			_, err := file.Number(v, scale)
			return err == nil && numeric.MatchString(v) && !leading.MatchString(v) // 0815 is no number
		}
	}
	day := func(v string) bool { _, err := file.Day(v); return err == nil && (file.Workbook() || len(v) <= 10) }
	switch {
	case !file.Workbook() && all(day):
		return source.FileColumn{Type: "date"}
	case all(func(v string) bool { _, err := file.Moment(v); return err == nil && !file.Workbook() }):
		return source.FileColumn{Type: "timestamp"}
	case all(func(v string) bool {
		_, err := file.Flag(v)
		return err == nil && !numeric.MatchString(v) && v != "-" && len(v) > 1
	}):
		return source.FileColumn{Type: "flag"}
	case all(number(0)):
		return source.FileColumn{Type: "integer"}
	}
	for _, scale := range []int32{1, 2, 3, 4, 6, 9} {
		if all(number(scale)) {
			return source.FileColumn{Type: "decimal", Scale: scale}
		}
	}
	return source.FileColumn{Type: "text"}
}

// nameOf is a name for a heading that no other has.
func nameOf(head string, used map[string]bool) string {
	var b strings.Builder
	for _, r := range fold.Text(head) {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			b.WriteRune(r)
		} else if b.Len() > 0 && !strings.HasSuffix(b.String(), "_") {
			b.WriteByte('_')
		}
	}
	name := strings.TrimSuffix(b.String(), "_")
	if name == "" || name[0] >= '0' && name[0] <= '9' {
		name = strings.TrimSuffix("column_"+name, "_")
	}
	for plain, n := name, 2; used[name]; n++ {
		name = fmt.Sprintf("%s_%d", plain, n)
	}
	used[name] = true
	return name
}

// declarationOf writes a source with a table for a file.
func declarationOf(file string, t source.FileTable) string {
	name := nameOf(strings.TrimSuffix(filepath.Base(file), filepath.Ext(file)), map[string]bool{})
	var b strings.Builder
	fmt.Fprintf(&b, "source: %s\ntitle: %q\nkind: files\ntables:\n  %s:\n", strings.ReplaceAll(name, "_", "-"),
		strings.TrimSuffix(filepath.Base(file), filepath.Ext(file)), name)
	switch {
	case t.Sheet != "":
		fmt.Fprintf(&b, "    sheet: %q\n", t.Sheet)
	case t.Separator != "":
		fmt.Fprintf(&b, "    separator: %s\n", t.Separator)
	}
	fmt.Fprintf(&b, "    decimal: %s\n    dates: %s\n    faults: refuse   # or skip: lines that do not fit are left out\n"+
		"    columns:\n", t.Decimal, t.Dates)
	for _, c := range t.Columns {
		scale := ""
		if c.Scale > 0 {
			scale = fmt.Sprintf(", scale: %d", c.Scale)
		}
		fmt.Fprintf(&b, "      - {name: %s, heading: %q, type: %s%s}\n", c.Name, c.Heading, c.Type, scale)
	}
	return b.String()
}
