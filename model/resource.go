package model

import "time"

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
