package definition

import (
	"cmp"
	"maps"
	"slices"

	"go.yaml.in/yaml/v3"

	"mantilla/core/manuscript"
	"mantilla/core/param"
	"mantilla/core/report"
)

// sound is what of the definition nothing is wrong with, so that the source can be
// asked about it in the same round: parameters, and datasets without the columns and
// conditions that have a fault. It is nil where no dataset is left.
func (p *parser) sound(faults Faults) *report.Definition {
	out := &report.Definition{ID: p.def.ID, Title: p.def.Title, Source: p.def.Source, Limits: p.def.Limits,
		Text: p.def.Text}
	for i, q := range p.def.Parameters {
		if i < len(p.nodes.parameters) && q.ID != "" && !within(p.nodes.parameters[i], faults) {
			out.Parameters = append(out.Parameters, q)
			out.ParameterLines = append(out.ParameterLines, p.def.ParameterLines[i])
		}
	}
	for i := range p.def.Datasets {
		if d, ok := p.soundDataset(p.def.Datasets[i], p.nodes.datasets[i], faults, out.Parameters); ok {
			out.Datasets = append(out.Datasets, d)
		}
	}
	if out.Source == "" || len(out.Datasets) == 0 {
		return nil
	}
	return out
}

func (p *parser) soundDataset(d report.Dataset, n *yaml.Node, faults Faults,
	sound []param.Parameter) (report.Dataset, bool) {
	lost := func(piece report.Piece, ids ...string) bool { return !p.speaksOf(sound, piece, ids...) }
	columns, conditions := manuscript.Value(n, "columns"), manuscript.Value(n, "where")
	own, inColumns, inConditions := spanOf(n), spanOf(columns), spanOf(conditions)
	for _, f := range faults {
		if own.holds(f) && !inColumns.holds(f) && !inConditions.holds(f) {
			return d, false
		}
	}
	for _, piece := range slices.Concat([]report.Piece{d.From, d.Scope}, d.Group, d.Order, d.Each) {
		if lost(piece, d.Levels, d.Newest, d.Compare) {
			return d, false
		}
	}
	nodes := items(columns)
	var kept []report.Column
	for i, c := range d.Columns {
		if i < len(nodes) && !within(nodes[i], faults) && !lost(c.Is) && !lost(c.Labels, c.ScaleBy) {
			kept = append(kept, c)
		}
	}
	nodes = items(conditions)
	var where []report.Condition
	for i, w := range d.Where {
		if i < len(nodes) && !within(nodes[i], faults) && !lost(w.Piece, w.Within) {
			where = append(where, w)
		}
	}
	d.Columns, d.Where, d.Key = kept, where, nil
	return d, len(d.Kept()) > 0
}

// speaksOf tells whether a piece, and names that may be empty, speak of parameters
// alone.
func (p *parser) speaksOf(sound []param.Parameter, piece report.Piece, ids ...string) bool {
	ids = append(ids, piece.By)
	for _, text := range append(slices.Collect(maps.Values(piece.Cases)), piece.SQL) {
		for _, r := range report.References(text, p.dialect().Quotes) {
			ids = append(ids, r.Parameter)
		}
	}
	for _, id := range ids {
		if id != "" && !slices.ContainsFunc(sound, func(q param.Parameter) bool { return q.ID == id }) {
			return false
		}
	}
	return true
}

func items(n *yaml.Node) []*yaml.Node {
	switch {
	case n == nil:
		return nil
	case n.Kind == yaml.SequenceNode:
		return n.Content
	}
	return []*yaml.Node{n}
}

// span is where a part of the file begins and ends; nothing lies within the zero one.
type span struct{ from, to Fault }

func spanOf(n *yaml.Node) span {
	if n == nil {
		return span{}
	}
	line, column := end(n)
	return span{Fault{Line: n.Line, Column: n.Column}, Fault{Line: line, Column: column}}
}

func (s span) holds(f Fault) bool {
	return s.to.Line > 0 && order(s.from, f) <= 0 && order(f, s.to) <= 0
}

// order tells which of two faults stands before the other.
func order(a, b Fault) int {
	return cmp.Or(cmp.Compare(a.Line, b.Line), cmp.Compare(a.Column, b.Column))
}

// within tells whether one of the faults, which stand in the file's order, lies within a
// part of the file.
func within(n *yaml.Node, faults Faults) bool {
	s := spanOf(n)
	first, _ := slices.BinarySearchFunc(faults, s.from, order)
	return first < len(faults) && s.holds(faults[first])
}

// end is where the last part of a node begins, with the columns that it takes.
func end(n *yaml.Node) (line, column int) {
	line, column = n.Line, n.Column+len(n.Value)
	for _, c := range n.Content {
		if l, col := end(c); l > line || l == line && col > column {
			line, column = l, col
		}
	}
	return line, column
}
