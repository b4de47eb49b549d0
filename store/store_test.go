package store

import (
	"context"
	"errors"
	"fmt"
	"os"
	"reflect"
	"strings"
	"testing"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
	"mantilla/core/kept"
	"mantilla/core/table"
	"mantilla/model"
	"mantilla/store/db"
	"mantilla/store/runs"
)

var now = time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)

func open(t *testing.T, dir string, cacheBytes int) *Store {
	t.Helper()
	s, err := Open(context.Background(), dir, cacheBytes)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

func asked(t *testing.T, s *Store, afterCrash string) model.Run {
	t.Helper()
	r, err := s.Runs().AddRun(context.Background(),
		model.Run{Report: "lots", Title: "Lots", Version: "v1", Typed: map[string]string{"days": "last month"},
			Facts: []model.Fact{{Parameter: "days", Typed: "last month", Resolved: "2026-09-01/2026-09-30"}}, Sentence: "Days.",
			AskedBy: "me", AskedAt: now, AfterCrash: afterCrash}, "")
	if err != nil {
		t.Fatal(err)
	}
	return r
}

func claim(t *testing.T, s *Store) model.Run {
	t.Helper()
	r, err := s.Runs().Claim(context.Background(), now, 600)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

var schema = frame.Schema{{Name: "n", Kind: frame.Integer}, {Name: "name", Kind: frame.Text},

	{Name: "kg", Kind: frame.Decimal, Scale: 3}}

// keep captures rows numbered from 0 for a running run, without sealing.
func keep(s *Store, run int64, rows int) (*runs.Capture, error) {
	c := s.Runs().Capture(run)
	c.Dataset("rows")
	b := frame.NewBuilder(schema, frame.BatchRows,
		func(r arrow.RecordBatch) error { return c.Add(context.Background(), r) })
	for i := range rows {
		b.Text(1, fmt.Appendf(nil, "name %d", i%9))
		for _, err := range []error{b.Int(0, int64(i)), b.Int(2, int64(i)*7), b.EndRow()} {
			if err != nil {
				return c, err
			}
		}
	}
	err := b.Close()
	c.Dataset("empty")
	return c, err
}

func sealed(t *testing.T, s *Store, rows int) model.Result {
	t.Helper()
	asked(t, s, "fail")
	run := claim(t, s)
	c, err := keep(s, run.Number, rows)
	if err != nil {
		t.Fatal(err)
	}
	n, err := c.Seal(context.Background(), run,
		model.Manifest{Report: run.Report, Version: run.Version, Typed: run.Typed, Facts: run.Facts, Duration: time.Second},
		nil, nil, now)
	if err != nil {
		t.Fatal(err)
	}
	r, err := s.Results().Result(context.Background(), n)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

// sumOf adds up a column.
func sumOf(f *frame.Frame, col int) (string, error) {
	sum := table.Measure{Column: col, Op: frame.Sum}
	g, err := kept.Of(f, table.Fresh{}).Groups(context.Background(), table.Where{}, nil, []table.Measure{sum})
	if err != nil {
		return "", err
	}
	field, figures, _ := g.Figures(sum)
	return figures[0].Value(field, 0).String(), nil
}

func batches(t *testing.T, s *Store) (n int) {
	t.Helper()
	if err := s.db.Read.QueryRow(`select count(*) from batch`).Scan(&n); err != nil {
		t.Fatal(err)
	}
	return n
}

func TestResultIsKeptAndReadBack(t *testing.T) {
	dir := t.TempDir()
	s, ctx := open(t, dir, 64<<20), context.Background()
	rows := 2*frame.BatchRows + 10
	r := sealed(t, s, rows)
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	s = open(t, dir, 64<<20)
	r2, err := s.Results().Result(ctx, r.Number)
	if err != nil || !reflect.DeepEqual(r, r2) {
		t.Errorf("read back %+v, %v; want %+v", r2, err, r)
	}
	sets := r.Manifest.Datasets
	if r.Rows != int64(rows) || r.Bytes == 0 || len(sets) != 2 || sets[0].Rows != int64(rows) || sets[0].Batches != 3 ||
		len(sets[0].Digests) != 3 || sets[1].Dataset != "empty" || sets[1].Batches != 0 {
		t.Errorf("kept %d rows, %+v", r.Rows, r.Manifest.Datasets)
	}
	f, err := s.Results().Frame(ctx, r, "rows", schema)
	if err != nil {
		t.Fatal(err)
	}
	b, err := kept.Of(f, table.Fresh{}).Take(ctx, []uint32{0, frame.BatchRows, uint32(rows - 1)}, nil)
	if err != nil || b.Value(0, 1).String() != "65536" || b.Value(2, 2).String() != "917.567" ||
		b.Value(1, 2).String() != "name 5" {
		t.Errorf("rows read back as %v %v %v, %v", b.Value(0, 1), b.Value(2, 2), b.Value(1, 2), err)
	}
	sum, err := sumOf(f, 0)
	if want := fmt.Sprint(rows * (rows - 1) / 2); err != nil || sum != want {
		t.Errorf("the sum is %s, %v; want %s", sum, err, want)
	}
	if f, err := s.Results().Frame(ctx, r, "empty", schema); err != nil || f.Rows() != 0 {
		t.Errorf("the empty dataset: %v", err)
	}
	if _, err := s.Results().Frame(ctx, r, "other", schema); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("a dataset that does not exist: %v", err)
	}
	if run, err := s.Runs().Run(ctx, r.Run); err != nil || run.State != model.Done || run.Result != r.Number ||
		run.Rows != int64(rows) {
		t.Errorf("its run is %+v, %v", run, err)
	}
}

func TestOnlyTheBatchesInNeedAreDecoded(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 64<<20), context.Background()
	r := sealed(t, s, 5*frame.BatchRows)
	f, err := s.Results().Frame(ctx, r, "rows", schema)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := kept.Of(f, table.Fresh{}).Take(ctx, []uint32{3*frame.BatchRows + 1, 3*frame.BatchRows + 2},
		nil); err != nil {
		t.Fatal(err)
	}
	known, one := s.Results().Warm(), 0
	for col := range schema {
		c, err := f.Column(ctx, 3, col)
		if err != nil {
			t.Fatal(err)
		}
		one += c.Bytes()
	}
	if warm := s.Results().Warm(); warm != known || warm-one > 10_000 {
		t.Errorf("a page of one batch decoded %d bytes, and %d once all of it was read; the batch has %d", known, warm, one)
	}
}

func TestCacheStaysWithinItsBudget(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 4<<20), context.Background()
	r := sealed(t, s, 8*frame.BatchRows)
	f, err := s.Results().Frame(ctx, r, "rows", schema)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := sumOf(f, 0); err != nil {
		t.Fatal(err)
	}
	if warm := s.Results().Warm(); warm == 0 || warm > 4<<20 {
		t.Errorf("%d bytes are in memory", warm)
	}
	if err := s.Results().DeleteResult(ctx, r.Number); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("a result that is not in the trash is deleted: %v", err)
	}
	if err := s.Results().Trash(ctx, r.Number, "me", now); err != nil {
		t.Fatal(err)
	}
	if err := s.Results().DeleteResult(ctx, r.Number); err != nil || s.Results().Warm() != 0 || batches(t, s) != 0 {
		t.Errorf("after it was deleted %d bytes and %d batches remain, %v", s.Results().Warm(), batches(t, s), err)
	}
	if err := s.Results().DeleteResult(ctx, r.Number); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
	if run, err := s.Runs().Run(ctx, r.Run); err != nil || run.Result != 0 {
		t.Errorf("its run remains as %+v, %v", run, err)
	}
}

