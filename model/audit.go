package model

import "time"

// AuditSearch says which lines of the audit are wanted; what is empty asks for nothing.
type AuditSearch struct {
	Before                         int64 // only lines with smaller numbers
	Person, Kind, ID, Act, Outcome string
	Face, Text                     string
	Since, Until                   time.Time
	Limit                          int
}

// Reading is who read a result, or took it away, and when.
type Reading struct {
	Person, Face, Act string
	Times             int64
	First, Last       time.Time
}

// ReadingActs are the acts by which somebody comes to see the rows of a result, as a list in JSON.
func ReadingActs() string {
	return `["readView","openFigure","readRow","findText","listColumnValues","readOutline","readCompleteness","showTile",
		"previewPage","exportView","startExport","fetchExport","sendResult","proveResult","compare","readHistory","reconcile",
		"listEntries","sendParcel"]`
}
