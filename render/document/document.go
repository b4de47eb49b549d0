// Package document is what is taken away: views of a result as people read
// them, with what tells where they come from. Pages, web pages and plain text
// are written from it.
package document

import (
	"slices"
	"strings"
	"time"

	"mantilla/core/report"
	"mantilla/core/sheet"
	"mantilla/core/shown"
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
	RanAt        time.Time // in the reader's zone, as is WrittenAt
	Version      string    // of the definition
	Source       string
	Fingerprint  string // of the source
	Units        []string
	Seal         string
	WrittenAt    time.Time
	Form         shown.Form // in which its figures are written; moments in the zone of the rows
	Base         string     // address of the console, for links; "" for none
	Sheets       []*sheet.Sheet
	Columns      []Meaning
	Import       *report.Import // what an import-ready file is written by
}

// Meaning is what a column means.
type Meaning struct{ Column, Says string }

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
	add("Run at", d.RanAt.Format("2 January 2006 15:04:05 MST"))
	for _, u := range d.Units {
		add("Rows cut to", u)
	}
	add("Source", d.Source)
	add("Fingerprint of the source", d.Fingerprint)
	add("Version of the definition", d.Version)
	add("Seal", d.SealSays())
	add("Written at", d.WrittenAt.Format("2 January 2006 15:04:05 MST"))
	for _, s := range d.Sheets {
		add("View", s.View.Title)
		add("What was done to it", s.Told())
	}
	for _, m := range d.Columns {
		add("Column "+m.Column, m.Says)
	}
	return out
}

// Says is the sentence that says the values, with what was done to the views:
// what was filtered, grouped, limited and added. Figures are never shown without
// it.
func (d *Document) Says() string {
	out := d.Sentence
	same := d.told(0)
	for i := range d.Sheets {
		if d.told(i) != same {
			same = ""
		}
	}
	if same != "" {
		return strings.TrimSpace(out + " " + same)
	}
	for i, s := range d.Sheets {
		if told := d.told(i); told != "" {
			out += " " + s.View.Title + ": " + told
		}
	}
	return strings.TrimSpace(out)
}

func (d *Document) told(i int) string {
	if i >= len(d.Sheets) {
		return ""
	}
	return d.Sheets[i].Told()
}

// SealSays is the seal, which is of the whole result: where rows were left out,
// that is said.
func (d *Document) SealSays() string {
	if d.Seal != "" && slices.ContainsFunc(d.Sheets, (*sheet.Sheet).Extract) {
		return d.Seal + ", of the whole result; this is an extract"
	}
	return d.Seal
}

// Views names the views.
func (d *Document) Views() (titles []string) {
	for _, s := range d.Sheets {
		titles = append(titles, s.View.Title)
	}
	return titles
}
