package entering

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"slices"
	"strings"
	"time"

	"mantilla/core/entries"
	"mantilla/library/access"
	"mantilla/model"
)

// Bounds of what is typed in at once.
const (
	mostCells = 20_000
	mostSays  = 500
	mostTold  = 10 // faults
)

// Change is cells that are filled in together.
type Change struct {
	Dataset string
	Says    string // why
	Way     string // typed, pasted or file
	Cells   []Cell
}

// Put fills in cells, all or none. What is wrong is told of every cell; where somebody else filled
// one in since it was seen, the error is a [*model.EntryConflict].
func (a *Access) Put(ctx context.Context, result int64, c Change) ([]model.Entry, error) {
	if err := a.May(access.Run); err != nil {
		return nil, err
	}
	p, err := a.find(ctx, result, c.Dataset)
	if err != nil {
		return nil, err
	}
	return a.put(ctx, p, c, 0)
}

func (a *Access) put(ctx context.Context, p place, c Change, undoes int64) ([]model.Entry, error) {
	if len(c.Cells) == 0 || len(c.Cells) > mostCells {
		return nil, model.Refuse("cells", "1 to %d cells are filled in at once, not %d", mostCells, len(c.Cells))
	}
	if c.Says = strings.TrimSpace(c.Says); len(c.Says) > mostSays {
		return nil, model.Refuse("says", "why has at most %d characters", mostSays)
	}
	present, err := a.present(ctx, p)
	if err != nil {
		return nil, err
	}
	var cells []model.EntryCell
	var faults []string
	seen := map[string]int{} // where among the cells one was filled in before
	for _, cell := range c.Cells {
		made, err := a.cell(p, cell, present)
		if err != nil {
			faults = append(faults, fmt.Sprintf("%s: %v", named(cell), err))
			continue
		}
		at := made.Column + " " + made.Key
		if i, twice := seen[at]; twice {
			cells[i].Value = made.Value
			continue
		}
		seen[at] = len(cells)
		cells = append(cells, made)
	}
	if len(faults) > 0 {
		return nil, model.Refuse("cells", "%s", told(faults))
	}
	cells = slices.DeleteFunc(cells, func(c model.EntryCell) bool { // what stands there already is no change
		is, there := present[c.Column+" "+c.Key]
		return is.Value == c.Value && (there || c.Value == "") && c.Seen == is.Number
	})
	if len(cells) == 0 {
		return []model.Entry{}, nil
	}
	return a.room.records.PutEntries(ctx, p.result.Report, p.set.ID, cells, model.Entry{Person: a.Person().Name,
		At: a.room.org.Now(), Says: c.Says, Way: c.Way, Undoes: undoes})
}

// asOf is as of when what was typed in counts: when the result was signed off, or now.
func (p place) asOf() time.Time {
	if p.result.Signed && len(p.result.Signs) > 0 {
		return p.result.Signs[len(p.result.Signs)-1].At
	}
	return time.Time{}
}

// present is what stands in each cell now.
func (a *Access) present(ctx context.Context, p place) (map[string]model.Entry, error) {
	all, err := a.room.records.Entries(ctx, p.result.Report, p.set.ID, time.Time{})
	out := map[string]model.Entry{}
	for _, e := range all {
		out[e.Column+" "+e.Key] = e
	}
	return out, err
}

// cell checks one cell.
func (a *Access) cell(p place, cell Cell, present map[string]model.Entry) (out model.EntryCell, err error) {
	c, err := p.column(cell.Column)
	if err != nil {
		return out, err
	}
	if why := a.closed(p, c); why != "" {
		return out, fmt.Errorf("%s is closed to you: %s", c.Label, why)
	}
	out.Column = c.ID
	if out.Key, err = p.key(cell); err != nil {
		return out, err
	}
	if out.Value, err = entries.Parse(c, cell.Value, a.Calendar()); err != nil {
		return out, fmt.Errorf("%s: %w", c.Label, err)
	}
	out.Seen = present[out.Column+" "+out.Key].Number
	if cell.Seen != nil {
		out.Seen = *cell.Seen
	}
	return out, nil
}

// named names a cell as whoever typed it in knows it.
func named(c Cell) string {
	if c.Row != nil {
		return fmt.Sprintf("row %d", *c.Row)
	}
	return strings.Join(c.Key, ", ")
}

// told writes faults, the first of them.
func told(faults []string) string {
	faults = slices.Compact(faults)
	if more := len(faults) - mostTold; more > 0 {
		return strings.Join(faults[:mostTold], "; ") + fmt.Sprintf("; and %d more like these", more)
	}
	return strings.Join(faults, "; ")
}

