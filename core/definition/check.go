package definition

import (
	"errors"
	"maps"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"mantilla/core/formula"
	"mantilla/core/manuscript"
	"mantilla/core/nearest"
	"mantilla/core/param"
	"mantilla/core/report"
)

// check looks at how the parts of a definition fit together.
func (p *parser) check() {
	used := map[string]bool{}
	p.checkParameters(used)
	for i := range p.def.Datasets {
		p.checkDataset(&p.def.Datasets[i], used)
		p.checkBehind(&p.def.Datasets[i], manuscript.Value(p.nodes.datasets[i], "behind"))
	}
	for i, v := range p.def.Views {
		p.checkView(v, p.nodes.views[i], used)
	}
	p.checkNotes(used)
	p.checkImports()
	p.checkStatements()
	p.checkChecks(used)
	p.checkUnspoken(used)
	for i, q := range p.def.Parameters {
		if q.ID != "" && !used[q.ID] && !p.missed[q.ID] && !p.lost[q.ID] {
			p.fault(p.nodes.parameters[i], "parameter %s is not used by any dataset", q.ID)
		}
	}
	for i, id := range p.def.Page {
		if p.def.View(id) == nil && i < len(p.nodes.page) {
			p.unknown(p.nodes.page[i], "view", id, "the page names the view %q, which does not exist%s", id,
				meant(id, p.viewIDs()))
		}
	}
	if len(p.def.Page) == 0 {
		p.def.Page = p.viewIDs()
	}
}

// noParameter tells of a name that is no parameter. Parameters that it may mean are
// not told to be unused as well.
func (p *parser) noParameter(at *yaml.Node, id, what string) {
	known := p.parameterIDs()
	for _, near := range nearest.Names(id, known, 2) {
		p.missed[near] = true
	}
	p.unknown(at, "parameter", id, "%s :%s, which is not a parameter%s", what, id, meant(id, known))
}

// noColumn tells of a name that is no column of a dataset.
func (p *parser) noColumn(at *yaml.Node, d *report.Dataset, id, what string) {
	p.unknown(at, "column of "+d.ID, id, "%s %q, which is not a column of dataset %s%s", what, id, d.ID,
		meant(id, d.ColumnIDs()))
}

func (p *parser) viewIDs() (ids []string) {
	for _, v := range p.def.Views {
		ids = append(ids, v.ID)
	}
	return ids
}

func (p *parser) datasetIDs() (ids []string) {
	for _, d := range p.def.Datasets {
		ids = append(ids, d.ID)
	}
	return ids
}

func (p *parser) parameterIDs() (ids []string) {
	for _, q := range p.def.Parameters {
		ids = append(ids, q.ID)
	}
	return ids
}

func (p *parser) checkParameters(used map[string]bool) {
	for i := range p.def.Parameters {
		q, at := &p.def.Parameters[i], p.nodes.parameters[i]
		if slices.Index(p.parameterIDs(), q.ID) < i {
			p.fault(at, "the parameter %q is declared twice", q.ID)
		}
		if q.Type == param.Columns || q.Type == param.Grouping {
			p.chosenColumns(q, at)
		}
		p.checkBy(q, at)
		for _, narrowing := range q.By {
			used[narrowing] = true
		}
	}
}

func (p *parser) checkDataset(d *report.Dataset, used map[string]bool) {
	pieces := slices.Concat([]report.Piece{d.From, d.Scope}, d.Group, d.Order, d.Each)
	for _, w := range d.Where {
		pieces = append(pieces, w.Piece)
		if w.Within != "" {
			p.checkWithin(w, used)
		}
	}
	p.checkFormulas(d, used)
	for _, c := range d.Columns {
		if c.Code != "" && d.Column(c.Code) == nil {
			p.noColumn(&yaml.Node{Line: c.Is.Line, Column: c.Is.Col}, d, c.Code, "the codes of column "+c.ID+" are in")
		}
		pieces = append(pieces, c.Is, c.Labels)
		if c.Opens != nil {
			p.checkOpens(d, c)
		}
	}
	for _, piece := range pieces {
		p.checkPiece(piece, used)
	}
	at := &yaml.Node{Line: d.From.Line, Column: d.From.Col}
	p.wants(at, "dataset "+d.ID+" is grouped by", d.Levels, used, param.Grouping)
	p.wants(at, "dataset "+d.ID+" reads the newest", d.Newest, used, param.Newest)
	p.wants(at, "dataset "+d.ID+" is compared by", d.Compare, used, param.Range)
}

// wants checks that a name, where there is one, is a parameter of a type.
func (p *parser) wants(at *yaml.Node, what, id string, used map[string]bool, types ...param.Type) {
	if id == "" {
		return
	}
	used[id] = true
	if p.lost[id] {
		return
	}
	q := p.def.Parameter(id)
	if q == nil {
		p.noParameter(at, id, what)
	} else if !slices.Contains(types, q.Type) {
		p.fault(at, "%s :%s, which is a %s; it must be a %s", what, id, q.Type, types[0])
	}
}

func (p *parser) checkWithin(w report.Condition, used map[string]bool) {
	at := &yaml.Node{Line: w.Line, Column: w.Col}
	p.wants(at, "the condition lies within", w.Within, used, param.Range, param.Ranges, param.Period)
	if q := p.def.Parameter(w.Within); q != nil && (q.Timed || q.Type == param.Ranges) && !w.Moments {
		p.fault(at, ":%s has times of day; say that the column holds moments in UTC: as: moments", w.Within)
	}
}

// parts are what a reference to a parameter of a type must name after a point.
var parts = map[param.Type][]string{
	param.Range: {"start", "end"}, param.Ranges: {"start", "end"}, param.Period: {"start", "end"},
	param.Codes: {"first", "last"},
}

