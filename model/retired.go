package model

import "time"

// Kinds of what can be retired beside reports.
const (
	KindSource    = "source"
	KindParameter = "parameter" // shared
	KindGroup     = "group"
	KindAddress   = "address"
)

// Retired is something that nothing new is to use.
type Retired struct {
	Kind, ID  string
	Successor string // what is used instead; "" for nothing
	At        time.Time
	By        string
}

// Instead says what takes the place of it.
func (r Retired) Instead() string {
	if r.Successor == "" {
		return "nothing takes its place"
	}
	return "use " + r.Successor + " instead"
}
