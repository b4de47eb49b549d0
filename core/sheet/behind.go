package sheet

import (
	"context"
	"fmt"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/ready"
	"mantilla/core/shown"
	"mantilla/core/table"
)

// Behind is a figure of lines that the source grouped, and what selects the rows that
// it was made of in the dataset which holds them.
type Behind struct {
	Filters []string
	Says    string
	Label   string
	Before  frame.Value
	// Compared tells that the figure of the rows is that of the lines: of one line always, of
	// several where they are added up.
	Compared bool
}

// mostBehind is how many values of a column may select rows at once.
const mostBehind = 500

// Behind selects the rows behind a figure; the cell may be that of a row here. It fails
// where there is no such figure, or where its lines cannot be told by filters.
func (s *Sheet) Behind(ctx context.Context, at Cell) (*Behind, error) {
	if at.Row != nil {
		return s.behindRow(ctx, *at.Row, at.Column)
	}
	o, err := s.Open(ctx, at)
	if err != nil {
		return nil, err
	}
	out := &Behind{Says: o.Says, Label: o.Label, Before: o.Before}
	if c := s.Dataset.Column(at.Column); c != nil {
		out.Compared = c.Total == frame.Sum || o.Rows == 1
	}
	if o.Rows == s.of.Rows.Rows() {
		return out, nil
	}
	where, err := s.with(s.of.Where(), o.Filters)
	if err != nil {
		return nil, err
	}
	if out.Filters, err = s.telling(ctx, where); err != nil {
		return nil, err
	}
	alone, err := s.with(table.Where{}, out.Filters)
	if err != nil {
		return nil, err
	}
	if n, err := s.of.Rows.Count(ctx, alone); err != nil {
		return nil, err
	} else if n != o.Rows {
		return nil, s.notTold(o.Rows)
	}
	return out, nil
}

// behindRow selects what one row was made of.
func (s *Sheet) behindRow(ctx context.Context, row int, column string) (*Behind, error) {
	c := s.Dataset.Column(column)
	at := s.of.Scope.Columns.Index(column)
	switch {
	case row < 0 || row >= s.of.Rows.Rows():
		return nil, fmt.Errorf("there is no row %d; the dataset %s has the rows 0 to %d", row, s.Dataset.ID,
			s.of.Rows.Rows()-1)
	case at < 0:
		return nil, fmt.Errorf("there is no column %q with cells of rows", column)
	}
	places := append(s.of.PlacesOf(s.Dataset.Behind.By), at)
	b, err := s.of.Rows.Take(ctx, []uint32{uint32(row)}, places)
	if err != nil {
		return nil, err
	}
	full := b.Spread(places, s.of.Rows.Schema())
	out := &Behind{Label: shown.Heading(*c), Before: full.Value(at, 0), Compared: true}
	var words []string
	for _, id := range s.Dataset.Behind.By {
		v := full.Value(s.of.Scope.Columns.Index(id), 0)
		out.Filters = append(out.Filters, ready.FilterOf(ready.Level{Text: id}, v))
		words = append(words, s.KeyText(v))
	}
	out.Says = out.Label
	if len(words) > 0 {
		out.Says += " of " + strings.Join(words, ", ")
	}
	return out, nil
}

// with adds filters to conditions.
func (s *Sheet) with(where table.Where, filters []string) (table.Where, error) {
	for _, text := range filters {
		f, err := s.of.Filter(text)
		if err != nil {
			return where, err
		}
		where.Conditions = append(where.Conditions, f.Conditions...)
	}
	return where, nil
}

// telling writes, for each column that rows are found by, a filter with the values that
// lines have; a column of which they have all values needs none.
func (s *Sheet) telling(ctx context.Context, where table.Where) (filters []string, err error) {
	for _, id := range s.Dataset.Behind.By {
		at := s.of.Scope.Columns.Index(id)
		all, err := s.of.Rows.Groups(ctx, table.Where{}, []int{at}, nil)
		if err != nil {
			return nil, err
		}
		some, err := s.of.Rows.Groups(ctx, where, []int{at}, nil)
		if err != nil {
			return nil, err
		}
		values := &some.Levels[1]
		switch {
		case values.Len() == all.Levels[1].Len():
			continue
		case values.Len() > mostBehind:
			return nil, fmt.Errorf("rows of %d different values of %s cannot be opened at once; the most is %d", values.Len(),
				s.Dataset.Column(id).Label, mostBehind)
		}
		var texts []string
		for g := range values.Len() {
			v := values.Key(g)
			if v.Null && values.Len() > 1 {
				return nil, s.notTold(some.Levels[0].Size(0))
			}
			texts = append(texts, strings.TrimPrefix(ready.FilterOf(ready.Level{Text: id}, v), id+"="))
		}
		filters = append(filters, id+"="+strings.Join(texts, ";"))
	}
	return filters, nil
}

func (s *Sheet) notTold(lines int) error {
	return fmt.Errorf("the rows behind these %d lines cannot be told from others by %s; open the lines one by one", lines,
		strings.Join(s.Dataset.Labels(s.Dataset.Behind.By), ", "))
}