func (p *parser) checkPiece(piece report.Piece, used map[string]bool) {
	at := &yaml.Node{Line: piece.Line, Column: piece.Col}
	texts := []string{piece.SQL}
	if piece.By != "" {
		texts = slices.Sorted(maps.Values(piece.Cases))
		p.wants(at, "the piece is switched by", piece.By, used, param.Choice, param.Flag)
		p.checkCases(piece, at)
	}
	quotes := p.dialect().Quotes
	var found []report.Reference
	for _, text := range texts {
		found = append(found, report.References(text, quotes)...)
	}
	for _, r := range found {
		used[r.Parameter] = true
		if p.lost[r.Parameter] {
			continue
		}
		q := p.def.Parameter(r.Parameter)
		switch {
		case q == nil:
			p.noParameter(at, r.Parameter, "the SQL speaks of")
		case parts[q.Type] != nil && !slices.Contains(parts[q.Type], r.Part):
			p.fault(at, ":%s is a %s; write :%s.%s or :%s.%s", r, q.Type, r.Parameter, parts[q.Type][0], r.Parameter,
				parts[q.Type][1])
		case parts[q.Type] == nil && r.Part != "":
			p.fault(at, ":%s is a %s and has no part %q", r.Parameter, q.Type, r.Part)
		case q.Type == param.Columns || q.Type == param.Grouping:
			p.fault(at, ":%s chooses columns and has no value to bind", r.Parameter)
		}
	}
}

// checkCases looks whether each case is an entry of the parameter.
func (p *parser) checkCases(piece report.Piece, at *yaml.Node) {
	q := p.def.Parameter(piece.By)
	if q == nil || q.From != "" {
		return
	}
	allowed := []string{"none", "else"}
	if q.Type == param.Flag {
		allowed = append(allowed, "yes", "no")
	}
	for _, o := range q.Options {
		allowed = append(allowed, o.Code)
	}
	for _, code := range slices.Sorted(maps.Keys(piece.Cases)) {
		if !slices.Contains(allowed, code) {
			p.fault(at, "%q is not an entry of :%s%s", code, piece.By, meant(code, allowed))
		}
	}
}

// checkNotes reads the conditions of the notes.
func (p *parser) checkNotes(used map[string]bool) {
	scope := formula.Scope{Given: report.GivenNames(p.def.Parameters)}
	for i := range p.def.Notes {
		text := manuscript.Value(p.nodes.notes[i], "when")
		if text == nil {
			continue
		}
		c, err := formula.ParseCondition(text.Value, scope)
		if err != nil {
			p.wrong(placed(text), "the note's condition", err)
			continue
		}
		p.mentions(c, used) // a parameter may be there for a note alone
	}
}

// wrong reports a fault within a formula.
func (p *parser) wrong(at report.Place, what string, err error) {
	n := &yaml.Node{Line: at.Line, Column: at.Column}
	var wrong *formula.Fault
	if errors.As(err, &wrong) {
		n.Column += wrong.At
	}
	p.unknown(n, "formula", err.Error(), "%s: %v", what, err)
}

// mentions remembers the parameters that a formula speaks of.
func (p *parser) mentions(f *formula.Formula, used map[string]bool) {
	for _, name := range f.Names() {
		id, _, _ := strings.Cut(name, ".")
		used[id] = true
	}
}

func (p *parser) checkOpens(d *report.Dataset, c report.Column) {
	at := &yaml.Node{Line: max(c.Is.Line, c.FormulaAt.Line), Column: max(c.Is.Col, c.FormulaAt.Column)}
	for _, id := range c.Opens.Fields() {
		if d.Column(id) == nil {
			p.unknown(at, "column of "+d.ID, id,
				"the address of column %s speaks of {%s}, which is not a column of dataset %s%s", c.ID, id, d.ID,
				meant(id, d.ColumnIDs()))
		}
	}
	for _, f := range c.Opens.With {
		if f.From != "" && f.From[0] == ':' {
			if p.def.Parameter(f.From[1:]) == nil {
				p.noParameter(at, f.From[1:], "column "+c.ID+" opens a report with")
			}
			continue
		}
		if d.Column(f.From) == nil {
			p.noColumn(at, d, f.From, "column "+c.ID+" opens a report with")
		}
	}
}

// checkFormulas reads every formula of a dataset's columns and their tones.
func (p *parser) checkFormulas(d *report.Dataset, used map[string]bool) {
	for _, c := range d.Columns {
		p.wants(&yaml.Node{Line: c.FormulaAt.Line, Column: c.FormulaAt.Column}, "column "+c.ID+" has its places from",
			c.ScaleBy, used, param.Integer)
	}
	rows, groups, scope, faults := d.Calculate(formula.Scope{Given: report.GivenNames(p.def.Parameters)})
	for _, c := range d.Columns {
		if err := faults[c.ID]; err != nil {
			p.wrong(c.FormulaAt, "the formula of column "+c.ID, err)
		}
		p.checkTones("column "+c.ID, c.Tones, d, scope, used)
	}
	for _, c := range slices.Concat(rows, groups) {
		p.mentions(c.Formula, used)
		personalToo(d, c)
	}
}

// checkTones reads conditions that speak of the cells of a row, or of the
// figures in a group's line.
func (p *parser) checkTones(of string, tones []report.Tone, d *report.Dataset, scope formula.Scope,
	used map[string]bool) {
	for _, t := range tones {
		f, err := formula.ParseCondition(t.When, scope)
		if err != nil {
			figures := scope
			figures.Columns = d.Figures()
			if again, other := formula.ParseCondition(t.When, figures); other == nil {
				f, err = again, nil
			}
		}
		if err != nil {
			p.wrong(t.Place, "the tone of "+of, err)
			continue
		}
		p.mentions(f, used)
	}
}
