package model

import "time"

// KeepRule says how long results are kept at most: those of a report, of a category, or all others. Of
// what is signed off nothing goes by a rule.
type KeepRule struct {
	Kind  string // report, category or all
	ID    string // all for all
	Days  int
	Final bool // what is held goes too, and is not in the trash before
	By    string
	At    time.Time
}

// RuleEffect is what goes by a rule at once.
type RuleEffect struct {
	Results, Bytes int64
	Oldest, Newest time.Time
	Sample         []Result // the oldest
}

// Quota says how much the results of somebody may take.
type Quota struct {
	Kind  string // person, group or everyone
	ID    string // everyone for everyone
	Bytes int64
}

// Allowance is how much somebody's results take, and may.
type Allowance struct {
	Used, Allowed int64 // Allowed 0 for anything
	Of            string
}
