package model

import (
	"time"
)

// Report is a catalog entry at its present version.
type Report struct {
	ID, Title, Category, Version, Text string
	Shared                             string // parameters declared for the whole catalog, as they were
	By, Note                           string // who made it the present version, and why
	Back                               int    // the number of the earlier version that it is; 0 for none
	Retired                            bool   // it left the catalog
	Successor                          string // what takes its place then; "" for nothing
}

// Version is one version that a report had.
type Version struct {
	Number   int // of the report, from 1
	Version  string
	At       time.Time
	By, Note string // "" where it was not kept
	Back     int    // the number of the earlier version that it brought back; 0 for none
}

// Use tells how a report was last used.
type Use struct {
	At       time.Time
	Duration time.Duration
	Rows     int64
}

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

// Term is a word of the glossary.
type Term struct {
	ID        string
	Name      string
	Also      []string // other words for the same
	Meaning   string
	Owner     string // who answers for the meaning; "" for nobody
	Revision  int64
	ChangedAt time.Time
	ChangedBy string
}

// Resource is a document or a link that is kept beside a report, or on a shelf.
type Resource struct {
	ID       string
	Title    string
	About    string
	Category string // of the shelf that it stands on
	Report   string // that it is kept beside; "" for none
	Address  string // of a link; "" for a document
	Revision int64
	Latest   ResourceVersion // zero for a link
}

// ResourceVersion is one version of a document.
type ResourceVersion struct {
	Number int // from 1
	Name   string
	Type   string // of media
	Bytes  int64
	SHA256 string // in hex
	At     time.Time
	By     string
	Note   string
}
