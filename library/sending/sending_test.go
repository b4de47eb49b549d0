package sending_test

import (
	"bytes"
	"errors"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/core/ask"
	"mantilla/deliver"
	"mantilla/deliver/mailbox"
	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/controls"
	"mantilla/library/desk"
	"mantilla/library/librarytest"
	"mantilla/library/reading"
	"mantilla/library/sending"
	"mantilla/model"
)

// TestMonthOfTheDistricts lets the last working day of the month come: each
// district's people get their spreadsheets with only their rows, once, and the
// desk shows the change from the month before.
func TestMonthOfTheDistricts(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 9, 29, 12, 0, 0, 0, librarytest.Berlin))
	tile := desk.Tile{
		Control: demo.MonthEnd,
		Step:    1,
		Part:    "Hollin",
		View:    "by_district",
		Show:    "figure",
		Measure: "net_kg",
	}
	o.During("before", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		c, err := runa.Controls.Control(t.Context(), demo.MonthEnd)
		if err != nil {
			t.Fatal(err)
		}
		c.Timetable.Start = 20000 // long ago, as the demo's is of its own day
		if c, err = runa.Controls.PutControl(t.Context(), c); err != nil ||
			!c.Next.Equal(time.Date(2026, 9, 30, 18, 0, 0, 0, librarytest.Berlin)) {
			t.Fatalf("due on %s, %v", c.Next, err)
		}
		if _, err := runa.Desk.PutDesk(t.Context(),
			desk.Desk{Kind: "person", Owner: "runa", Tiles: []desk.Tile{tile}}); err != nil {
			t.Fatal(err)
		}
	})
	// The thirtieth of October is a day off: the last working day is before it.
	for i, due := range []time.Time{time.Date(2026, 9, 30, 18, 0, 4, 0, librarytest.Berlin),
		time.Date(2026, 10, 29, 18, 0, 4, 0, librarytest.Berlin)} {
		o.Now.Set(due)
		o.During("due "+due.Format("January"), func(t *testing.T, l *library.Library) {
			runa := librarytest.Person(t, l, "runa")
			librarytest.UntilOr(t, "all letters", func() bool { return len(o.Box.Letters()) >= 13*(i+1) }, func() any {
				waiting, err := runa.Sending.Parcels(t.Context(), model.Waiting, 0, 10)
				shown := []any{waiting, err}
				if table, err := runa.Controls.Timetable(t.Context(), 100); err == nil {
					for _, r := range table.Ran {
						if r.Sending != "done" {
							shown = append(shown, r.Number, r.Sending, r.SentNote, r.Runs[0].State, r.Runs[0].Reason)
						}
					}
				}
				return shown
			})
			table, err := runa.Controls.Timetable(t.Context(), 100)
			if err != nil || len(table.Ran) != 12*(i+1) || len(table.Notes) != 0 {
				t.Fatalf("%d ran, notes %v, %v", len(table.Ran), table.Notes, err)
			}
			for _, r := range table.Ran[:12] {
				if !r.Moment.Equal(due.Truncate(time.Minute)) || r.Sending != "done" || len(r.Runs) != 2 ||
					!strings.Contains(r.Runs[0].Sentence, "district "+r.PartName+" ") {
					t.Errorf("%+v", r)
				}
			}
			now, err := runa.Desk.Show(t.Context(), tile)
			if err != nil || now.Result == nil || now.Figure.Null {
				t.Fatalf("%+v, %v", now, err)
			}
			if i == 1 && (now.Before == nil || now.Change.Null ||
				now.Was.Number.Plus(now.Change.Number, 1).Compare(now.Figure.Number) != 0) {
				t.Errorf("the change on the desk: %+v", now)
			}
		})
	}
	for recipient, district := range map[string]string{"hollin@brackenfell.example": "Hollin",
		"dora@brackenfell.example": "Hollin", "lorrin@brackenfell.example": "Lórrin"} {
		books := o.Workbooks(t, recipient)
		if len(books) != 4 {
			t.Errorf("%s has %d spreadsheets", recipient, len(books))
		}
		rows := 0
		for name, book := range books {
			for _, sheet := range book.GetSheetList() {
				cells, err := book.GetRows(sheet)
				if err != nil {
					t.Fatal(err)
				}
				at := slices.Index(cells[0], "District")
				if at < 0 {
					continue
				}
				for _, row := range cells[1:] {
					if len(row) > at && row[at] != "" {
						if row[at] != district {
							t.Errorf("%s: %s in %s has a row of %s", recipient, sheet, name, row[at])
						}
						rows++
					}
				}
			}
		}
		if rows < 10 {
			t.Errorf("%s got %d rows", recipient, rows)
		}
	}
	o.Now.Set(o.Now.Time().Add(3 * time.Hour))
	o.During("again", func(t *testing.T, l *library.Library) {
		time.Sleep(200 * time.Millisecond)
		if n := len(o.Box.Letters()); n != 26 || o.Box.Again() != 0 {
			t.Errorf("%d letters, %d came again", n, o.Box.Again())
		}
	})
}