// Undo brings back what stood in the cells that the person changed last, where nobody changed them
// since.
func (a *Access) Undo(ctx context.Context, result int64, dataset string) ([]model.Entry, error) {
	if err := a.May(access.Run); err != nil {
		return nil, err
	}
	p, err := a.find(ctx, result, dataset)
	if err != nil {
		return nil, err
	}
	last, err := a.room.records.LastChange(ctx, p.result.Report, p.set.ID, a.Person().Name)
	if err != nil {
		return nil, err
	}
	if len(last) == 0 {
		return nil, model.Refuse("undo", "there is nothing of yours to be undone here")
	}
	c := Change{Dataset: p.set.ID, Way: model.WayUndone}
	for _, e := range last {
		cell, err := a.room.records.Cell(ctx, p.result.Report, p.set.ID, e.Column, e.Key)
		if err != nil {
			return nil, err
		}
		was, seen := "", e.Number
		// What stands there may be this again, since something later was undone.
		if now := cell[0]; now.Way == model.WayUndone && now.Person == e.Person && now.Value == e.Value {
			seen = now.Number
		}
		for _, earlier := range cell {
			if earlier.Number < e.Number {
				was = earlier.Value
				break
			}
		}
		c.Cells = append(c.Cells, Cell{Column: e.Column, Key: entries.Parts(e.Key), Value: was, Seen: &seen})
	}
	return a.put(ctx, p, c, last[0].Change)
}

// PutFile fills in cells from a CSV file whose headings are columns of the key and columns that
// people fill in, by id or label. Cells that are empty in the file stay as they are; a - takes away
// what stands there.
func (a *Access) PutFile(ctx context.Context, result int64, dataset, says string, data []byte) ([]model.Entry, error) {
	if err := a.May(access.Run); err != nil {
		return nil, err
	}
	p, err := a.find(ctx, result, dataset)
	if err != nil {
		return nil, err
	}
	c := Change{Dataset: p.set.ID, Says: says, Way: model.WayFile}
	if c.Cells, err = p.cellsIn(data); err != nil {
		return nil, model.Refuse("file", "%w", err)
	}
	return a.put(ctx, p, c, 0)
}

// cellsIn reads the cells of a file.
func (p place) cellsIn(data []byte) ([]Cell, error) {
	text := bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	in := csv.NewReader(bytes.NewReader(text))
	if first, _, _ := bytes.Cut(text, []byte("\n")); bytes.Count(first, []byte(";")) > bytes.Count(first, []byte(",")) {
		in.Comma = ';'
	}
	rows, err := in.ReadAll()
	if err != nil {
		return nil, fmt.Errorf("it is no CSV: %w", err)
	}
	if len(rows) < 2 {
		return nil, fmt.Errorf("it has no rows below its headings")
	}
	key, columns := make([]int, len(p.set.Key)), map[int]string{}
	for i := range key {
		key[i] = -1
	}
	var known []string
	for _, c := range p.set.Columns {
		if c.Entry != nil || slices.Contains(p.set.Key, c.ID) {
			known = append(known, c.ID)
		}
	}
	for at, heading := range rows[0] {
		found := false
		for _, id := range known {
			c := p.set.Column(id)
			if h := strings.TrimSpace(heading); !strings.EqualFold(h, id) && !strings.EqualFold(h, c.Label) {
				continue
			}
			found = true
			if c.Entry != nil {
				columns[at] = id
			} else {
				key[slices.Index(p.set.Key, id)] = at
			}
		}
		if !found {
			return nil, fmt.Errorf("the heading %q is neither of the key nor filled in by people; there are %s", heading,
				strings.Join(known, ", "))
		}
	}
	if slices.Contains(key, -1) || len(columns) == 0 {
		return nil, fmt.Errorf("it needs the headings %s, and one at least of what people fill in", strings.Join(p.set.Key,
			", "))
	}
	var out []Cell
	for _, row := range rows[1:] {
		parts := make([]string, len(key))
		for i, at := range key {
			parts[i] = strings.TrimSpace(row[at])
		}
		for at := range row {
			value := strings.TrimSpace(row[at])
			if columns[at] == "" || value == "" {
				continue
			}
			if value == "-" {
				value = ""
			}
			out = append(out, Cell{Column: columns[at], Key: parts, Value: value})
		}
	}
	return out, nil
}
