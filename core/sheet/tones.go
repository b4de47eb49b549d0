package sheet

import (
	"maps"
	"slices"

	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/report"
)

// tone is a mark with its condition; column is where it stands, -1 for the
// whole line.
type tone struct {
	as      string
	column  int
	formula *formula.Formula
}

// tonesWithin reads the tones of the sheet's columns and lines whose conditions
// can be read in a scope.
func (s *Sheet) tonesWithin(scope formula.Scope) (out []tone) {
	add := func(column int, tones []report.Tone) {
		for _, t := range tones {
			if f, err := formula.ParseCondition(t.When, scope); err == nil && !f.OfGroups() {
				out = append(out, tone{t.As, column, f})
			}
		}
	}
	add(-1, s.View.Tones)
	for i, c := range s.Columns {
		add(i, c.Tones)
	}
	return out
}

// toneRows marks lines of rows; b has the columns of the scope.
func (s *Sheet) toneRows(lines []Line, b *frame.Batch) error {
	for _, t := range s.toned {
		v, err := t.formula.Rows(b)
		if err != nil {
			return err
		}
		for r := range lines {
			if v.Ints[r] != 0 && !v.Null(r) {
				lines[r].mark(t)
			}
		}
	}
	return nil
}

func (l *Line) mark(t tone) {
	if t.column < 0 {
		if l.Tone == "" {
			l.Tone = t.as
		}
		return
	}
	if l.Tones == nil {
		l.Tones = make([]string, len(l.Cells))
	}
	if l.Tones[t.column] == "" {
		l.Tones[t.column] = t.as
	}
}

// toneGroups marks the lines of groups by their own figures.
func (s *Sheet) toneGroups(lines []Line) error {
	scope := s.of.Scope
	scope.Columns, scope.Groups = s.of.Set.Figures(), false
	scope.Given = maps.Clone(scope.Given)
	for _, c := range s.of.Set.Columns { // a parameter of the same name is not what the tone speaks of
		delete(scope.Given, c.ID)
	}
	tones := s.tonesWithin(scope)
	if len(tones) == 0 {
		return nil
	}
	groups := slices.DeleteFunc(slices.Clone(lines), func(l Line) bool { return l.Kind == RowLine })
	if len(groups) == 0 {
		return nil
	}
	vectors := make([]frame.Vector, len(scope.Columns))
	for i, field := range scope.Columns {
		at := slices.IndexFunc(s.Columns, func(c Column) bool { return c.ID == field.Name })
		values := slices.Repeat([]frame.Value{{Null: true}}, len(groups))
		for g := range groups {
			if at >= 0 {
				values[g] = groups[g].Cells[at]
			}
		}
		vectors[i] = frame.VectorOf(field, values)
	}
	b := frame.Columns(scope.Columns, vectors, len(groups))
	for _, t := range tones {
		v, err := t.formula.Rows(b)
		if err != nil {
			return err
		}
		at := 0
		for i := range lines {
			if lines[i].Kind == RowLine {
				continue
			}
			if v.Ints[at] != 0 && !v.Null(at) {
				lines[i].mark(t)
			}
			at++
		}
	}
	return nil
}

// toneMeasure marks the cells of one measure of a crosstab, by tones that speak
// of it alone.
func (s *Sheet) toneMeasure(lines []Line, m int, c *report.Column) error {
	scope := s.of.Scope
	field := s.cross.by[0].Of[c.ID].Field
	field.Name = c.ID
	scope.Columns, scope.Groups = frame.Schema{field}, false
	for _, t := range c.Tones {
		f, err := formula.ParseCondition(t.When, scope)
		if err != nil {
			continue // it speaks of other columns
		}
		for i := range lines {
			line := &lines[i]
			v, err := f.Rows(frame.Columns(scope.Columns, []frame.Vector{frame.VectorOf(field, line.Cells)}, len(line.Cells)))
			if err != nil {
				return err
			}
			for at := range line.Cells {
				own := s.Columns[at].Measure == m && !s.cross.stacked || s.cross.stacked && line.Measure == m
				if own && v.Ints[at] != 0 && !v.Null(at) {
					line.mark(tone{as: t.As, column: at})
				}
			}
		}
	}
	return nil
}
