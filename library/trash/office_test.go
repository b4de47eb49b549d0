package trash_test

import (
	"errors"
	"strings"
	"testing"

	"mantilla/library"
	"mantilla/library/access"
	"mantilla/library/capture"
	"mantilla/library/drafting"
	"mantilla/library/librarytest"
	"mantilla/model"
)

const easter = "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nX-WR-CALNAME:Spare days\r\nBEGIN:VEVENT\r\nUID:1\r\n" +
	"DTSTAMP:20260101T000000Z\r\nDTSTART;VALUE=DATE:20261026\r\nSUMMARY:Off\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"

// must ends a test at the first of several steps that failed.
func must(t *testing.T, what string, all ...error) {
	t.Helper()
	if err := errors.Join(all...); err != nil {
		t.Fatalf("%s: %v", what, err)
	}
}

// TestAGroupComesBack deletes a group that a report is open to and criteria are shared with; both are again
// when it comes back, but for who is gone meanwhile and what was shared with others.
func TestAGroupComesBack(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	adda, lila := librarytest.SignIn(t, l, "adda"), librarytest.SignIn(t, l, "lila")
	dora := librarytest.SignIn(t, l, "dora")
	ctx := t.Context()
	must(t, "an account", adda.PutPerson(ctx, model.Person{Name: "hal", Title: "Hal Heath", Role: model.Reader},
		"a long pass phrase"))
	must(t, "a group", adda.PutGroup(ctx, model.Group{ID: "closers", Title: "Who close the month",
		Members: []string{"runa", "dora", "hal"}}))
	runa := librarytest.SignIn(t, l, "runa") // of the group now
	_, err := lila.Catalog.Open(ctx, "agent-commission", []model.Opening{{Kind: "group", Name: "closers"}})
	must(t, "opened", err)
	var kept [2]int64
	for i, name := range []string{"stays", "moves"} {
		c, err := runa.Asking.KeepCriteria(ctx, model.Criteria{Report: "intake-lots", Name: name, Shared: "closers",
			Typed: map[string]string{"received": "2026-09"}})
		must(t, name, err)
		kept[i] = c.Number
	}
	shared := func(i int) string {
		c, err := runa.Asking.FindCriteria(ctx, kept[i])
		must(t, "criteria", err)
		return c.Shared
	}
	opens := func(a *library.Access) bool {
		_, err := librarytest.SignIn(t, l, a.Person().Name).Catalog.Report("agent-commission")
		return err == nil
	}
	if !opens(dora) {
		t.Fatal("the group opens nothing")
	}
	must(t, "deleted", adda.DeleteGroup(ctx, "closers"), adda.DeletePerson(ctx, "hal"))
	if opens(dora) || shared(0) != "" {
		t.Errorf("something is open to a group that is deleted; criteria are shared with %q", shared(0))
	}
	moved, err := runa.Asking.FindCriteria(ctx, kept[1])
	must(t, "criteria", err)
	moved.Shared = "everyone"
	_, err = runa.Asking.ChangeCriteria(ctx, moved)
	must(t, "shared with others", err)
	if _, says := thrown(t, lila); says != "" {
		t.Errorf("who keeps no people sees %s", says)
	}
	for _, a := range []*library.Access{lila, runa} {
		if err := a.Trash.BringBack(ctx, model.ThrownGroup, "closers"); err == nil {
			t.Errorf("%s brings the group back", a.Person().Name)
		}
	}
	must(t, "brought back", adda.Trash.BringBack(ctx, model.ThrownGroup, "closers"))
	if !opens(dora) || shared(0) != "closers" || shared(1) != "everyone" {
		t.Errorf("what was open to the group is not; shared with %q and %q", shared(0), shared(1))
	}
	groups, err := adda.Groups(ctx)
	must(t, "groups", err)
	for _, g := range groups {
		if g.ID == "closers" && strings.Join(g.Members, " ") != "dora runa" {
			t.Errorf("its members are %v", g.Members)
		}
	}
	must(t, "the account", adda.Trash.BringBack(ctx, model.ThrownAccount, "hal"))
	knock := access.Knock{Name: "hal", Password: "a long pass phrase", Kind: "token"}
	if _, p, _, err := l.Door().SignIn(ctx, knock); err != nil || p.Title != "Hal Heath" {
		t.Errorf("who came back does not sign in: %v", err)
	}
	if _, says := thrown(t, adda); says != "" {
		t.Errorf("the trash still has %s", says)
	}
}

