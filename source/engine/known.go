package engine

import (
	"mantilla/core/frame"
	"mantilla/core/table"
)

// Known is what is known of all cells of a column without asking.
type Known struct {
	Count           int64  // of cells that have a value
	Sum             string // of their numbers, in units of the last place; "" where it is not known
	Least, Greatest int64  // of their numbers, where there is a sum and a count
}

// knownOf is a figure of all rows; ok is false where it is not known.
func (r *Rows) knownOf(m table.Measure) (v frame.Value, ok bool) {
	if m.Column >= len(r.Known) || r.Known[m.Column].Sum == "" {
		return v, false
	}
	field, known := r.Schema[m.Column], r.Known[m.Column]
	shown := m.Op.Field(field)
	switch m.Op {
	case frame.Count:
		return valueOf(shown, Cell{Int: known.Count}), true
	case frame.Min:
		return valueOf(shown, Cell{Int: known.Least, Null: known.Count == 0}), true
	case frame.Max:
		return valueOf(shown, Cell{Int: known.Greatest, Null: known.Count == 0}), true
	case frame.Sum, frame.Avg:
		v, err := sumOf([]Cell{{Int: known.Count}, {Text: known.Sum}}, m, field, shown)
		return v, err == nil
	}
	return v, false
}
