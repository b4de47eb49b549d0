package report

import (
	"fmt"
	"regexp"
	"slices"

	"mantilla/core/formula"
	"mantilla/core/frame"
)

// Calculated is a column with the formula that computes it.
type Calculated struct {
	Column  *Column
	Formula *formula.Formula // gives what the column holds
}

// Calculate reads the formulas of a dataset's columns. The scope gives single
// values and the calendar; its columns are made here: those that are kept,
// then those computed of rows, in order. Of every formula only what stands
// before it may be spoken of. It returns the computed columns of rows and of
// groups, the scope of the dataset's rows, and a fault for each column that
// cannot be computed, by the column's id.
func (d *Dataset) Calculate(scope formula.Scope) (rows, groups []Calculated, full formula.Scope,
	faults map[string]error) {
	scope.Columns, scope.Groups = d.Typed().Schema(), false
	faults = map[string]error{}
	for _, atGroups := range []bool{false, true} {
		for i := range d.Columns {
			c := &d.Columns[i]
			if c.Formula == "" || c.AtGroups != atGroups {
				continue
			}
			own := scope
			own.Groups = atGroups
			f, err := formula.Parse(c.Formula, own)
			if err == nil && !atGroups && f.OfGroups() {
				err = &formula.Fault{Message: "the formula makes a figure of many rows; write at: groups"}
			}
			if err == nil {
				f, err = f.To(c.Field())
			}
			if err != nil {
				faults[c.ID] = err
				continue
			}
			if atGroups {
				groups = append(groups, Calculated{c, f})
				continue
			}
			rows = append(rows, Calculated{c, f})
			field := f.Field
			field.Name = c.ID
			scope.Columns = append(scope.Columns, field)
		}
	}
	return rows, groups, scope, faults
}

// Figures returns the schema of what stands in a group's line: columns with a
// total and those computed at groups. Tones of groups speak of these.
func (d *Dataset) Figures() (s frame.Schema) {
	for _, c := range d.Columns {
		field := c.Field()
		if c.Total != frame.NoTotal && c.Total != frame.Ratio {
			field = c.Total.Field(field)
		}
		if c.AtGroups || c.Total != frame.NoTotal {
			s = append(s, field)
		}
	}
	return s
}

var field = regexp.MustCompile(`\{([a-z][a-z0-9_]*)\}`)

// Fields returns the columns that an address speaks of, each once.
func (o *Opens) Fields() (ids []string) {
	for _, m := range field.FindAllStringSubmatch(o.Address, -1) {
		if !slices.Contains(ids, m[1]) {
			ids = append(ids, m[1])
		}
	}
	return ids
}

// Fill writes the address with the columns' values in place.
func (o *Opens) Fill(value func(column string) string) string {
	return field.ReplaceAllStringFunc(o.Address, func(m string) string { return value(m[1 : len(m)-1]) })
}

// Level reads what rows are grouped by: a column, or a formula of rows whose
// values are few enough to group by. The field is named by the level's text.
func Level(text string, scope formula.Scope) (*formula.Formula, error) {
	f, err := formula.Parse(text, scope)
	if err != nil {
		return nil, err
	}
	if f.OfGroups() {
		return nil, &formula.Fault{Message: fmt.Sprintf("%s makes a figure of many rows; rows are grouped by a column or "+
			"by something computed of each row", text)}
	}
	f.Field.Name = text
	return f, nil
}
