// Package param knows the typed parameters of a report: how each is declared,
// read from what a person typed, checked, resolved to facts and described in
// a sentence. The form, the command line and links all use it.
package param

import (
	"context"
	"slices"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/period"
)

// Type is the type of a parameter.
type Type string

// The types of parameters. What each reads, resolves to and says stands in one
// table; see kinds.
const (
	Text     Type = "text"
	Integer  Type = "integer"
	Decimal  Type = "decimal"
	Money    Type = "money"
	Flag     Type = "flag"
	Date     Type = "date"
	Range    Type = "range"  // one range of days, or of times where Timed
	Ranges   Type = "ranges" // several
	Period   Type = "period" // one month, quarter, year, week or day
	Unit     Type = "unit"
	Entity   Type = "entity"
	Choice   Type = "choice"
	Codes    Type = "codes"    // from one code of a list to another
	Columns  Type = "columns"  // columns of a dataset, in order
	Grouping Type = "grouping" // columns of a dataset to group by, in order
	Horizon  Type = "horizon"  // so many months, days ...
	Newest   Type = "newest"   // the last N rows
)

// Parameter is one declared input of a report.
type Parameter struct {
	ID       string
	Label    string
	Type     Type
	Help     string
	Group    string // heading that it stands under on the form; "More" is folded
	Many     bool   // several entries may be given
	Required bool   // a run needs a value
	Locked   bool   // shown, but always its default
	Hidden   bool   // not shown; its default unless a link or another report fills it
	Default  string // as a person would type it
	Start    string // previous: begins with what the person last ran it with
	All      string // how the sentence says that nothing is chosen: "all grades"

	Min, Max  string  // limits of numbers and days, as typed
	Longest   string  // longest range: "12 years"
	MaxLength int     // of a text; 0 means 200
	Pattern   string  // regular expression that a whole text must meet
	Scale     int32   // decimal places of a decimal or of money
	Measure   string  // unit shown after a number: kg, EUR, months
	From      string  // list of the source that unit, entity, choice and codes draw on
	Options   []Entry // fixed entries of a choice, or the columns to choose among

	Timed     bool              // a range may have times of day
	Adjoining bool              // several ranges may have no gap between them
	Compare   bool              // a range may have companions to compare with
	Grain     period.Unit       // of a period: how fine the data is
	By        map[string]string // fields of the list, each with the parameter that narrows it
	Of        string            // dataset whose columns are chosen
}

// Listed tells whether values are entries of a list or of options.
func (p *Parameter) Listed() bool {
	switch p.Type {
	case Unit, Entity, Choice, Codes, Columns, Grouping:
		return true
	}
	return false
}

// Entry is one entry of a list: a unit, an entity or a choice.
type Entry struct {
	Code    string
	Label   string
	Kind    string // what the entry is, for units: region, district, site
	Parent  string // code of the entry above, for units
	Detail  string // tells entries of the same name apart
	Current bool   // still in use
	Out     bool   // ruled out by what other parameters are set to
}

// Lists answers for the lists that a source declares, cut to what a person may
// see.
type Lists interface {
	// Match returns the entries whose code or label is what was typed.
	Match(ctx context.Context, list, typed string) ([]Entry, error)
	// Near returns a few entries like what was typed, the likeliest first.
	Near(ctx context.Context, list, typed string) ([]Entry, error)
	// Below returns the codes and those of all entries below them, less those
	// that the person may not see.
	Below(ctx context.Context, list string, codes []string) ([]string, error)
	// Out returns those of the codes that are ruled out: by gives for fields of
	// the list the values that are left.
	Out(ctx context.Context, list string, codes []string, by map[string][]string) ([]string, error)
}

// Value is what one parameter came to in a run.
type Value struct {
	Parameter  *Parameter
	Typed      string // as the person or the default wrote it
	Given      bool   // false when nothing was chosen
	Text       string
	Number     frame.Number // also of a horizon and of newest
	Flag       bool
	Day        period.Day
	Range      period.Range       // also of a period, and from first to last of ranges
	Companions []period.Companion // ranges to compare with
	Intervals  []period.Interval  // the times of a timed range or of ranges, in order
	Name       string             // of a period: 2026-09
	Entries    []Entry            // also the first and last of codes
	Codes      []string           // codes of the entries and, for units, of all below
	Says       string             // how the sentence says what has no other words
	Cut        bool               // the person sees some units only
	Only       bool               // of units: these alone, without what lies below
}

// Resolved writes the value as a fact that reads back to the same value
// whatever the day: 2026-09-01/2026-09-30.
func (v Value) Resolved() string {
	if !v.Given {
		return ""
	}
	return kinds[v.Parameter.Type].resolved(v)
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

// With returns the values with another range for one parameter.
func (vs Values) With(id string, r period.Range) Values {
	out := slices.Clone(vs)
	for i := range out {
		if out[i].Parameter.ID == id {
			out[i].Range, out[i].Companions = r, nil
		}
	}
	return out
}

// Recall reads facts back without any list: entries are known by code alone.
// What it returns serves to settle a definition, not to run it.
func Recall(declared []Parameter, resolved map[string]string, c period.Calendar) Values {
	values := make(Values, len(declared))
	for i := range declared {
		p := &declared[i]
		text := resolved[p.ID]
		v := Value{Parameter: p, Typed: text, Given: text != ""}
		switch {
		case !v.Given:
		case p.Type == Codes:
			v.Codes = strings.Split(text, "..")
		case p.Listed():
			if rest, only := strings.CutPrefix(text, "only "); only && p.Type == Unit {
				text, v.Only = rest, true
			}
			v.Codes = strings.Split(text, "; ")
			for _, code := range v.Codes {
				v.Entries = append(v.Entries, Entry{Code: code, Label: code})
			}
		default:
			// Facts were read before; should the rules have changed since, what
			// they came to then still stands as text.
			_, _ = kinds[p.Type].read(&v, context.Background(), text, Setting{Calendar: c})
		}
		values[i] = v
	}
	return values
}

// Fault says what is wrong with one parameter and how to mend it.
type Fault struct {
	Parameter string
	Message   string
	Near      []string // what was probably meant
	// Where entries were ruled out by another parameter: those, and what is
	// left of the value, as typed.
	Dropped []Entry
	Rest    string
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