func TestWhatIsSentToWhom(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 9, 0, 0, 0, librarytest.Berlin))
	o.During("sending", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		// Dora sees one district: she gets a part of her own.
		runs := librarytest.Send(t, runa,
			librarytest.Control("cut", func(c *controls.Control) { c.Send.To = []string{"adda", "dora"} }))
		if len(runs) != 2 || runs[0].Runs[0].Rows >= runs[1].Runs[0].Rows || !runs[0].Runs[0].Reach.Limited ||
			runs[1].Runs[0].Reach.Limited {
			t.Errorf("%+v", runs)
		}
		for _, p := range librarytest.ParcelsOf(t, runa, runs) {
			if len(p.Recipients) != 1 || p.Recipients[0].Name == "Dora Hollinfen" != (p.ControlRun == runs[0].Number) {
				t.Errorf("%+v", p)
			}
		}
		// A report that she may not open is not sent to her at all.
		runs = librarytest.Send(t, runa, librarytest.Control("closed", func(c *controls.Control) {
			c.Steps = []controls.Step{{Report: "trial-balance"}}
			c.Send.To = []string{"adda", "dora"}
		}))
		if len(runs) != 1 || !strings.Contains(runs[0].SentNote, "Dora Hollinfen may not open the report trial-balance") {
			t.Errorf("%+v", runs)
		}
		// An alert is sent when its condition holds.
		for when, state := range map[string]string{"sum(value) > 10000": "done", "sum(value) > 1000000000": "none",
			"rows": "done"} {
			runs = librarytest.Send(t, runa,
				librarytest.Control("alert",
					func(c *controls.Control) { c.Send.When = when; c.Revision = revision(t, runa, "alert") }))
			if runs[0].Sending != state {
				t.Errorf("%s: %s, %s", when, runs[0].Sending, runs[0].SentNote)
			}
		}
		// A part for each grade, to those who are named for it.
		runs = librarytest.Send(t, runa, librarytest.Control("grades", func(c *controls.Control) {
			c.Send.To, c.Split = []string{"adda"},
				&sending.Split{Column: "grade", People: map[string][]string{"Select": {"hollin"}}}
			c.Send.Folder = "grades"
		}))
		bySubject := map[string]int{}
		for _, p := range librarytest.ParcelsOf(t, runa, runs) {
			if p.Way == "mail" {
				bySubject[p.Title] = len(p.Recipients)
			}
		}
		if len(bySubject) != 4 || bySubject["grades Select"] != 1 || bySubject["grades Baking"] != 1 ||
			bySubject["grades UF-HOL Select"] != 1 {
			t.Errorf("%v", bySubject)
		}
		librarytest.Until(t, "three files", func() bool {
			files, _ := filepath.Glob(filepath.Join(o.Dir, "outgoing", "grades", "*.csv"))
			return len(files) == 3
		})
	})
}

func revision(t *testing.T, a *library.Access, id string) int64 {
	c, err := a.Controls.Control(t.Context(), id)
	if err != nil {
		return 0
	}
	return c.Revision
}

