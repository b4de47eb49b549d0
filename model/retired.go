package model

import "time"

// Kinds of what can be retired and renamed beside reports. An account is renamed only: it is
// closed, or deleted.
const (
	KindAccount   = "account"
	KindSource    = "source"
	KindParameter = "parameter" // shared
	KindGroup     = "group"
	KindAddress   = "address"
)

// SaidKind is the word for a kind.
func SaidKind(kind string) string {
	if kind == KindParameter {
		return "shared parameter"
	}
	return kind
}

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
