package audit_test

import (
	"bufio"
	"context"
	"crypto/tls"
	"encoding/json"
	"errors"
	"io"
	"net"
	"strings"
	"testing"
	"time"

	"github.com/crewjam/rfc5424"

	"mantilla/core/audit"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/library/acting"
	book "mantilla/library/audit"
	"mantilla/library/librarytest"
	"mantilla/model"
	"mantilla/source/sourcetest"
)

var morning = time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)

// opened is a library whose book is kept as settings say.
func opened(t *testing.T, settings book.Settings, now *librarytest.Clock) (l *library.Library, dir string) {
	t.Helper()
	dir = demotest.Loaded(t, now.Time())
	return librarytest.OpenWith(t, dir, now, func(s *library.Settings) { s.Audit = settings }), dir
}

// by is a context in which somebody acts by the console.
func by(ctx context.Context) context.Context {
	return acting.With(ctx, &acting.Act{Face: "console", Address: "192.0.2.7", Request: "r-1"})
}

// TestSettingsAreNotedAsTheyChange from one start to the next, without what is secret.
func TestSettingsAreNotedAsTheyChange(t *testing.T) {
	l, _ := opened(t, book.Settings{}, librarytest.At(morning))
	adda := librarytest.SignIn(t, l, "adda")
	start := func(waiting, secret string) {
		t.Helper()
		if err := l.NoteSettings(t.Context(), []book.Setting{{Name: "max-waiting", Value: waiting, Usual: "200"},
			{Name: "smtp-password", Value: secret, Secret: true}}); err != nil {
			t.Fatal(err)
		}
	}
	start("200", "")
	start("77", "hush")
	start("77", "hush")
	start("200", "")
	lines, err := adda.Audit.Search(t.Context(), model.AuditSearch{Kind: "setting", Limit: 10})
	if err != nil {
		t.Fatal(err)
	}
	got := ""
	for _, x := range lines {
		got += x.ID + " " + x.Before + ">" + x.After + "\n"
	}
	want := "smtp-password (secret)>\nmax-waiting 77>200\nsmtp-password >(secret)\nmax-waiting >77\n"
	if got != want {
		t.Errorf("the lines are\n%swant\n%s", got, want)
	}
}

// TestLinesAreKeptAndFound with who, by which face and from where, on what, and what changed.
func TestLinesAreKeptAndFound(t *testing.T) {
	l, _ := opened(t, book.Settings{}, librarytest.At(morning))
	adda := librarytest.SignIn(t, l, "adda")
	ctx := by(t.Context())
	acting.Changes(ctx, "reader", "runner\nforged line")
	l.Note(ctx, acting.Done{Person: "adda", Act: "putPerson", Kind: "person", ID: "rhea"})
	l.Note(t.Context(), acting.Done{Act: "sendParcel", Kind: "result", ID: "R-000001", Why: "mail to a@example.org"})
	l.Note(by(t.Context()), acting.Done{Person: "rhea", Act: "deleteResult", Kind: "result", ID: "R-000001",
		Outcome: "refused", Why: "You may not do this"})
	for _, c := range []struct {
		q    model.AuditSearch
		want string
	}{
		{model.AuditSearch{}, "deleteResult sendParcel putPerson"},
		{model.AuditSearch{Person: "adda"}, "putPerson"},
		{model.AuditSearch{Kind: "result", ID: "R-000001"}, "deleteResult sendParcel"},
		{model.AuditSearch{Outcome: "refused"}, "deleteResult"},
		{model.AuditSearch{Face: "service"}, "sendParcel"},
		{model.AuditSearch{Text: "EXAMPLE.org"}, "sendParcel"},
		{model.AuditSearch{Text: "192.0.2"}, "deleteResult putPerson"},
		{model.AuditSearch{Before: 3}, "sendParcel putPerson"},
		{model.AuditSearch{Act: "putPerson", Since: morning.Add(time.Hour)}, ""},
		{model.AuditSearch{Act: "putPerson", Until: morning.Add(time.Hour)}, "putPerson"},
		{model.AuditSearch{Limit: 1}, "deleteResult"},
	} {
		if c.q.Limit == 0 {
			c.q.Limit = 100
		}
		lines, err := adda.Audit.Search(t.Context(), c.q)
		var acts []string
		for _, x := range lines {
			acts = append(acts, x.Act)
		}
		if got := strings.Join(acts, " "); err != nil || got != c.want {
			t.Errorf("%+v finds %q, %v; want %q", c.q, got, err, c.want)
		}
	}
	lines, err := adda.Audit.Search(t.Context(), model.AuditSearch{Person: "adda", Limit: 1})
	if err != nil {
		t.Fatal(err)
	}
	if x := lines[0]; x.Before != "reader" || x.After != "runner forged line" || x.Address != "192.0.2.7" || x.Face !=
		"console" || x.Request != "r-1" || !x.At.Equal(morning) {
		t.Errorf("the line is %+v", x)
	}
	for _, name := range []string{"rhea", "lila"} {
		if _, err := librarytest.SignIn(t, l, name).Audit.Search(t.Context(), model.AuditSearch{}); err == nil {
			t.Errorf("%s looks into the audit", name)
		}
	}
}

