package librarytest

import (
	"bytes"
	"strings"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"

	"mantilla/deliver"
	"mantilla/deliver/mailbox"
	"mantilla/demo/demotest"
	"mantilla/library"
)

// Office is a data directory with the demo in it, and a mail server beside.
type Office struct {
	T   *testing.T
	Dir string
	Now *Clock
	Box *mailbox.Box
}

// NewOffice makes a directory with the demo's data and begins a mail server; its
// clock stands at a moment.
func NewOffice(t *testing.T, at time.Time) *Office {
	t.Helper()
	o := &Office{T: t, Dir: demotest.Loaded(t, at), Now: At(at)}
	var err error
	if o.Box, err = mailbox.Open(t.TempDir(), "127.0.0.1:0", o.Now.Time); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { o.Box.Close() })
	return o
}

// During runs the service for as long as do takes.
func (o *Office) During(name string, do func(t *testing.T, l *library.Library)) {
	o.T.Helper()
	o.T.Run(name, func(t *testing.T) {
		l := OpenWith(t, o.Dir, o.Now, func(s *library.Settings) {
			s.Sending.Mail = deliver.Server{Address: o.Box.Address(), From: "Reports <reports@brackenfell.example>", TLS: "none"}
			s.Sending.Mailbox, s.Address = o.Box, "https://reports.brackenfell.example"
		})
		do(t, l)
	})
}

// Workbooks are the spreadsheets of the letters to somebody, by name.
func (o *Office) Workbooks(t *testing.T, recipient string) map[string]*excelize.File {
	t.Helper()
	out := map[string]*excelize.File{}
	for _, l := range o.Box.Letters() {
		if l.Recipient != recipient {
			continue
		}
		_, text, err := o.Box.Message(l.ID)
		if err != nil {
			t.Fatal(err)
		}
		_, parts, err := mailbox.Parts(text)
		if err != nil {
			t.Fatal(err)
		}
		for _, p := range parts {
			if strings.HasSuffix(p.Name, ".xlsx") {
				book, err := excelize.OpenReader(bytes.NewReader(p.Data))
				if err != nil {
					t.Fatal(err)
				}
				out[p.Name] = book
			}
		}
	}
	return out
}