// TestASealIsCheckedOverOneConnection checks a seal where there is one connection to read by: many who do so
// at once have no more, and none of them may wait for another.
func TestASealIsCheckedOverOneConnection(t *testing.T) {
	s := open(t, t.TempDir(), 1<<20)
	r := sealed(t, s, frame.BatchRows+5)
	s.db.Read.SetMaxOpenConns(1)
	ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second)
	defer cancel()
	if ok, err := s.Results().CheckSeal(ctx, r); err != nil || !ok {
		t.Errorf("it agrees: %t, %v", ok, err)
	}
}

func TestSealNoticesEveryChange(t *testing.T) {
	ctx := context.Background()
	for _, change := range []string{
		`update batch set data = zeroblob(length(data)) where place = 0`,
		`delete from batch where place = 1`,
		`update batch set rows = rows - 1 where place = 1`,
		`update batch set place = 2 where place = 1`,
		`update cells set data = zeroblob(length(data)) where place = 1 and col = 2`,
		`delete from cells where place = 0 and col = 1`,
		`update cells set col = 7 where place = 0 and col = 2`,
		`insert into cells select run, dataset, place, 9, data, base from cells where place = 0 and col = 1`,
	} {
		s := open(t, t.TempDir(), 1<<20)
		r := sealed(t, s, frame.BatchRows+5)
		if ok, err := s.Results().CheckSeal(ctx, r); err != nil || !ok {
			t.Fatalf("an untouched result does not agree: %v", err)
		}
		if _, err := s.db.Write.Exec(change); err != nil {
			t.Fatal(err)
		}
		if ok, err := s.Results().CheckSeal(ctx, r); err != nil || ok {
			t.Errorf("not noticed: %s (%v)", change, err)
		}
	}
}

func TestFullDiskKeepsNothingByHalves(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), context.Background()
	good := sealed(t, s, 100)
	asked(t, s, "fail")
	run := claim(t, s)
	var pages int
	if err := s.db.Write.QueryRow(`pragma page_count`).Scan(&pages); err != nil {
		t.Fatal(err)
	}
	if _, err := s.db.Write.Exec(fmt.Sprintf(`pragma max_page_count = %d`, pages+40)); err != nil {
		t.Fatal(err)
	}
	_, err := keep(s, run.Number, 4*frame.BatchRows)
	if !errors.Is(err, model.ErrFull) || !strings.Contains(err.Error(), "the disk is full") {
		t.Fatalf("got %v", err)
	}
	if err := s.Runs().EndRun(ctx, run.Number, model.Failed, err.Error(), 0, now); err != nil {
		t.Fatal(err)
	}
	if n := batches(t, s); n != 1 {
		t.Errorf("%d batches remain, want the one of the good result", n)
	}
	if ok, err := s.Results().CheckSeal(ctx, good); err != nil || !ok {
		t.Errorf("the earlier result was harmed: %v", err)
	}
}

