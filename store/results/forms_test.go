package results

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"path/filepath"
	"testing"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
	"mantilla/core/kept"
	"mantilla/core/table"
	"mantilla/model"
	"mantilla/seal"
	"mantilla/store/cache"
	"mantilla/store/db"
)

var schema = frame.Schema{{Name: "n", Kind: frame.Integer}, {Name: "name", Kind: frame.Text},
	{Name: "kg", Kind: frame.Decimal, Scale: 3}}

var now = time.Date(2026, 10, 15, 12, 0, 0, 0, time.UTC)

// opened is results on records of their own.
func opened(t *testing.T) Results {
	t.Helper()
	records := &db.DB{Cache: cache.New(1 << 20)}
	if err := records.Open(t.Context(), filepath.Join(t.TempDir(), "records.db"), ""); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { records.Read.Close(); records.Write.Close() })
	return Results{records}
}

// keptEarlier keeps rows as programs of an earlier form did: a blob for each batch.
func keptEarlier(t *testing.T, s Results, form, rows int) model.Result {
	t.Helper()
	ctx := context.Background()
	run := model.Run{Report: "lots"}
	err := s.Write.QueryRow(`insert into run (report, title, version, state, typed, facts, sentence, asked_by, asked_at,
		after_crash) values ('lots', 'Lots', 'v1', 'done', '{}', '[]', '', 'me', ?, 'fail') returning number`,
		db.Stamp(now)).Scan(&run.Number)
	if err != nil {
		t.Fatal(err)
	}
	kept, batches, settled := model.Kept{Dataset: "rows", Rows: int64(rows)}, sha256.New(), []byte(`{"id": "lots"}`)
	b := frame.NewBuilder(schema, frame.BatchRows, func(r arrow.RecordBatch) error {
		stream, err := streamOf(r)
		if err != nil {
			return err
		}
		blob := squeeze(stream)
		digest := sha256.Sum256(blob)
		seal.Add(batches, "rows", kept.Batches, r.NumRows(), digest[:])
		_, err = s.Write.Exec(`insert into batch (run, dataset, place, rows, digest, data) values (?, ?, ?, ?, ?, ?)`,
			run.Number, "rows", kept.Batches, r.NumRows(), hex.EncodeToString(digest[:]), blob)
		if kept.Batches++; form > 1 {
			kept.Digests = append(kept.Digests, hex.EncodeToString(digest[:]))
		}
		return err
	})
	for i := range rows {
		b.Text(1, []byte("name"))
		if err := errors.Join(b.Int(0, int64(i)), b.Int(2, int64(i)), b.EndRow()); err != nil {
			t.Fatal(err)
		}
	}
	if err := b.Close(); err != nil {
		t.Fatal(err)
	}
	m := model.Manifest{Report: run.Report, Datasets: []model.Kept{kept}, Form: form}
	if form >= seal.SettledForm {
		m.Settled = seal.DigestOf(settled)
	}
	if m.Seal, err = seal.Over(m, batches.Sum(nil)); err != nil {
		t.Fatal(err)
	}
	manifest, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	var number int64
	err = s.Write.QueryRow(`insert into result (run, report, title, sentence, kept_at, rows, bytes, seal,
		manifest, settled)
		values (?, ?, '', '', ?, ?, 1, ?, ?, ?) returning number`,
		run.Number, run.Report, db.Stamp(now), rows, m.Seal, string(manifest), settled).Scan(&number)
	if err != nil {
		t.Fatal(err)
	}
	r, err := s.Result(ctx, number)
	if err != nil {
		t.Fatalf("form %d: %v", form, err)
	}
	return r
}

// TestEarlierFormsAreReadAndVerified holds that results of programs before this one open
// as they were, and that what was changed in them is noticed.
func TestEarlierFormsAreReadAndVerified(t *testing.T) {
	ctx := context.Background()
	for form := 1; form < seal.ColumnForm; form++ {
		s := opened(t)
		rows := frame.BatchRows + 7
		r := keptEarlier(t, s, form, rows)
		f, err := s.Frame(ctx, r, "rows", schema)
		if err != nil || f.Rows() != rows || f.Batches() != 2 {
			t.Fatalf("form %d: %v", form, err)
		}
		b, err := kept.Of(f, table.Fresh{}).Take(ctx, []uint32{uint32(rows - 1)}, nil)
		if err != nil || b.Value(0, 0).String() != "65542" || b.Value(1, 0).String() != "name" ||
			b.Value(2, 0).String() != "65.542" {
			t.Errorf("form %d: the last row is %v %v %v, %v", form, b.Value(0, 0), b.Value(1, 0), b.Value(2, 0), err)
		}
		if good, err := s.CheckSeal(ctx, r); err != nil || !good {
			t.Errorf("form %d: the seal does not agree: %v", form, err)
		}
		s.DB.Cache.Forget("")
		if _, err := s.Write.Exec(`update batch set data = zeroblob(length(data)) where place = 1`); err != nil {
			t.Fatal(err)
		}
		if _, err := f.Column(ctx, 1, 0); !errors.Is(err, model.ErrBroken) {
			t.Errorf("form %d: changed rows are read: %v", form, err)
		}
		if good, err := s.CheckSeal(ctx, r); err != nil || good {
			t.Errorf("form %d: a change was not noticed: %v", form, err)
		}
	}
}
