// Package document is what is taken away: views of a result as people read
// them, with what tells where they come from. Pages, web pages and plain text
// are written from it.
package document

import (
	"time"

	"mantilla/core/report"
	"mantilla/core/sheet"
)

// Document is one or several views of a result.
type Document struct {
	Organisation string
	Title        string // of the report
	About        string
	Number       string // of the result: R-000012
	Sentence     string // says the values
	Values       []Value
	Notes        []string
	AskedBy      string
	RanAt        time.Time
	Version      string // of the definition
	Source       string
	Fingerprint  string // of the source
	Units        []string
	Seal         string
	WrittenAt    time.Time
	Zone         *time.Location
	Base         string // address of the console, for links; "" for none
	Sheets       []*sheet.Sheet
	Import       *report.Import // what an import-ready file is written by
}

// Value is one parameter in words.
type Value struct{ Label, Says, Parameter, Resolved string }

// Made tells how the result was made: names and what they are, in order.
func (d *Document) Made() (out [][2]string) {
	add := func(name, text string) {
		if text != "" {
			out = append(out, [2]string{name, text})
		}
	}
	add("Report", d.Title)
	add("What it is for", d.About)
	for _, v := range d.Values {
		add(v.Label, v.Says)
	}
	for _, n := range d.Notes {
		add("Note", n)
	}
	add("Result", d.Number)
	add("Run by", d.AskedBy)
	add("Run at", d.RanAt.In(d.Zone).Format("2 January 2006 15:04:05 MST"))
	for _, u := range d.Units {
		add("Rows cut to", u)
	}
	add("Source", d.Source)
	add("Fingerprint of the source", d.Fingerprint)
	add("Version of the definition", d.Version)
	add("Seal", d.Seal)
	add("Written at", d.WrittenAt.In(d.Zone).Format("2 January 2006 15:04:05 MST"))
	for _, s := range d.Sheets {
		add("View", s.View.Title)
		for _, f := range s.Filters {
			add("Filter", s.LabelOf(f.Column)+" "+f.Test+" "+f.Value)
		}
	}
	return out
}

// Views names the views.
func (d *Document) Views() (titles []string) {
	for _, s := range d.Sheets {
		titles = append(titles, s.View.Title)
	}
	return titles
}
