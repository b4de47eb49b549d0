package model

import (
	"errors"
	"time"

	"mantilla/core/checks"
	"mantilla/core/report"
)

// Result is a kept result without its rows.
type Result struct {
	Number    int64
	Run       int64
	Report    string
	Title     string
	Sentence  string
	KeptAt    time.Time
	Rows      int64
	Bytes     int64
	KeptTill  time.Time // when it is deleted; zero for never
	TrashedAt time.Time // when it was put into the trash; zero where it is not there
	Manifest  Manifest
	Signs     []Sign // who signed it off, step by step
	Signed    bool   // all steps are
	Held      bool   // somebody holds it
	Settled   []byte // the settled definition, only where one result is read; none of the earlier forms
}

// ResultWish says which results are wanted; empty fields mean all.
type ResultWish struct {
	Sees   Sight
	Report string
	Search string // in title, sentence and notes
	Before int64  // only results with a smaller number
	Limit  int

	By      string    // who asked for it
	Control string    // the run control that it is of
	Since   time.Time // kept from then on
	Until   time.Time // and before then
	Signed  bool      // only those that are signed off
	Held    bool      // only those that are held or signed off
	Noted   bool      // only those with a note that is open
	Trashed bool      // only those in the trash, which are in no other list
}

// ErrHeld says that a result is signed off or held, and so is not deleted.
var ErrHeld = errors.New("it is signed off or held; withdraw that or release it first")

// Manifest tells how a result was made.
type Manifest struct {
	Report      string            `json:"report"`
	Version     string            `json:"version"`
	Typed       map[string]string `json:"typed"`
	Facts       []Fact            `json:"facts"`
	AskedBy     string            `json:"asked_by"`
	StartedAt   time.Time         `json:"started_at"`
	Duration    time.Duration     `json:"duration"` // nanoseconds
	Source      string            `json:"source"`
	Fingerprint string            `json:"fingerprint"`
	Reach       report.Reach      `json:"reach"` // what the rows are cut to
	Datasets    []Kept            `json:"datasets"`
	Seal        string            `json:"seal"` // in hex; package store tells over what

	// What the service was set to: what the cells mean depends on it. Results of
	// the first form do not have it, and their seals cover the batches only.
	Form        int        `json:"form,omitempty"` // 0 the first
	Title       string     `json:"title,omitempty"`
	Sentence    string     `json:"sentence,omitempty"`
	Currency    string     `json:"currency,omitempty"` // of money whose column names none
	Zone        string     `json:"zone,omitempty"`
	FiscalStart time.Month `json:"fiscal_start,omitempty"`

	// Settled is the SHA-256, in hex, of the settled definition that is kept with the
	// result; see [Result.Settled].
	Settled string `json:"settled,omitempty"`

	// Made is what the result was made of, where that is other results.
	Made *Making `json:"made,omitempty"`

	// Checks are how what should hold of the figures came out.
	Checks []checks.Outcome `json:"checks,omitempty"`
}

// Kept tells how many rows and batches of a dataset were kept.
type Kept struct {
	Dataset string   `json:"dataset"`
	Rows    int64    `json:"rows"`
	Batches int      `json:"batches"`
	Lengths []int64  `json:"lengths,omitempty"` // rows of each batch; not of the first forms
	Digests []string `json:"digests,omitempty"` // SHA-256 of each batch, in hex; not of the first form
	Reason  string   `json:"reason,omitempty"`  // why the dataset could not be read; "" where it could
	Stay    *Stay    `json:"stay,omitempty"`    // where the rows are that stay in the engine of their source
}

// Stay is where rows are that stay in the engine of their source, and what is known of them.
type Stay struct {
	Source  string       `json:"source"`
	Table   string       `json:"table"`
	Bytes   int64        `json:"bytes"`
	Columns []StayColumn `json:"columns"`
}

// StayColumn is what is known of a column whose cells lie in an engine.
type StayColumn struct {
	Digest  string `json:"digest"`            // over its cells and the numbers of their rows, in whichever order
	Letters string `json:"letters,omitempty"` // of texts: ascii, foldable, or "" for any
	Text    bool   `json:"text,omitempty"`

	// Of numbers, and of what else is kept as one, in units of the last place.
	Count    int64  `json:"count,omitempty"` // of cells that have a value
	Sum      string `json:"sum,omitempty"`
	Least    int64  `json:"least,omitempty"`
	Greatest int64  `json:"greatest,omitempty"`
}
