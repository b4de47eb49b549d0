package kept

import (
	"context"

	"mantilla/core/frame"
	"mantilla/core/rescue"
	"mantilla/core/table"
)

// Find looks through rows column by column, so that each different value of a batch
// is asked once.
func (k *Table) Find(ctx context.Context, o table.Order, columns []int, sought table.Sought) ([]uint32, error) {
	within, err := k.selected(ctx, o.Where)
	if err != nil {
		return nil, err
	}
	s := k.runs(within)
	hits := make([]bool, k.Rows())
	none := true
	for _, col := range columns {
		if sought.In(k.rows.Schema()[col]) == nil {
			continue
		}
		none = false
		if err := k.mark(ctx, s, col, sought, hits); err != nil {
			return nil, err
		}
	}
	if none {
		return []uint32{}, nil
	}
	order, err := k.ordered(ctx, o, k.Rows())
	if err != nil {
		return nil, err
	}
	out := []uint32{}
	if order == nil {
		for row, hit := range hits {
			if hit {
				out = append(out, uint32(row))
			}
		}
		return out, nil
	}
	for line, row := range order {
		if hits[row] {
			out = append(out, uint32(line))
		}
	}
	return out, nil
}

// mark sets hits, by row number, for the rows that are meant and have a value which
// is sought.
func (k *Table) mark(ctx context.Context, s *runs, col int, sought table.Sought, hits []bool) error {
	field := k.rows.Schema()[col]
	all := make([]scratch, rescue.Workers)
	return rescue.Spread(ctx, len(s.each), func(w, i int) error {
		r, room := s.each[i], &all[w]
		v, err := k.rows.Column(ctx, r.batch, col)
		if err != nil {
			return err
		}
		start, _ := k.rows.Span(r.batch)
		room.places = s.places(r, room.places)
		holds := once(v, sought.In(field))
		for at := range r.to - r.from {
			if row := rowAt(room.places, at); !v.Null(row) && !hits[start+row] && holds(row) {
				hits[start+row] = true
			}
		}
		return nil
	})
}

// once asks each different value of a column once: texts by code, numbers that lie
// close together by a table.
func once(v *frame.Column, holds func(c *frame.Column, row int) bool) func(row int) bool {
	ask := func(row int) bool { return holds(v, row) }
	if v.Texts != nil && !v.Coded {
		return ask
	}
	least, span := v.Stats.Least, uint64(v.Stats.Greatest)-uint64(v.Stats.Least)
	if v.Coded {
		least, span = 0, uint64(len(v.Texts))
	}
	if span > uint64(v.Rows()) {
		return ask
	}
	said := make([]int8, span+1)
	return func(row int) bool {
		at := v.Int(row) - least
		if said[at] == 0 {
			said[at] = -1
			if ask(row) {
				said[at] = 1
			}
		}
		return said[at] > 0
	}
}