// TestWhatTheOfficeKeepsComesBack deletes a report, a draft, a document and days off, each with what belongs
// to it.
func TestWhatTheOfficeKeepsComesBack(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	lila, aron := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "aron")
	runa := librarytest.SignIn(t, l, "runa")
	ctx := t.Context()
	_, err := lila.Shelf.Put(ctx, model.Resource{ID: "closing", Title: "Closing", Category: "Accounts"},
		[]model.Opening{{Kind: "person", Name: "runa"}})
	must(t, "a document", err)
	_, err = lila.Shelf.AddVersion(ctx, "closing", "closing.txt", "", []byte("How a month is closed.\n"))
	must(t, "its file", err)
	_, err = lila.Controls.PutCalendar(ctx, "spare", []byte(easter))
	must(t, "days off", err)
	d, err := aron.Drafting.Begin(ctx, drafting.Beginning{Copy: "lot-history"})
	must(t, "a draft", err)
	must(t, "deleting", lila.Shelf.Delete(ctx, "closing"), lila.Controls.DeleteCalendar(ctx, "spare"),
		aron.Drafting.DeleteDraft(ctx, d.Number), lila.Catalog.DeleteReport(ctx, "lot-history"))
	want := "calendar Spare days; document Closing; draft " + d.Title + "; report "
	all, says := thrown(t, lila)
	if !strings.HasPrefix(says, want) {
		t.Fatalf("the trash has %s, not %s", says, want)
	}
	if _, says := thrown(t, aron); says != "draft "+d.Title {
		t.Errorf("who wrote the draft sees %s", says)
	}
	for _, x := range all {
		var refused *model.Refused
		if err := runa.Trash.BringBack(ctx, x.Kind, x.ID); err == nil || errors.As(err, &refused) {
			t.Errorf("a runner and the %s: %v", x.Kind, err)
		}
		who := lila
		if x.Kind == model.ThrownDraft {
			who = aron
		}
		must(t, x.Kind, who.Trash.BringBack(ctx, x.Kind, x.ID))
		if err := who.Trash.BringBack(ctx, x.Kind, x.ID); err == nil {
			t.Errorf("the %s comes back twice", x.Kind)
		}
	}
	ask := capture.Ask{Report: "lot-history", Typed: map[string]string{"lot": "L26-16430"}}
	if r := librarytest.RunWell(t, runa, ask); r.Rows == 0 {
		t.Error("the report that came back finds no rows")
	}
	if _, data, err := runa.Shelf.File(ctx, "closing", 1); err != nil || !strings.HasPrefix(string(data), "How") {
		t.Errorf("the document holds %q, %v", data, err)
	}
	if c, err := lila.Controls.CalendarOf(ctx, "spare"); err != nil || len(c.Days) != 1 || c.Text != easter {
		t.Errorf("the days off are %v, %v", c.Days, err)
	}
	if back, err := aron.Drafting.Draft(ctx, d.Number); err != nil || back.Text != d.Text {
		t.Errorf("the draft: %v", err)
	}
}

// TestAnotherIsInTheWay says that what was deleted cannot come back beside its namesake, and lets what lay aside
// go with the trash.
func TestAnotherIsInTheWay(t *testing.T) {
	o := librarytest.NewOffice(t, morning)
	put := func(t *testing.T, lila *library.Access, text string) {
		t.Helper()
		_, err := lila.Shelf.Put(t.Context(), model.Resource{ID: "closing", Title: "Closing", Category: "Accounts"}, nil)
		must(t, "a document", err)
		_, err = lila.Shelf.AddVersion(t.Context(), "closing", "closing.txt", "", []byte(text))
		must(t, "its file", err)
	}
	o.During("deleted twice", func(t *testing.T, l *library.Library) {
		lila := librarytest.SignIn(t, l, "lila")
		put(t, lila, "first\n")
		must(t, "deleted", lila.Shelf.Delete(t.Context(), "closing"))
		put(t, lila, "second\n")
		err := lila.Trash.BringBack(t.Context(), model.ThrownDocument, "closing")
		if err == nil || !strings.Contains(err.Error(), "another document of the same name") {
			t.Errorf("beside its namesake: %v", err)
		}
		if _, data, err := lila.Shelf.File(t.Context(), "closing", 1); err != nil || string(data) != "second\n" {
			t.Errorf("it holds %q, %v", data, err)
		}
		must(t, "deleted again", lila.Shelf.Delete(t.Context(), "closing"))
		if all, _ := thrown(t, lila); len(all) != 1 {
			t.Errorf("the trash has %d things of one name", len(all))
		}
	})
	o.Now.Set(morning.AddDate(0, 0, model.TrashDays+1))
	o.During("a month later", func(t *testing.T, l *library.Library) {
		lila := librarytest.SignIn(t, l, "lila")
		librarytest.Until(t, "the trash is emptied", func() bool {
			return lila.Trash.BringBack(t.Context(), model.ThrownDocument, "closing") != nil
		})
		put(t, lila, "third\n")
		if _, _, err := lila.Shelf.File(t.Context(), "closing", 2); err == nil {
			t.Error("a version of the document that went is there")
		}
	})
}

// TestARetiredReportComesBackRetired deletes a report that is retired, and brings it back once the service began
// anew, which knew nothing of it.
func TestARetiredReportComesBackRetired(t *testing.T) {
	o := librarytest.NewOffice(t, morning)
	o.During("retired and deleted", func(t *testing.T, l *library.Library) {
		lila := librarytest.SignIn(t, l, "lila")
		must(t, "retired", lila.Catalog.Retire(t.Context(), "lot-history", "intake-lots"),
			lila.Catalog.DeleteReport(t.Context(), "lot-history"))
		if _, is := lila.Catalog.Retired("lot-history"); is {
			t.Error("what is not there is retired")
		}
	})
	o.During("brought back", func(t *testing.T, l *library.Library) {
		lila := librarytest.SignIn(t, l, "lila")
		must(t, "brought back", lila.Trash.BringBack(t.Context(), model.ThrownReport, "lot-history"))
		if successor, is := lila.Catalog.Retired("lot-history"); !is || successor != "intake-lots" {
			t.Errorf("it is retired: %v, for %q", is, successor)
		}
	})
}
