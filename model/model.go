// Package model has the nouns of the service: people and what they may open,
// reports, criteria, runs, results, run controls, parcels and how each is known.
// It holds no SQL and no HTTP: the store keeps these, the rooms of the library
// work with them, and every face shows them.
package model

import (
	"time"

	"mantilla/core/period"
)

// Organisation is what the organisation decides that every room goes by.
type Organisation struct {
	Name        string
	Zone        *time.Location // where its days begin and end
	FiscalStart time.Month
	Currency    string           // of money columns that name none
	Address     string           // of the console as people reach it; "" where nobody said
	TwoPeople   bool             // one writes a definition, another takes it into the catalog
	OpenByTwo   bool             // a report is opened further when a second person wants it too
	Now         func() time.Time // the clock; tests and the demo set it
}

// Calendar is today's, in the organisation's zone.
func (o Organisation) Calendar() period.Calendar {
	return period.At(o.Now(), o.Zone, o.FiscalStart)
}
