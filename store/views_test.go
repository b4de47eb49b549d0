package store

import (
	"errors"
	"reflect"
	"testing"
	"time"

	"mantilla/core/ask"
	"mantilla/model"
)

func TestKeptViews(t *testing.T) {
	s, ctx := open(t, t.TempDir(), 1<<20), t.Context()
	now := time.Date(2026, 10, 15, 12, 0, 0, 0, time.UTC)
	v := model.View{
		Report:    "lots",
		Base:      "all",
		Name:      "By grade",
		Owner:     "runa",
		Changes:   ask.Changes{Group: []string{"grade"}, Add: []string{"X = 1"}, Open: new(2), Limit: new(0)},
		Seen:      []string{"lot", "grade"},
		ChangedAt: now,
	}
	kept, err := s.Results().AddView(ctx, v)
	if err != nil {
		t.Fatal(err)
	}
	v.Number, v.Revision = kept.Number, 1
	if !reflect.DeepEqual(kept, v) {
		t.Errorf("kept %+v, want %+v", kept, v)
	}
	if _, err := s.Results().AddView(ctx, v); !errors.Is(err, model.ErrTaken) {
		t.Errorf("the same name again: %v", err)
	}
	other := v
	other.Owner = "rhea"
	if _, err := s.Results().AddView(ctx, other); err != nil {
		t.Errorf("the same name by somebody else: %v", err)
	}
	names := func(person string) (n int) {
		list, err := s.Results().Views(ctx, "lots", person)
		if err != nil {
			t.Fatal(err)
		}
		return len(list)
	}
	if names("runa") != 1 || names("nobody") != 0 {
		t.Errorf("runa sees %d views, nobody %d", names("runa"), names("nobody"))
	}
	v.Everyone, v.Name = true, "For all"
	if err := s.Results().PutView(ctx, v); err != nil {
		t.Fatal(err)
	}
	if err := s.Results().PutView(ctx, v); !errors.Is(err, model.ErrStale) {
		t.Errorf("a stale change: %v", err)
	}
	if names("nobody") != 1 || names("rhea") != 2 {
		t.Errorf("nobody sees %d views, rhea %d", names("nobody"), names("rhea"))
	}
	if err := s.Results().DeleteView(ctx, v.Number, time.Now()); err != nil {
		t.Fatal(err)
	}
	if err := s.Results().DeleteView(ctx, v.Number, time.Now()); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
	if _, err := s.Results().View(ctx, v.Number); !errors.Is(err, model.ErrNotFound) {
		t.Errorf("a deleted view: %v", err)
	}
}
