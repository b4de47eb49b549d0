package model

import "time"

// Counts are how much of everything the records have, and since when what waits does.
type Counts struct {
	Runs, Parcels        map[string]int64 // by state
	Results, Rows, Bytes int64            // that are kept
	Cache                int64            // bytes of decoded rows in memory
	Unsent               int64            // lines of the audit
	RunSince             time.Time        // the oldest that waits; zero for none
	ParcelSince          time.Time
	NextDue              time.Time // the next moment of a timetable
}
