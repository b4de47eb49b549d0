package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"testing"
	"time"

	"mantilla/core/report"
	"mantilla/model"
	"mantilla/store/catalog"
)

func TestPeopleAndGroups(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	dora := model.Person{Name: "dora", Title: "Dora", Role: model.Runner, Units: []string{"A"}, Password: "hash"}
	if err := s.People().PutPerson(ctx, dora); err != nil {
		t.Fatal(err)
	}
	if err := s.People().PutPerson(ctx, dora); !errors.Is(err, model.ErrStale) {
		t.Errorf("made twice: %v", err)
	}
	if err := s.People().PutGroup(ctx, model.Group{ID: "field", Title: "Field", Members: []string{"dora"}}); err != nil {
		t.Fatal(err)
	}
	if err := s.People().PutGroup(ctx,
		model.Group{ID: "field", Title: "Other", Members: []string{"nobody"}, Revision: 1}); err == nil {
		t.Error("a group has a member that is no account")
	}
	got, err := s.People().Person(ctx, "dora")
	if err != nil || got.Role != model.Runner || !slices.Equal(got.Units, []string{"A"}) ||
		!slices.Equal(got.Groups, []string{"field"}) || got.Revision != 1 {
		t.Fatalf("%+v, %v", got, err)
	}
	if groups, err := s.People().Groups(ctx); err != nil || len(groups) != 1 || groups[0].Title != "Field" ||
		!slices.Equal(groups[0].Members, []string{"dora"}) {
		t.Errorf("the refused change left %+v, %v", groups, err)
	}
	got.Role, got.Password = model.Author, ""
	if err := s.People().PutPerson(ctx, got); err != nil {
		t.Fatal(err)
	}
	if err := s.People().PutPerson(ctx, got); !errors.Is(err, model.ErrStale) {
		t.Errorf("a stale change: %v", err)
	}
	if now, _ := s.People().Person(ctx, "dora"); now.Role != model.Author || now.Password != "hash" {
		t.Errorf("after the change %+v", now)
	}
}

func TestSessionsEnd(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	if err := s.People().PutPerson(ctx,
		model.Person{Name: "dora", Title: "Dora", Role: model.Runner, Password: "hash"}); err != nil {
		t.Fatal(err)
	}
	for _, digest := range []string{"one", "two"} {
		if err := s.People().AddSession(ctx,
			model.Session{
				Digest: digest,
				Person: "dora",
				Kind:   "browser",
				MadeAt: now,
				EndsAt: now.Add(time.Hour),
			}); err != nil {
			t.Fatal(err)
		}
	}
	who := func(digest string, at time.Time) error {
		_, _, err := s.People().SessionPerson(ctx, digest, at)
		return err
	}
	if err := who("one", now); err != nil {
		t.Error(err)
	}
	if err := who("one", now.Add(time.Hour)); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("after its end: %v", err)
	}
	if err := s.People().EndSession(ctx, "one"); err != nil || !errors.Is(who("one", now), model.ErrNotFound) {
		t.Errorf("after signing out: %v", err)
	}
	p, _ := s.People().Person(ctx, "dora")
	p.Closed, p.Password = true, ""
	if err := s.People().PutPerson(ctx, p); err != nil || !errors.Is(who("two", now), model.ErrNotFound) {
		t.Errorf("a closed account is still signed in: %v", err)
	}
}

func keepCriteria(t *testing.T, s *Store, owner, name, shared string) model.Criteria {
	t.Helper()
	c, err := s.Criteria().AddCriteria(t.Context(),
		model.Criteria{
			Report:    "lots",
			Name:      name,
			Owner:     owner,
			Shared:    shared,
			Typed:     map[string]string{"days": "last month"},
			Version:   "v1",
			ChangedAt: now,
		})
	if err != nil {
		t.Fatal(err)
	}
	return c
}