func TestSealRefusesARunThatWasStopped(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), context.Background()
	asked(t, s, "fail")
	run := claim(t, s)
	c, err := keep(s, run.Number, 10)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Runs().EndRun(ctx, run.Number, model.Stopped, "", 0, now); err != nil {
		t.Fatal(err)
	}
	if _, err := c.Seal(ctx, run, model.Manifest{}, nil, nil, now); err == nil {
		t.Error("a stopped run was sealed")
	}
	if all, err := s.Results().Results(ctx, model.ResultWish{Sees: model.Sight{All: true}, Limit: 10}); err != nil ||
		len(all) != 0 {
		t.Errorf("results %v, %v", all, err)
	}
}

func TestResultsAreFound(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), context.Background()
	first, second := sealed(t, s, 1), sealed(t, s, 2)
	for _, c := range []struct {
		w    model.ResultWish
		want int
	}{{model.ResultWish{Sees: model.Sight{All: true}, Limit: 10}, 2},
		{model.ResultWish{Sees: model.Sight{All: true}, Limit: 1}, 1},
		{model.ResultWish{Sees: model.Sight{All: true}, Report: "lots", Limit: 10}, 2},
		{model.ResultWish{Sees: model.Sight{All: true}, Report: "x", Limit: 10}, 0},
		{model.ResultWish{Sees: model.Sight{All: true}, Search: "DAYS lots", Limit: 10}, 2},
		{model.ResultWish{Sees: model.Sight{All: true}, Search: "r-000002", Limit: 10}, 1},
		{model.ResultWish{Sees: model.Sight{All: true}, Search: "honey", Limit: 10}, 0},
		{model.ResultWish{Sees: model.Sight{All: true}, Before: second.Number, Limit: 10}, 1}} {
		if got, err := s.Results().Results(ctx, c.w); err != nil || len(got) != c.want {
			t.Errorf("%+v: %d, %v; want %d", c.w, len(got), err, c.want)
		}
	}
	if all, _ := s.Results().Results(ctx,
		model.ResultWish{Sees: model.Sight{All: true}, Limit: 10}); all[0].Number != second.Number ||
		all[1].Number != first.Number {
		t.Error("the newest does not come first")
	}
	uses, err := s.Catalog().Uses(ctx, []string{"intake", "other", "a", "b", "lots"})
	if err != nil || uses["lots"].Rows != 2 {
		t.Errorf("last used as %+v, %v", uses, err)
	}
}

func TestCatalogKeepsVersions(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), context.Background()
	put := func(version, was string) error {
		return s.Catalog().PutReport(ctx,
			model.Report{ID: "lots", Title: "Lots " + version, Category: "Intake", Version: version, Text: "text " + version},
			was, now)
	}
	if err := put("v1", ""); err != nil {
		t.Fatal(err)
	}
	for _, was := range []string{"", "v0"} {
		if err := put("v2", was); !errors.Is(err, model.ErrStale) {
			t.Errorf("a change that saw %q: %v", was, err)
		}
	}
	if err := errors.Join(put("v2", "v1"), put("v3", "*")); err != nil {
		t.Fatal(err)
	}
	all, err := s.Catalog().Reports(ctx)
	if err != nil || len(all) != 1 || all[0].Version != "v3" || all[0].Text != "text v3" {
		t.Errorf("catalog %+v, %v", all, err)
	}
	versions, err := s.Catalog().Versions(ctx, "lots")
	if err != nil || len(versions) != 3 || versions[0].Version != "v3" {
		t.Errorf("versions %+v, %v", versions, err)
	}
	if text, _, err := s.Catalog().ReportText(ctx, "lots", "v1"); err != nil || text != "text v1" {
		t.Errorf("the first version reads %q, %v", text, err)
	}
	if _, _, err := s.Catalog().ReportText(ctx, "lots", "v9"); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("a version that never was: %v", err)
	}
}

func TestDataDirectoryHasOneOwner(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir, 1<<20)
	if other, err := Open(context.Background(), dir, 1<<20); !errors.Is(err, db.ErrInUse) ||
		!strings.Contains(err.Error(), dir) {
		t.Errorf("opened twice: %v, %v", other, err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	again, err := Open(context.Background(), dir, 1<<20)
	if err != nil {
		t.Fatal(err)
	}
	again.Close()
	if err := os.WriteFile(dir+"/mantilla.db", []byte(strings.Repeat("broken", 1000)), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := Open(context.Background(), dir, 1<<20); err == nil {
		t.Error("opened records that are broken")
	}
}
