package definition

import (
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/param"
	"mantilla/core/report"
)

func (p *parser) checkView(v report.View, at *yaml.Node, used map[string]bool) {
	p.wants(at, "view "+v.ID+" shows the columns of", v.Chosen, used, param.Columns)
	if v.Of == "" {
		return
	}
	d := p.def.Dataset(v.Of)
	if d == nil {
		p.unknown(at, "dataset", v.Of, "view %s is of the dataset %q, which does not exist%s", v.ID, v.Of,
			meant(v.Of, p.datasetIDs()))
		return
	}
	named := func(how string, ids ...string) {
		for _, id := range ids {
			if id != "" && d.Column(id) == nil {
				p.noColumn(at, d, id, "view "+v.ID+" "+how+" the column")
			}
		}
	}
	named("shows", v.Columns...)
	for _, k := range v.Sort {
		if !slices.Contains(v.Levels, k.Column) {
			named("sorts by", k.Column)
		}
	}
	named("has the cells of", v.Cells...)
	named("draws", v.X, v.Y, v.Label)
	named("draws bars from", v.Start)
	named("draws bars to", v.End)
	_, _, scope, _ := d.Calculate(formula.Scope{Given: report.GivenNames(p.def.Parameters)})
	p.checkLevels(v, at, scope, used)
	p.checkTones("view "+v.ID, v.Tones, d, scope, used)
	p.checkKinds(v, d, at)
	for _, m := range v.Marks {
		whole := scope
		whole.Groups = true
		f, err := formula.Parse(m.At, whole)
		if err == nil && !f.Field.Kind.Numeric() {
			err = &formula.Fault{Message: "a mark stands at a number"}
		}
		if err != nil {
			p.wrong(m.Place, "the mark "+m.Label, err)
			continue
		}
		p.mentions(f, used)
	}
}

func (p *parser) checkLevels(v report.View, at *yaml.Node, scope formula.Scope, used map[string]bool) {
	for _, text := range slices.Concat(v.Levels, v.Down, v.Across) {
		if id, chosen := strings.CutPrefix(text, ":"); chosen {
			p.wants(at, "view "+v.ID+" is grouped by", id, used, param.Grouping)
			continue
		}
		f, err := report.Level(text, scope)
		if err != nil {
			p.wrong(placed(at), "view "+v.ID+" groups by "+text, err)
			continue
		}
		p.mentions(f, used)
	}
}

// checkKinds looks whether the columns can be drawn as the view says.
func (p *parser) checkKinds(v report.View, d *report.Dataset, at *yaml.Node) {
	for _, id := range v.Cells {
		if c := d.Column(id); c != nil && !c.AtGroups && c.Total == frame.NoTotal {
			p.fault(at, "view %s has the cells of column %s, which has no total and is not at groups", v.ID, id)
		}
	}
	for _, id := range []string{v.X, v.Y} {
		if c := d.Column(id); c != nil && !c.Kind.Numeric() && !(id == v.X && v.Drawn == "scatter" && c.Kind != frame.Text) {
			p.fault(at, "view %s draws column %s, which holds %s; a number is wanted", v.ID, id, c.Kind)
		}
	}
	for _, id := range []string{v.Start, v.End} {
		if c := d.Column(id); c != nil && c.Kind != frame.Date && c.Kind != frame.Timestamp {
			p.fault(at, "view %s draws bars by column %s, which holds %s; a date is wanted", v.ID, id, c.Kind)
		}
	}
}
