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

// Space is what takes space.
type Space struct {
	File, Free            int64 // bytes of the records, and of these what is free
	DiskFree, Disk        int64 // bytes
	Reports, People, Ages []Taken
}

// Taken is what results of a name take.
type Taken struct {
	Name                          string
	Results, Rows, Bytes, ForEver int64 // for ever are the bytes of what has no end
}
