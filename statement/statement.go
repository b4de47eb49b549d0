// Package statement reads what somebody else states, as a bank of payments, from CSV, XLSX and
// ISO 20022 camt.053 files, into items that can be matched.
package statement

import (
	"bytes"
	"errors"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/reconcile"
	"mantilla/core/report"
)

// Lines are the lines of a statement in their order, and the days that it covers: those that it
// says, or else from its first line to its last.
type Lines struct {
	Items        []reconcile.Item
	First, Until period.Day
}

// Bounds of a file.
const (
	MostBytes = 20 << 20
	mostLines = 200_000
	mostTold  = 8 // faults
)

// Read reads a file as a statement is declared. Amounts are in the smallest part of a field's
// scale, with its sign. Everything that is wrong is told at once, with its lines.
func Read(data []byte, by *report.Statement, amount frame.Field) (Lines, error) {
	r := &reader{by: by, amount: amount}
	switch {
	case len(data) > MostBytes:
		return r.lines, fmt.Errorf("the file has %d MB, and %d is the most", len(data)>>20, MostBytes>>20)
	case looksLikeXML(data):
		r.camt(data)
	default:
		r.rows(data)
	}
	if err := r.told(); err != nil {
		return r.lines, err
	}
	if len(r.lines.Items) == 0 {
		return r.lines, errors.New("there is no line in it")
	}
	for i, it := range r.lines.Items {
		if !r.covers { // the days are those of the lines
			if i == 0 {
				r.lines.First, r.lines.Until = it.Day, it.Day
			}
			r.lines.First, r.lines.Until = min(r.lines.First, it.Day), max(r.lines.Until, it.Day)
		}
	}
	return r.lines, nil
}

// looksLikeXML tells whether text begins with an element or a declaration.
func looksLikeXML(data []byte) bool {
	return bytes.HasPrefix(bytes.TrimSpace(bytes.TrimPrefix(data, bom)), []byte("<"))
}

var bom = []byte("\xef\xbb\xbf")

// reader is a file that is being read.
type reader struct {
	by     *report.Statement
	amount frame.Field
	lines  Lines
	covers bool // the file itself says which days it covers
	faults []string
	more   int
}

func (r *reader) fault(place, format string, args ...any) {
	if len(r.faults) == mostTold {
		r.more++
		return
	}
	said := fmt.Sprintf(format, args...)
	if place != "" {
		said = place + ": " + said
	}
	if !slices.Contains(r.faults, said) {
		r.faults = append(r.faults, said)
	}
}

func (r *reader) told() error {
	if len(r.faults) == 0 {
		return nil
	}
	said := strings.Join(r.faults, "; ")
	if r.more > 0 {
		said += fmt.Sprintf("; and %d more like these", r.more)
	}
	return errors.New(said)
}

// add takes a line with its amount as the file states it.
func (r *reader) add(it reconcile.Item) {
	if len(r.lines.Items) == mostLines {
		r.fault("", "it has more than %d lines", mostLines)
		return
	}
	if r.by.Reversed {
		it.Amount = -it.Amount
	}
	it.Reference, it.Text = strings.TrimSpace(it.Reference), strings.Join(strings.Fields(it.Text), " ")
	r.lines.Items = append(r.lines.Items, it)
}

// currency tells that a line is in another currency than the column.
func (r *reader) currency(place, stated string) {
	if r.amount.Currency != "" && stated != "" && !strings.EqualFold(stated, r.amount.Currency) {
		r.fault(place, "it is in %s, and the report's amounts are in %s", stated, r.amount.Currency)
	}
}
