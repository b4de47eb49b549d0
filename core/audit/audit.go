// Package audit is the book of who did what: lines that are only ever added, each with a digest
// over itself and the line before, so that one that was changed, taken out or put in is found.
package audit

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"strings"
	"time"
)

// Line is one thing that somebody did, or was refused.
type Line struct {
	Number  int64     `json:"number"` // from 1, without gaps
	At      time.Time `json:"at"`     // to the millisecond, in UTC
	Person  string    `json:"person,omitempty"`
	Face    string    `json:"face"`              // by which it was done; see [Faces]
	Address string    `json:"address,omitempty"` // of the machine that asked
	Request string    `json:"request,omitempty"` // as the log has it
	Act     string    `json:"act"`               // such as deleteResult
	Kind    string    `json:"kind,omitempty"`    // of what it was done to, such as result
	ID      string    `json:"id,omitempty"`
	Part    string    `json:"part,omitempty"`   // of that, such as view lots
	Before  string    `json:"before,omitempty"` // where it is short
	After   string    `json:"after,omitempty"`
	Outcome string    `json:"outcome"` // see [Outcomes]
	Why     string    `json:"why,omitempty"`
	Digest  string    `json:"digest"`           // SHA-256 in hexadecimal digits; see [Line.Sealed]
	Salt    string    `json:"salt,omitempty"`   // that what may name somebody is digested with; random
	Erased  *Erased   `json:"erased,omitempty"` // what was taken out with somebody; nil for nothing
}

// Faces are by what something is done: in a browser, by the command line, by another program that
// shows a token, or by the service itself, as for a timetable.
var Faces = []string{"console", "command line", "program", "service"}

// Outcomes are what became of it.
var Outcomes = []string{"done", "refused", "failed"}

// Sealed is the digest of a line behind one with the digest before; "" before the first. Each field
// is taken with its length, so that nothing can move from one to the next. Of what may name somebody
// a salted digest is taken, so that it can be taken out without the chain's breaking.
func (l Line) Sealed(before string) string {
	sum := sha256.New()
	fields := []string{before, fmt.Sprint(l.Number), l.At.UTC().Format("2006-01-02T15:04:05.000Z"), l.Face, l.Request,
		l.Act, l.Kind, l.Outcome}
	for _, f := range l.naming() {
		fields = append(fields, l.committed(f.name, *f.text))
	}
	for _, field := range fields {
		_ = binary.Write(sum, binary.BigEndian, uint64(len(field))) // a digest takes whatever is written
		sum.Write([]byte(field))
	}
	return hex.EncodeToString(sum.Sum(nil))
}

// Chain is lines that are looked through from one on, in order.
type Chain struct {
	Lines       int64
	Erased      int64  // lines out of which somebody was taken
	First, Last int64  // numbers; 0 without lines
	Digest      string // of the last line; of the one before the first in the beginning
}

// Broken says where a chain is not whole.
type Broken struct {
	Number int64 // of the line
	Why    string
}

func (b *Broken) Error() string { return fmt.Sprintf("line %d of the audit %s", b.Number, b.Why) }

// Add looks at the next line. It fails with [*Broken] where it does not follow.
func (c *Chain) Add(l Line) error {
	switch {
	case c.Lines > 0 && l.Number > c.Last+1:
		return &Broken{c.Last + 1, "is missing"}
	case c.Lines > 0 && l.Number != c.Last+1:
		return &Broken{l.Number, "stands where another should"}
	case l.Sealed(c.Digest) != l.Digest:
		return &Broken{l.Number, "was changed, or one before it"}
	case !l.erasedWell():
		return &Broken{l.Number, "says something where somebody was taken out"}
	}
	if l.Erased != nil {
		c.Erased++
	}
	if c.Lines == 0 {
		c.First = l.Number
	}
	c.Lines, c.Last, c.Digest = c.Lines+1, l.Number, l.Digest
	return nil
}

// Cut is a text as a line keeps it: on one line, and at most so long.
func Cut(text string) string {
	const longest = 300
	text = strings.Join(strings.Fields(text), " ")
	if runes := []rune(text); len(runes) > longest {
		return string(runes[:longest-1]) + "…"
	}
	return text
}