// TestTheQueueWaitsAndIsMended sends to one who takes mail, one who does so
// later and one who never does.
func TestTheQueueWaitsAndIsMended(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 9, 0, 0, 0, librarytest.Berlin))
	o.Box.Refuse("full@brackenfell.example", 452)
	o.Box.Refuse("gone@brackenfell.example", 550)
	var number int64
	state := func(t *testing.T, l *library.Library) model.Parcel {
		p, err := librarytest.Person(t, l, "runa").Sending.Parcel(t.Context(), number)
		if err != nil {
			t.Fatal(err)
		}
		return p
	}
	o.During("first", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		runs := librarytest.Send(t, runa, librarytest.Control("three", func(c *controls.Control) {
			c.Send.To = []string{"runa", "full@brackenfell.example"}
			c.Send.Blind = []string{"gone@brackenfell.example"}
		}))
		number = librarytest.ParcelsOf(t, runa, runs)[0].Number
		librarytest.Until(t, "a first attempt", func() bool { return state(t, l).Reason != "" })
		p := state(t, l)
		if p.State != model.Waiting || p.Recipients[0].State != model.Sent || p.Recipients[1].State != model.Waiting ||
			p.Recipients[2].State != model.Turned || !p.NextAt.Equal(o.Now.Time().Add(time.Minute)) {
			t.Errorf("%+v", p)
		}
	})
	o.Now.Set(o.Now.Time().Add(61 * time.Second))
	o.Box.Refuse("full@brackenfell.example", 0)
	o.During("later", func(t *testing.T, l *library.Library) {
		librarytest.Until(t, "a second attempt",
			func() bool { p := state(t, l); return p.Tries == 2 && p.State == model.Failed })
		if p := state(t, l); p.Recipients[1].State != model.Sent {
			t.Errorf("%+v", p)
		}
		runa := librarytest.Person(t, l, "runa")
		if _, err := runa.Sending.MendParcel(t.Context(), number,
			map[string]string{"nobody@x.example": "a@x.example"}); err == nil {
			t.Error("one who is not written to was replaced")
		}
		if _, err := librarytest.Person(t, l, "dora").Sending.Parcel(t.Context(), number); !errors.Is(err,
			model.ErrNotFound) {
			t.Errorf("another sees it: %v", err)
		}
		if _, err := runa.Sending.MendParcel(t.Context(), number,
			map[string]string{"gone@brackenfell.example": "here@brackenfell.example"}); err != nil {
			t.Fatal(err)
		}
		librarytest.Until(t, "the third", func() bool { return state(t, l).State == model.Sent })
	})
	ids := map[string]bool{}
	for _, l := range o.Box.Letters() {
		ids[l.MessageID] = true
		_, text, err := o.Box.Message(l.ID)
		if err != nil || bytes.Contains(text, []byte("here@")) || bytes.Contains(text, []byte("gone@")) {
			t.Errorf("a blind recipient stands in the message: %v", err)
		}
	}
	if len(o.Box.Letters()) != 3 || len(ids) != 1 || o.Box.Again() != 0 {
		t.Errorf("%d letters, %d messages, %d came again", len(o.Box.Letters()), len(ids), o.Box.Again())
	}
}

