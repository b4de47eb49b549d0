package entering

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/entries"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/library/reading"
	"mantilla/model"
)

// Sheet is the columns of a dataset that people fill in, and what they typed.
type Sheet struct {
	Dataset string
	Key     []string // columns whose cells are the key
	Columns []Column
	Entries []Entry
}

// Column is a column that is filled in, and why the person may not, where they may not.
type Column struct {
	*report.Column
	Closed string // "" where it is open to the person
}

// Entry is what stands in a cell, and the number of its row; -1 where the rows lack it.
type Entry struct {
	model.Entry
	Row int
}

// Cell is a cell to be filled in: of a row by its number, or by its key.
type Cell struct {
	Column string
	Row    *int
	Key    []string
	Value  string
	Seen   *int64 // the number of the entry that was seen there, 0 for none; nil for whichever there is
}

// place is a dataset of a result that people fill in.
type place struct {
	result *reading.Result
	set    *report.Dataset
	keys   []string       // by row
	rows   map[string]int // the first row of each key
}

// find finds the dataset: the one named, or the first that people fill in.
func (a *Access) find(ctx context.Context, result int64, dataset string) (p place, err error) {
	if p.result, err = a.reading.Result(ctx, result); err != nil {
		return p, err
	}
	d := p.result.Definition
	var filled []string
	for i := range d.Datasets {
		if d.Datasets[i].HasEntries() {
			filled = append(filled, d.Datasets[i].ID)
		}
	}
	if len(filled) == 0 {
		return p, model.Refuse("result", "people type nothing in beside the rows of R-%06d; its report declares no entry",
			result)
	}
	if dataset == "" {
		dataset = filled[0]
	}
	if !slices.Contains(filled, dataset) {
		return p, model.NoSuch("dataset that people fill in", dataset, filled)
	}
	p.set = d.Dataset(dataset)
	of, err := a.reading.Read(ctx, p.result, dataset+".rows", ask.Changes{})
	if err != nil {
		return p, err
	}
	batches, _, err := of.Batches(ctx, p.set.Key)
	if err != nil {
		return p, err
	}
	p.rows = map[string]int{}
	for _, b := range batches {
		for row := range b.Rows {
			key := entries.KeyOf(b, row)
			if _, twice := p.rows[key]; !twice {
				p.rows[key] = len(p.keys)
			}
			p.keys = append(p.keys, key)
		}
	}
	return p, nil
}

// closed tells why a person may not fill a column in; "" where they may.
func (a *Access) closed(p place, c *report.Column) string {
	e := c.Entry
	switch {
	case !a.Has(access.Run):
		return "typing in needs the role runner"
	case len(e.Who) > 0 && !slices.ContainsFunc(e.Who, func(g string) bool {
		return slices.Contains(a.Person().Groups,
			g)
	}):
		return "it is filled in by " + strings.Join(e.Who, ", ")
	case e.Until == report.UntilSigned && p.result.Signed:
		return "the result is signed off"
	case e.Until != "" && e.Until != report.UntilSigned:
		last, err := period.ParseDay(e.Until)
		if err == nil && period.DayOf(a.room.org.Now(), a.room.org.Zone) > last {
			return "it was open until " + last.Long()
		}
	}
	return ""
}

// Entries are what people typed in beside the rows of a result. Those whose rows the result lacks
// are among them for whoever sees all units: they are lost only to sight.
func (a *Access) Entries(ctx context.Context, result int64, dataset string) (s Sheet, err error) {
	p, err := a.find(ctx, result, dataset)
	if err != nil {
		return s, err
	}
	s = Sheet{Dataset: p.set.ID, Key: p.set.Key}
	for _, c := range entries.Columns(p.set) {
		s.Columns = append(s.Columns, Column{c, a.closed(p, c)})
	}
	all, err := a.room.records.Entries(ctx, p.result.Report, p.set.ID, p.asOf())
	if err != nil {
		return s, err
	}
	for _, e := range all {
		row, there := p.rows[e.Key]
		switch {
		case there:
			s.Entries = append(s.Entries, Entry{e, row})
		case e.Value != "" && !a.Limited():
			s.Entries = append(s.Entries, Entry{e, -1})
		}
	}
	return s, nil
}

// Cell is everything that was ever typed into a cell of a row, the newest first.
func (a *Access) Cell(ctx context.Context, result int64, dataset, column string, row int) ([]model.Entry, error) {
	p, err := a.find(ctx, result, dataset)
	if err != nil {
		return nil, err
	}
	if _, err := p.column(column); err != nil {
		return nil, err
	}
	key, err := p.key(Cell{Row: &row})
	if err != nil {
		return nil, err
	}
	return a.room.records.Cell(ctx, p.result.Report, p.set.ID, column, key)
}

func (p place) column(id string) (*report.Column, error) {
	var known []string
	for _, c := range entries.Columns(p.set) {
		if c.ID == id {
			return c, nil
		}
		known = append(known, c.ID)
	}
	return nil, model.NoSuch("column that people fill in", id, known)
}

// key is the key of a cell's row, which the result must have.
func (p place) key(c Cell) (string, error) {
	if c.Row != nil {
		if *c.Row < 0 || *c.Row >= len(p.keys) {
			return "", fmt.Errorf("there is no row %d; they go from 0 to %d", *c.Row, len(p.keys)-1)
		}
		return p.keys[*c.Row], nil
	}
	if len(c.Key) != len(p.set.Key) {
		return "", fmt.Errorf("a key has the parts %s", strings.Join(p.set.Key, ", "))
	}
	key := entries.Key(c.Key)
	if _, there := p.rows[key]; !there {
		return "", fmt.Errorf("no row has the key %s", strings.Join(c.Key, ", "))
	}
	return key, nil
}