func TestCriteria(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	mine, shared, hers := keepCriteria(t, s, "me", "b mine", ""), keepCriteria(t, s, "her", "a shared", "field"),
		keepCriteria(t, s, "her", "hers", "")
	names := func(w model.Seen, search string) (out []string) {
		list, err := s.Criteria().CriteriaFor(ctx, "lots", w, search, 10)
		if err != nil {
			t.Fatal(err)
		}
		for _, c := range list {
			out = append(out, c.Name)
		}
		return out
	}
	if got := names(model.Seen{Person: "me", Groups: []string{"field"}}, ""); !slices.Equal(got,
		[]string{"a shared", "b mine"}) {
		t.Errorf("seen: %q", got)
	}
	if got := names(model.Seen{Person: "me"}, "MINE"); !slices.Equal(got, []string{"b mine"}) {
		t.Errorf("found: %q", got)
	}
	if err := s.Criteria().SetUsual(ctx, "me", "lots", mine.Number); err != nil {
		t.Fatal(err)
	}
	if got := names(model.Seen{Person: "me", Groups: []string{"field"}}, ""); got[0] != "b mine" {
		t.Errorf("the usual does not come first: %q", got)
	}
	if typed, err := s.Criteria().Usual(ctx, "me", "lots"); err != nil || typed["days"] != "last month" {
		t.Errorf("usual: %v, %v", typed, err)
	}
	if _, err := s.Criteria().AddCriteria(ctx,
		model.Criteria{Report: "lots", Name: "hers", Owner: "her", ChangedAt: now}); !errors.Is(err, model.ErrTaken) {
		t.Errorf("a name twice: %v", err)
	}
	hers.Name = "a shared"
	if err := s.Criteria().PutCriteria(ctx, hers); !errors.Is(err, model.ErrTaken) {
		t.Errorf("renamed to a name in use: %v", err)
	}
	hers.Name = "renamed"
	if err := s.Criteria().PutCriteria(ctx, hers); err != nil {
		t.Fatal(err)
	}
	if err := s.Criteria().PutCriteria(ctx, hers); !errors.Is(err, model.ErrStale) {
		t.Errorf("a stale change: %v", err)
	}
	if err := s.Criteria().DeleteCriteria(ctx, shared.Number, now); err != nil {
		t.Fatal(err)
	}
	if err := s.Criteria().DeleteCriteria(ctx, shared.Number, now); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
	taken := keepCriteria(t, s, "her", "a shared", "")
	if err := s.Criteria().RestoreCriteria(ctx, shared.Number); !errors.Is(err, model.ErrTaken) {
		t.Errorf("restored over another: %v", err)
	}
	if err := errors.Join(s.Criteria().DeleteCriteria(ctx, taken.Number, now),
		s.Criteria().RestoreCriteria(ctx, shared.Number)); err != nil {
		t.Error(err)
	}
}

// TestOverwrittenCriteriaAreKept overwrites criteria more often than is kept, and
// renames them, which overwrites nothing.
func TestOverwrittenCriteriaAreKept(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	c := keepCriteria(t, s, "me", "mine", "")
	c.Name = "renamed"
	if err := s.Criteria().PutCriteria(ctx, c); err != nil {
		t.Fatal(err)
	}
	for i := range catalog.KeptPast + 3 {
		c.Revision, c.Typed = int64(2+i), map[string]string{"days": fmt.Sprint(i)}
		if err := s.Criteria().PutCriteria(ctx, c); err != nil {
			t.Fatal(err)
		}
	}
	past, err := s.Criteria().PastCriteria(ctx, c.Number)
	if err != nil || len(past) != catalog.KeptPast || past[0].Typed["days"] != fmt.Sprint(catalog.KeptPast+1) ||
		past[0].Revision != catalog.KeptPast+4 || past[catalog.KeptPast-1].Typed["days"] != "2" {
		t.Errorf("%d: %+v, %v", len(past), past[:min(len(past), 1)], err)
	}
}

// queueSteps queues a control with so many steps.
func queueSteps(t *testing.T, s *Store, steps int, hours *model.Hours) model.ControlRun {
	t.Helper()
	batch := model.ControlRun{Control: "month", AskedBy: "me", AskedAt: now}
	for range steps {
		batch.Runs = append(batch.Runs,
			model.Run{Report: "lots", AskedBy: "me", AskedAt: now, Terms: model.Terms{Control: "month", Hours: hours}})
	}
	all, err := s.Controls().AddControlRuns(t.Context(), []model.ControlRun{batch})
	if err != nil {
		t.Fatal(err)
	}
	return all[0]
}

func TestStepsWaitForOneAnother(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	batch := queueSteps(t, s, 2, nil)
	other := asked(t, s, "fail")
	if got := claim(t, s); got.Number != batch.Runs[0].Number {
		t.Fatalf("claimed %d first", got.Number)
	}
	if got := claim(t, s); got.Number != other.Number {
		t.Errorf("the second step started beside the first: %d", got.Number)
	}
	if err := s.Runs().EndRun(ctx, batch.Runs[0].Number, model.Failed, "no", 0, now); err != nil {
		t.Fatal(err)
	}
	if got := claim(t, s); got.Number != batch.Runs[1].Number || got.Step != 1 || got.ControlRun != batch.Number {
		t.Errorf("after a failure %+v", got)
	}
	if past, err := s.Controls().ControlRuns(ctx, "month", 5); err != nil || len(past) != 1 || len(past[0].Runs) != 2 ||
		past[0].Runs[0].Reason != "no" {
		t.Errorf("past runs %+v, %v", past, err)
	}
}

