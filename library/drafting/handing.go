package drafting

import (
	"context"
	"errors"
	"fmt"

	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/library/catalog"
	"mantilla/model"
)

// mostNote is how many characters a note has at most.
const mostNote = 2000

// HandIn gives a draft to those who keep the catalog. It has to be right.
func (a *Access) HandIn(ctx context.Context, number int64, note string) (model.Draft, error) {
	d, err := a.step(ctx, number, note)
	if err != nil {
		return d, err
	}
	if _, err := a.catalog.CheckReport(ctx, []byte(d.Text)); err != nil {
		return d, err
	}
	d.State = model.HandedIn
	if d, err = a.put(ctx, d); err != nil {
		return d, err
	}
	keepers, err := a.room.people.WhoMay(ctx, access.KeepCatalog)
	if err != nil {
		return d, err
	}
	return d, a.tell(ctx, keepers, "draft", place(d), "%s hands in the draft “%s”.%s", a.Person().Title, d.Title,
		said(note))
}

// GiveBack returns a draft to those who write it.
func (a *Access) GiveBack(ctx context.Context, number int64, note string) (model.Draft, error) {
	if err := a.May(access.KeepCatalog); err != nil {
		return model.Draft{}, err
	}
	d, err := a.step(ctx, number, note)
	switch {
	case err != nil:
		return d, err
	case d.State != model.HandedIn:
		return d, model.Refuse("draft", "the draft D-%d is not handed in", d.Number)
	case note == "":
		return d, model.Refuse("note", "say what is to be changed")
	}
	d.State = model.GivenBack
	if d, err = a.put(ctx, d); err != nil {
		return d, err
	}
	return d, a.tell(ctx, writers(d), "draft", place(d), "%s gives the draft “%s” back.%s", a.Person().Title, d.Title,
		said(note))
}

// step finds a draft for its next step and notes what is said at it.
func (a *Access) step(ctx context.Context, number int64, note string) (model.Draft, error) {
	d, err := a.Draft(ctx, number)
	if err != nil {
		return d, err
	}
	if len([]rune(note)) > mostNote {
		return d, model.Refuse("note", "the note has more than %d characters", mostNote)
	}
	d.Note, d.NotedBy = note, a.Person().Name
	return d, nil
}

func writers(d model.Draft) []string { return append([]string{d.Owner}, d.Writers...) }

func place(d model.Draft) string { return fmt.Sprintf("/office/drafts/D-%d", d.Number) }

// said is a note as it follows a sentence.
func said(note string) string {
	if note == "" {
		return ""
	}
	return " They say: " + note
}

// Taking says how a draft is taken into the catalog.
type Taking struct {
	Note string
	Open []model.Opening // to whom it is opened; nil where that stays
	Over bool            // also over what somebody changed since the draft began

	Untried bool // also where its figures are not as it expects them
}

// Take takes a draft into the catalog, opens it where that is asked for, and tells those
// who wrote it and all whom the change concerns. The draft is no more then.
func (a *Access) Take(ctx context.Context, number int64, taking Taking) (*report.Definition, error) {
	note, open := taking.Note, taking.Open
	d, err := a.step(ctx, number, note)
	if err != nil {
		return nil, err
	}
	if open != nil {
		if err := a.May(access.KeepCatalog); err != nil {
			return nil, err
		}
	}
	read, err := a.catalog.CheckReport(ctx, []byte(d.Text))
	if err != nil {
		return nil, err
	}
	if !taking.Untried {
		if err := a.expectations(ctx, read); err != nil {
			return nil, err
		}
	}
	concerned, err := a.effects(ctx, read)
	if err != nil {
		return nil, err
	}
	pair := d.Owner
	for _, name := range append(d.Writers, d.ChangedBy) {
		if name == a.Person().Name {
			pair = name // who wrote along is not another person
		}
	}
	was := d.Base
	if taking.Over {
		was = "*"
	}
	taken, err := a.catalog.PutReport(ctx, []byte(d.Text), catalog.Put{Was: was, Note: note, Pair: pair})
	if errors.Is(err, model.ErrStale) {
		return nil, fmt.Errorf("the report %s is there already, or was changed since the draft began; look at the "+
			"differences, then take it over what is there: %w", read.ID, err)
	}
	if err != nil {
		return nil, err
	}
	if err := a.room.records.ForgetDraft(ctx, d); err != nil {
		return nil, err
	}
	if err := a.left(ctx, d); err != nil {
		return nil, err
	}
	if err := a.room.care.Adopt(ctx, taken.ID, d.Owner); err != nil {
		return nil, err
	}
	if open != nil {
		if _, err := a.catalog.Open(ctx, taken.ID, open); err != nil {
			return nil, err
		}
	}
	if err := a.tellConcerned(ctx, taken, concerned); err != nil {
		return nil, err
	}
	return taken, a.tell(ctx, writers(d), "report", "/reports/"+taken.ID, "%s took “%s” into the catalog.%s",
		a.Person().Title, taken.Title, said(note))
}
