package ready

import (
	"mantilla/core/compare"
	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/table"
)

// around computes a window: what a figure is beside those of other groups. Of
// are the figures of all rows, the same as inner unless the groups are only a
// part of them; a part stands in no order among the others, so that nothing
// comes before it.
func around(groups *table.Groups, w formula.Window, inner, of Figure, part bool) []formula.Beside {
	out := make([]formula.Beside, len(groups.Levels))
	for l := range groups.Levels {
		level := &groups.Levels[l]
		own := make([]frame.Value, level.Len())
		whole := make([]frame.Value, level.Len())
		for g := range own {
			own[g] = inner.Levels[l].Value(inner.Field, g)
			first := l == 0 || g == 0 || level.Parent[g] != level.Parent[g-1]
			switch {
			case w.Around == formula.ShareOfParent && l > 0:
				whole[g] = inner.Levels[l-1].Value(inner.Field, int(level.Parent[g]))
			case w.Shares():
				whole[g] = of.Levels[0].Value(of.Field, 0)
			case part && l == 0:
				own[g] = frame.Value{Kind: own[g].Kind, Null: true}
			case first:
				own[g] = besides(w.Around, own[g], nil)
			case w.Around == formula.Running:
				own[g] = besides(w.Around, own[g], &own[g-1])
			default:
				before := inner.Levels[l].Value(inner.Field, g-1)
				own[g] = besides(w.Around, own[g], &before)
			}
		}
		out[l].Own = frame.VectorOf(w.Field(), own)
		if w.Shares() {
			out[l].Whole = frame.VectorOf(w.Field(), whole)
		}
	}
	return out
}

// besides computes what depends on the group before, which is nil for the
// first.
func besides(how formula.Around, own frame.Value, before *frame.Value) frame.Value {
	none := frame.Value{Kind: own.Kind, Null: true}
	switch {
	case how == formula.Running && (before == nil || before.Null):
		return own
	case how == formula.Running && own.Null:
		return *before
	case how == formula.Running:
		own.Number = own.Number.Plus(before.Number, 1)
		return own
	case before == nil:
		return none
	case how == formula.Previous:
		return *before
	case own.Null || before.Null:
		return none
	}
	own.Number = own.Number.Plus(before.Number, -1)
	return own
}

// percents computes the percentage that one figure is of another.
func percents(groups *table.Groups, of, by Figure, field frame.Field) Figure {
	out := Figure{Field: field}
	for l := range groups.Levels {
		values := make([]frame.Value, groups.Levels[l].Len())
		for g := range values {
			values[g] = compare.Percent(of.Levels[l].Value(of.Field, g), by.Levels[l].Value(by.Field, g))
		}
		out.Levels = append(out.Levels, frame.VectorOf(field, values))
	}
	return out
}

// Differences computes what one figure is more than another; what a period does
// not have counts as nothing.
func Differences(groups *table.Groups, of, from Figure) Figure {
	out := Figure{Field: of.Field}
	for l := range groups.Levels {
		values := make([]frame.Value, groups.Levels[l].Len())
		for g := range values {
			own, other := of.Levels[l].Value(of.Field, g), from.Levels[l].Value(from.Field, g)
			values[g] = frame.Value{Kind: own.Kind, Null: own.Null && other.Null}
			values[g].Number = own.Number.Plus(other.Number, -1)
		}
		out.Levels = append(out.Levels, frame.VectorOf(out.Field, values))
	}
	return out
}