func TestSendingNow(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 9, 0, 0, 0, librarytest.Berlin))
	o.During("now", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		run, err := runa.Capture.StartRun(t.Context(),
			capture.Ask{Report: "intake-lots", Typed: map[string]string{"received": "2026-08"}})
		if err != nil {
			t.Fatal(err)
		}
		run = librarytest.Ended(t, runa, run)
		x, err := runa.Reading.Result(t.Context(), run.Result)
		if err != nil {
			t.Fatal(err)
		}
		select1 := reading.Viewed{View: "lots", Changes: ask.Changes{Filters: []string{"grade=Select"}}}
		takes := []reading.Take{{Format: "pdf", Views: []reading.Viewed{select1}}, {Format: "xlsx"}}
		for want, s := range map[string]sending.Send{"nobody is written to": {},
			"is called \"holli\"": {To: []string{"holli"}}, "sees only [UF-HOL]": {To: []string{"dora"}}} {
			if _, err := runa.Sending.SendNow(t.Context(), x, takes, s); err == nil || !strings.Contains(err.Error(), want) {
				t.Errorf("want %q, got %v", want, err)
			}
		}
		p, err := runa.Sending.SendNow(t.Context(), x, takes,
			sending.Send{To: []string{"management"}, Subject: "{report}: {rows} rows", InBody: true})
		if err != nil || len(p.Files) != 2 || len(p.Recipients) != 2 || p.Title != "Intake lots: 911 rows" {
			t.Errorf("%+v, %v", p, err)
		}
		librarytest.Until(t, "two letters", func() bool { return len(o.Box.Letters()) == 2 })
		if all, err := runa.Sending.Letters(t.Context()); err != nil || len(all) != 1 {
			t.Errorf("runa sees %d letters, %v", len(all), err)
		}
		letter := o.Box.Letters()[0]
		_, text, err := o.Box.Message(letter.ID)
		if err != nil || !messageID.MatchString(letter.MessageID) {
			t.Errorf("the id is %q, %v", letter.MessageID, err)
		}
		link := "https://reports.brackenfell.example/results/R-000001?lots.filter=grade%3DSelect&view=lots"
		if _, parts, err := mailbox.Parts(text); err != nil || !strings.Contains(string(parts[0].Data), link) {
			t.Errorf("no link to what was sent: %s %v", parts[0].Data, err)
		}
	})
	// Files that are too large become a link.
	l := librarytest.OpenWith(t, demotest.Dir(t), o.Now, func(s *library.Settings) {
		s.Sending.Mail, s.Sending.MailLimit,
			s.Address = deliver.Server{Address: o.Box.Address(), From: "r@brackenfell.example", TLS: "none"}, 1000,
			"https://reports.brackenfell.example"
	})
	if err := demo.Load(t.Context(), l); err != nil {
		t.Fatal(err)
	}
	runa := librarytest.Person(t, l, "runa")
	runs := librarytest.Send(t, runa, librarytest.Control("large", func(*controls.Control) {}))
	if p := librarytest.ParcelsOf(t, runa, runs)[0]; len(p.Files) != 0 {
		t.Errorf("%+v", p)
	}
	librarytest.Until(t, "the letter", func() bool { return len(o.Box.Letters()) == 3 })
	for _, letter := range o.Box.Letters() {
		_, text, err := o.Box.Message(letter.ID)
		if err != nil {
			t.Fatal(err)
		}
		_, parts, err := mailbox.Parts(text)
		if err != nil || letter.Subject == "large" &&
			!strings.Contains(string(parts[0].Data), "https://reports.brackenfell.example/results/R-000001") {
			t.Errorf("%s %v", parts[0].Data, err)
		}
	}
}

func TestSplitByAColumnOfManyValuesIsRefusedWithTheirNumber(t *testing.T) {
	o := librarytest.NewOffice(t, time.Date(2026, 10, 15, 12, 0, 0, 0, librarytest.Berlin))
	o.During("many", func(t *testing.T, l *library.Library) {
		runa := librarytest.Person(t, l, "runa")
		runs := librarytest.Send(t, runa, librarytest.Control("many", func(c *controls.Control) {
			c.Steps[0].Typed = map[string]string{"received": "2023-01-01/2026-10-15"}
			c.Send = &sending.Send{Folder: "many"}
			c.Split = &sending.Split{Column: "lot_no"}
		}))
		var note string
		librarytest.Until(t, "an end", func() bool {
			all, err := runa.Controls.ControlRuns(t.Context(), "many", 1)
			if err != nil {
				t.Fatal(err)
			}
			note = all[0].SentNote
			return all[0].Sending == "failed"
		})
		if !strings.Contains(note, "parts; at most 5000") || !strings.Contains(note, "lot_no") {
			t.Errorf("the note is %q", note)
		}
		if all, err := runa.Sending.Parcels(t.Context(), "", 0, 10); err != nil || len(all) != 0 || len(runs) != 1 {
			t.Errorf("%d parcels of it, %v", len(all), err)
		}
	})
}

// messageID is what RFC 5322 lets an id be.
var messageID = regexp.MustCompile(`^<?[A-Za-z0-9_-]+(\.[A-Za-z0-9_-]+)*@[A-Za-z0-9_-]+(\.[A-Za-z0-9_-]+)*>?$`)
