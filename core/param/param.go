// Package param knows the typed parameters of a report: how each is declared,
// read from what a person typed, checked, resolved to facts and described in
// a sentence. The form, the command line and links all use it.
package param

import (
	"context"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/nearest"
	"mantilla/core/period"
)

// Type is the type of a parameter.
type Type string

// The types of parameters.
const (
	Text    Type = "text"
	Integer Type = "integer"
	Decimal Type = "decimal"
	Flag    Type = "flag"
	Date    Type = "date"
	Range   Type = "range"
	Unit    Type = "unit"
	Entity  Type = "entity"
	Choice  Type = "choice"
)

// Types lists all types.
var Types = []Type{Text, Integer, Decimal, Flag, Date, Range, Unit, Entity, Choice}

// Parameter is one declared input of a report.
type Parameter struct {
	ID       string
	Label    string
	Type     Type
	Help     string
	Many     bool   // several entries may be given
	Required bool   // a run needs a value
	Default  string // as a person would type it
	All      string // how the sentence says that nothing is chosen: "all grades"

	Min, Max  string  // limits of numbers and days, as typed
	Longest   string  // longest range: "12 years"
	MaxLength int     // of a text; 0 means 200
	Pattern   string  // regular expression that a whole text must meet
	Scale     int32   // decimal places of a decimal
	Measure   string  // unit shown after a number: kg
	From      string  // list of the source that unit, entity and choice draw on
	Options   []Entry // fixed entries of a choice
}

// Entry is one entry of a list: a unit, an entity or a choice.
type Entry struct {
	Code    string
	Label   string
	Kind    string // what the entry is, for units: region, district, site
	Parent  string // code of the entry above, for units
	Detail  string // tells entries of the same name apart
	Current bool   // still in use
}

// Lists answers for the lists that a source declares.
type Lists interface {
	// Match returns the entries whose code or label is what was typed.
	Match(ctx context.Context, list, typed string) ([]Entry, error)
	// Near returns a few entries like what was typed, the likeliest first.
	Near(ctx context.Context, list, typed string) ([]Entry, error)
	// Below returns the codes and those of all entries below them.
	Below(ctx context.Context, list string, codes []string) ([]string, error)
}

// Check returns what is wrong with a declaration, keyed by the declaration's
// key that holds the fault.
func (p *Parameter) Check() map[string]string {
	wrong := map[string]string{}
	if !slices.Contains(Types, p.Type) {
		var names []string
		for _, t := range Types {
			names = append(names, string(t))
		}
		wrong["type"] = fmt.Sprintf("%q is not a parameter type; use %s", p.Type, nearest.Or(names))
		return wrong
	}
	listed := p.Type == Unit || p.Type == Entity || p.Type == Choice
	switch {
	case listed && p.From == "" && len(p.Options) == 0:
		wrong["from"] = fmt.Sprintf("parameter %s needs a list of the source to draw on: from: LIST", p.ID)
	case len(p.Options) > 0 && p.Type != Choice:
		wrong["options"] = "only a choice has options of its own"
	case len(p.Options) > 0 && p.From != "":
		wrong["options"] = "give either options or from, not both"
	case p.Many && !listed:
		wrong["many"] = fmt.Sprintf("a %s parameter holds one value; many is for unit, entity and choice", p.Type)
	}
	if p.Longest != "" {
		if _, _, err := period.ParseSpan(p.Longest); err != nil {
			wrong["longest"] = err.Error()
		}
	}
	if p.Pattern != "" {
		if _, err := regexp.Compile(p.Pattern); err != nil {
			wrong["pattern"] = err.Error()
		}
	}
	return wrong
}

// Value is what one parameter came to in a run.
type Value struct {
	Parameter *Parameter
	Typed     string // as the person or the default wrote it
	Given     bool   // false when nothing was chosen
	Text      string
	Number    frame.Number
	Flag      bool
	Day       period.Day
	Range     period.Range
	Entries   []Entry
	Codes     []string // codes of the entries and, for units, of all below
}

// Resolved writes the value as a fact that reads back to the same value
// whatever the day: 2026-09-01/2026-09-30.
func (v Value) Resolved() string {
	if !v.Given {
		return ""
	}
	switch v.Parameter.Type {
	case Integer, Decimal:
		return v.Number.String()
	case Flag:
		return yesNo(v.Flag)
	case Date:
		return v.Day.String()
	case Range:
		return v.Range.String()
	case Unit, Entity, Choice:
		codes := make([]string, len(v.Entries))
		for i, e := range v.Entries {
			codes[i] = e.Code
		}
		return strings.Join(codes, "; ")
	}
	return v.Text
}

func yesNo(flag bool) string {
	if flag {
		return "yes"
	}
	return "no"
}

// Values are the facts of a run, in the order of the declarations.
type Values []Value

// Of returns the value of the parameter with that id.
func (vs Values) Of(id string) (Value, bool) {
	for _, v := range vs {
		if v.Parameter.ID == id {
			return v, true
		}
	}
	return Value{}, false
}

// Fault says what is wrong with one parameter and how to mend it.
type Fault struct {
	Parameter string
	Message   string
	Near      []string // what was probably meant
}

// Faults are all that is wrong with a set of values.
type Faults []Fault

// Error joins the faults, one sentence each.
func (fs Faults) Error() string {
	all := make([]string, len(fs))
	for i, f := range fs {
		all[i] = f.Parameter + ": " + f.Message
	}
	return strings.Join(all, "; ")
}
