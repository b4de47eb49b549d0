package statement

import (
	"strings"

	"mantilla/core/reconcile"
	"mantilla/grid"
)

// mostBefore is how many rows may stand before the headings.
const mostBefore = 40

// columns are where the declared headings stand in a row; -1 for one that is not there.
type columns struct{ day, amount, reference, text, currency int }

// headings finds the declared headings in a row; ok where day and amount are there.
func (r *reader) headings(row []string) (c columns, ok bool) {
	at := func(heading string) int {
		for i, cell := range row {
			if heading != "" && strings.EqualFold(strings.TrimSpace(cell), heading) {
				return i
			}
		}
		return -1
	}
	f := r.by.File
	c = columns{at(f.Day), at(f.Amount), at(f.Reference), at(f.Text), at(f.Currency)}
	return c, c.day >= 0 && c.amount >= 0
}

// missing tells which declared headings are not there.
func (r *reader) missing(place string, c columns) {
	f := r.by.File
	for _, h := range []struct {
		heading string
		at      int
	}{{f.Reference, c.reference}, {f.Text, c.text}, {f.Currency, c.currency}} {
		if h.heading != "" && h.at < 0 {
			r.fault(place, "there is no column %q", h.heading)
		}
	}
}

// rows reads the first sheet that has the headings: of a workbook, or a CSV file.
func (r *reader) rows(data []byte) {
	if r.by.File.Day == "" {
		r.fault("", "%s is read from camt.053 alone; its headings in CSV and XLSX are not declared", r.by.Title)
		return
	}
	f := r.by.File
	file, err := grid.Open(data, grid.Form{Separator: f.Separator, Decimal: f.Decimal, Dates: f.Dates})
	if err != nil {
		r.fault("", "%v", err)
		return
	}
	defer func() { _ = file.Close() }() // it is only read
	for _, sheet := range file.Sheets {
		if found, err := r.sheet(file, sheet); err != nil {
			r.fault("", "%v", err)
			return
		} else if found {
			return
		}
	}
	if file.Workbook() {
		r.fault("", "no sheet has the headings %q and %q", f.Day, f.Amount)
		return
	}
	r.fault("", "there are no headings %q and %q with %s between; it is neither camt.053 nor XLSX", f.Day, f.Amount,
		f.Separator)
}

// sheet reads a sheet, if the headings are among its first rows.
func (r *reader) sheet(file *grid.File, sheet string) (found bool, err error) {
	var c columns
	before := 0
	err = file.Each(sheet, func(at grid.Place, row []string) error {
		place := at.String()
		switch {
		case found:
			r.row(place, row, c, file)
			return nil
		case before == mostBefore:
			return grid.ErrEnough
		}
		before++
		if c, found = r.headings(row); found {
			r.missing(place, c)
		}
		return nil
	})
	return found, err
}

// row reads a line of a statement; empty rows are none.
func (r *reader) row(place string, row []string, c columns, file *grid.File) {
	cell := func(at int) string {
		if at < 0 || at >= len(row) {
			return ""
		}
		return strings.TrimSpace(row[at])
	}
	if cell(c.day) == "" && cell(c.amount) == "" {
		return
	}
	booked, err := file.Day(cell(c.day))
	if err != nil {
		r.fault(place, "%s: %v", r.by.File.Day, err)
	}
	amount, err := file.Number(cell(c.amount), r.amount.Scale)
	if err != nil {
		r.fault(place, "%s: %v", r.by.File.Amount, err)
	}
	r.currency(place, cell(c.currency))
	r.add(reconcile.Item{Amount: amount, Day: booked, Reference: cell(c.reference), Text: cell(c.text)})
}
