package store

import (
	"bytes"
	"crypto/ed25519"
	"errors"
	"fmt"
	"testing"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
	"mantilla/model"
	"mantilla/seal"
)

var daily = frame.Schema{{Name: "no", Kind: frame.Integer}, {Name: "name", Kind: frame.Text},
	{Name: "amount", Kind: frame.Decimal, Scale: 2}}

// amountOf is what a row has on a day: one in a hundred rows has another each day.
func amountOf(day, row int) int64 { return int64(row*7919%100_000 + (day+row)/100*1000) }

const dailyRows = 20_000

// keepDay keeps the rows of a day as a run control of a number does.
func keepDay(t *testing.T, s *Store, day int) int64 {
	t.Helper()
	ctx := t.Context()
	run, err := s.Runs().AddRun(ctx, model.Run{Report: "daily", Title: "Daily", State: model.Waiting, AskedBy: "me",
		AskedAt: at(day), AfterCrash: "fail"}, "")
	if err != nil {
		t.Fatal(err)
	}
	number := int64(day)
	if _, err := s.db.Write.ExecContext(ctx, `insert into control_run (number, control, asked_by, asked_at)
		values (?, 'daily', 'me', '')`, number); err != nil {
		t.Fatal(err)
	}
	if _, err := s.db.Write.ExecContext(ctx, `update run set state = 'running', control_run = ? where number = ?`, number,
		run.Number); err != nil {
		t.Fatal(err)
	}
	run.ControlRun = number
	keep := s.Runs().Capture(run.Number)
	keep.Dataset("rows")
	out := frame.NewBuilder(daily, 8192, func(r arrow.RecordBatch) error { return keep.Add(ctx, r) })
	for row := range dailyRows {
		out.String(1, fmt.Sprintf("name of %d", row*31%5000))
		if err := errors.Join(out.Int(0, int64(row)), out.Int(2, amountOf(day, row)), out.EndRow()); err != nil {
			t.Fatal(err)
		}
	}
	if err := out.Close(); err != nil {
		t.Fatal(err)
	}
	result, err := keep.Seal(ctx, run, model.Manifest{Report: "daily"}, []byte(`{}`), nil, at(day))
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Runs().Thin(ctx, run, result); err != nil {
		t.Fatal(err)
	}
	return result
}

func at(day int) time.Time { return time.Date(2026, 1, day, 6, 0, 0, 0, time.UTC) }

// readDay reads the rows of a result, which must be those of a day.
func readDay(t *testing.T, s *Store, result int64, day int) model.Result {
	t.Helper()
	r, err := s.Results().Result(t.Context(), result)
	if err != nil {
		t.Fatal(err)
	}
	f, err := s.Results().Frame(t.Context(), r, "rows", daily)
	if err != nil {
		t.Fatal(err)
	}
	row := 0
	for i := range f.Batches() {
		b, err := f.Batch(t.Context(), i, []int{0, 1, 2})
		if err != nil {
			t.Fatalf("day %d: %v", day, err)
		}
		for n := range b.Rows {
			if b.Int(0, n) != int64(row) || b.Int(2, n) != amountOf(day, row) ||
				b.Text(1, n) != fmt.Sprintf("name of %d", row*31%5000) {
				t.Fatalf("day %d: row %d is %d %s %d", day, row, b.Int(0, n), b.Text(1, n), b.Int(2, n))
			}
			row++
		}
	}
	if whole, err := s.Results().CheckSeal(t.Context(), r); err != nil || !whole || row != dailyRows {
		t.Errorf("day %d: %d rows, its seal: %v, %v", day, row, whole, err)
	}
	return r
}

// A series of results costs little more than what changed from one to the next; each is read, proved
// and deleted by itself, from the middle too.
func TestASeriesKeepsWhatChangedOnce(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 4<<20), t.Context()
	const days = 24
	var results []int64
	for day := range days {
		results = append(results, keepDay(t, s, day+1))
	}
	first, all := int64(0), int64(0)
	for day, result := range results {
		r := readDay(t, s, result, day+1)
		if all += r.Bytes; first == 0 {
			first = r.Bytes
		}
	}
	if of := float64(all) / float64(first); of > 3.2 { // the first, the newest, and what changed in between
		t.Errorf("%d days cost %.2f of one", days, of)
	}
	s.db.Cache.Forget("")
	readDay(t, s, results[days-2], days-1) // with nothing in memory, over all before it

	var proof bytes.Buffer
	r, err := s.Results().Result(ctx, results[10])
	if err != nil {
		t.Fatal(err)
	}
	p, err := seal.Begin(&proof, seal.Index{Result: "R-000011"}, r.Manifest, []byte(`{}`))
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Results().Sealed(ctx, r, p); err != nil {
		t.Fatal(err)
	}
	if err := p.Sign(ed25519.NewKeyFromSeed(make([]byte, ed25519.SeedSize))); err != nil {
		t.Fatal(err)
	}
	found, err := seal.Check(bytes.NewReader(proof.Bytes()), int64(proof.Len()), nil)
	if err != nil || !found.Good() {
		t.Errorf("the proof of a thinned result: %v, %v", found.Faults, err)
	}

	for _, gone := range []int{0, 7, 8, 23} {
		if err := s.Results().Trash(ctx, results[gone], "me", now); err != nil {
			t.Fatal(err)
		}
		if err := s.Results().DeleteResult(ctx, results[gone]); err != nil {
			t.Fatal(err)
		}
		results[gone] = 0
	}
	s.db.Cache.Forget("")
	for day, result := range results {
		if result != 0 {
			readDay(t, s, result, day+1)
		}
	}
	var hanging int
	if err := s.db.Read.QueryRowContext(ctx, `select count(*) from cells where base not in (select run from cells)`).
		Scan(&hanging); err != nil || hanging > 0 {
		t.Errorf("%d columns hang on what was deleted: %v", hanging, err)
	}
	if _, err := s.db.Write.ExecContext(ctx, `update cells set data = zeroblob(length(data)) where run =
		(select run from result where number = ?) and col = 2`, results[12]); err != nil {
		t.Fatal(err)
	}
	s.db.Cache.Forget("")
	for _, broken := range []int{12, 14} { // what is over it cannot be read either, and says so
		r, err := s.Results().Result(ctx, results[broken])
		if err != nil {
			t.Fatal(err)
		}
		if whole, err := s.Results().CheckSeal(ctx, r); err == nil && whole {
			t.Errorf("day %d: a change was not noticed", broken+1)
		}
	}
}