func TestRunsStartWithinTheirHours(t *testing.T) {
	for _, c := range []struct {
		hours  model.Hours
		minute int
		starts bool
	}{
		{model.Hours{Opens: 1200, Closes: 1320}, 1199, false},
		{model.Hours{Opens: 1200, Closes: 1320}, 1200, true},
		{model.Hours{Opens: 1200, Closes: 1320}, 1320, false},
		{model.Hours{Opens: 1320, Closes: 360}, 1400, true},
		{model.Hours{Opens: 1320, Closes: 360}, 359, true},
		{model.Hours{Opens: 1320, Closes: 360}, 360, false},
	} {
		s := open(t, t.TempDir(), 1<<20)
		queueSteps(t, s, 1, &c.hours)
		if _, err := s.Runs().Claim(t.Context(), now, c.minute); (err == nil) != c.starts {
			t.Errorf("%+v at minute %d: %v", c.hours, c.minute, err)
		}
	}
}

func TestSightCutsRunsAndResults(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	for _, r := range []model.Run{
		{Report: "lots"}, {Report: "lots", Reach: report.Reach{Limited: true, Units: []string{"A", "A1"}}},
		{Report: "lots", Reach: report.Reach{Limited: true, Units: []string{"B"}}}, {Report: "secret"},
	} {
		r.AskedBy, r.AskedAt = "me", now
		queued, err := s.Runs().AddRun(ctx, r, "")
		if err != nil {
			t.Fatal(err)
		}
		running := claim(t, s)
		c, err := keep(s, queued.Number, 3)
		if err == nil {
			_, err = c.Seal(ctx, running, model.Manifest{Report: r.Report, Fingerprint: "f", Reach: r.Reach}, nil, nil, now)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	for _, c := range []struct {
		sees model.Sight
		want []int64
	}{
		{model.Sight{All: true}, []int64{4, 3, 2, 1}},
		{model.Sight{Reports: []string{"lots"}}, []int64{3, 2, 1}},
		{model.Sight{Reports: []string{"lots"}, Reach: report.Reach{Limited: true, Units: []string{"A", "A1", "A2"}}},
			[]int64{2}},
		{model.Sight{Reports: []string{"lots"}, Reach: report.Reach{Limited: true}}, nil},
		{model.Sight{Reports: []string{}}, nil},
	} {
		runs, err := s.Runs().Runs(ctx, model.RunWish{Sees: c.sees, Limit: 10})
		results, err2 := s.Results().Results(ctx, model.ResultWish{Sees: c.sees, Limit: 10})
		var seen, kept []int64
		for i := range runs {
			seen = append(seen, runs[i].Number)
		}
		for i := range results {
			kept = append(kept, results[i].Number)
		}
		if err := errors.Join(err, err2); err != nil || !slices.Equal(seen, c.want) || !slices.Equal(kept, c.want) {
			t.Errorf("%+v sees runs %v and results %v, %v; want %v", c.sees, seen, kept, err, c.want)
		}
	}
}

// What was kept long enough is in the trash for 30 days, and then gone.
func TestExpiredResultsAreDeleted(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), context.Background()
	if _, err := s.Runs().AddRun(ctx, model.Run{Report: "lots", AskedBy: "me", AskedAt: now, Terms: model.Terms{Keep: 30}},
		""); err != nil {
		t.Fatal(err)
	}
	running := claim(t, s)
	c, err := keep(s, running.Number, 3)
	if err == nil {
		_, err = c.Seal(ctx, running, model.Manifest{Report: "lots"}, nil, nil, now)
	}
	if err != nil {
		t.Fatal(err)
	}
	for _, step := range []struct {
		after            int
		trashed, deleted []int64
	}{{29, nil, nil}, {30, []int64{1}, nil}, {59, nil, nil}, {60, nil, []int64{1}}} {
		trashed, deleted, err := s.Results().DeleteExpired(ctx, now.AddDate(0, 0, step.after))
		if err != nil || !slices.Equal(trashed, step.trashed) || !slices.Equal(deleted, step.deleted) {
			t.Errorf("after %d days %v go to the trash and %v for good: %v", step.after, trashed, deleted, err)
		}
	}
}
