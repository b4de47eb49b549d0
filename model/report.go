package model

import "time"

// Report is a catalog entry at its present version.
type Report struct {
	ID, Title, Category, Version, Text string
	Shared                             string // parameters declared for the whole catalog, as they were
}

// Version is one version that a report had.
type Version struct {
	Version string
	At      time.Time
}

// Use tells how a report was last used.
type Use struct {
	At       time.Time
	Duration time.Duration
	Rows     int64
}