// TestReadingIsNotedOnceInAWhile by the same person, of the same part of a result.
func TestReadingIsNotedOnceInAWhile(t *testing.T) {
	now := librarytest.At(morning)
	l, _ := opened(t, book.Settings{}, now)
	read := func(person, part string) {
		l.Note(by(t.Context()), acting.Done{Person: person, Act: "readView", Kind: "result", ID: "R-000001", Part: part,
			Reading: true})
	}
	for range 3 {
		read("rhea", "view lots")
	}
	read("rhea", "view sums")
	read("runa", "view lots")
	later := morning.Add(20 * time.Minute)
	now.Set(later)
	read("rhea", "view lots")
	readers, err := librarytest.SignIn(t, l, "lila").Audit.Readers(t.Context(), "R-000001")
	if err != nil || len(readers) != 2 || readers[0].Person != "rhea" || readers[0].Times != 3 ||
		!readers[0].Last.Equal(later) || !readers[0].First.Equal(morning) || readers[1].Times != 1 {
		t.Errorf("the readers are %+v, %v", readers, err)
	}
	if _, err := librarytest.SignIn(t, l, "runa").Audit.Readers(t.Context(), "R-000001"); err == nil {
		t.Error("runa asks who read a result")
	}
}

// TestNobodyChangesALine: the records refuse it, and what was changed beneath them is found.
func TestNobodyChangesALine(t *testing.T) {
	l, dir := opened(t, book.Settings{}, librarytest.At(morning))
	adda := librarytest.SignIn(t, l, "adda")
	for range 4 {
		l.Note(t.Context(), acting.Done{Person: "runa", Act: "deleteResult"})
	}
	if c, err := adda.Audit.Check(t.Context()); err != nil || c.Lines != 4 {
		t.Errorf("it is %+v, %v", c, err)
	}
	for _, statement := range []string{"update audit set person = 'aron' where number = 2",
		"delete from audit where number = 2", "delete from audit"} {
		if err := librarytest.TryExec(dir, statement); err == nil {
			t.Errorf("%s is done", statement)
		}
	}
	for _, statement := range []string{"drop trigger audit_unchanged",
		"update audit set person = 'aron' where number = 2"} {
		if err := librarytest.TryExec(dir, statement); err != nil {
			t.Fatal(err)
		}
	}
	var broken *audit.Broken
	if c, err := adda.Audit.Check(t.Context()); !errors.As(err, &broken) || broken.Number != 2 || c.Lines != 1 {
		t.Errorf("it is %+v, %v", c, err)
	}
}

// TestLinesGoWhenTheirTimeIsOver, and what is left is whole.
func TestLinesGoWhenTheirTimeIsOver(t *testing.T) {
	now := librarytest.At(morning)
	l, _ := opened(t, book.Settings{Keep: 48 * time.Hour}, now)
	adda := librarytest.SignIn(t, l, "adda")
	for range 5 {
		l.Note(t.Context(), acting.Done{Person: "runa", Act: "deleteResult"})
		now.Set(now.Time().Add(24 * time.Hour))
	}
	if err := l.ForgetAudit(t.Context()); err != nil {
		t.Fatal(err)
	}
	c, err := adda.Audit.Check(t.Context())
	if err != nil || c.First != 4 || c.Last != 6 {
		t.Errorf("what is left is %+v, %v", c, err)
	}
	lines, err := adda.Audit.Search(t.Context(), model.AuditSearch{Limit: 1})
	if err != nil || lines[0].Act != "forgetLines" || !strings.Contains(lines[0].Why, "2026-10-18") {
		t.Errorf("the last line is %+v, %v", lines, err)
	}
	file, err := adda.Audit.Export(t.Context(), 0)
	if err != nil {
		t.Fatal(err)
	}
	if c, err := audit.ReadFile(file); err != nil || c.Lines != 3 {
		t.Errorf("taken away it is %+v, %v", c, err)
	}
}

// collected takes messages that come in octets that are counted, and hands on what they say.
func collected(t *testing.T, listener net.Listener) <-chan rfc5424.Message {
	t.Helper()
	got := make(chan rfc5424.Message, 100)
	go func() {
		for {
			c, err := listener.Accept()
			if err != nil {
				return
			}
			r := bufio.NewReader(c)
			for {
				var m rfc5424.Message
				if _, err := m.ReadFrom(r); err != nil {
					if !errors.Is(err, io.EOF) {
						t.Error(err)
					}
					break
				}
				got <- m
			}
			c.Close()
		}
	}()
	return got
}

// TestLinesAreSentOn as they are added, once and in order, to a collector that proves who it is.
func TestLinesAreSentOn(t *testing.T) {
	a := sourcetest.NewAuthority(t)
	plain, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	listener := tls.NewListener(plain, &tls.Config{Certificates: []tls.Certificate{a.Pair(t)},
		MinVersion: tls.VersionTLS12})
	defer listener.Close()
	got := collected(t, listener)
	l, _ := opened(t, book.Settings{Syslog: "tls://" + plain.Addr().String(), CA: a.File}, librarytest.At(morning))
	for _, act := range []string{"one", "two", "three"} {
		l.Note(by(t.Context()), acting.Done{Person: "runa", Act: act})
		select {
		case m := <-got:
			var line audit.Line
			if err := json.Unmarshal(m.Message, &line); err != nil || line.Act != act || m.MessageID != act || m.AppName !=
				"mantilla" || m.Priority != 13<<3|rfc5424.Notice {
				t.Errorf("it came as %+v, %v", m, err)
			}
		case <-time.After(10 * time.Second):
			t.Fatal("nothing came")
		}
	}
}

// TestWhereLinesGo has to be said right.
func TestWhereLinesGo(t *testing.T) {
	for text, says := range map[string]string{"logs": "is no address", "http://logs": "use udp://",
		"tls://": "no address"} {
		_, err := book.Open(model.Organisation{}, book.Settings{Syslog: text}, nil, nil)
		if err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", text, err)
		}
	}
}
