package keeping

import (
	"context"
	"fmt"
	"maps"

	"mantilla/core/changes"
	"mantilla/library/reading"
	"mantilla/model"
)

// mostSigned is among how many results that were signed off the one of the same values is sought.
const mostSigned = 500

// restate has the result of a run compared with the last one of the same values that was signed
// off. It does nothing where there is none.
func (room *Room) restate(ctx context.Context, run model.Run, result int64) error {
	signed, err := room.signed(ctx, run, result)
	if err != nil || signed == 0 {
		return err
	}
	return room.capture.Queue(ctx, model.Run{Report: run.Report, Title: "Has the past changed: " + run.Title,
		Version: run.Version, AskedBy: run.AskedBy, Reach: run.Reach,
		Sentence: fmt.Sprintf("From R-%06d, which was signed off, to R-%06d", signed, result),
		Making: &model.Making{How: model.HowCompare, Restates: true, Of: []model.MadeOf{
			{Result: signed, Report: run.Report}, {Result: result, Report: run.Report}}}})
}

// signed is the last result that was signed off of the values of a run, whatever version of the
// report it is of; 0 for none.
func (room *Room) signed(ctx context.Context, run model.Run, before int64) (int64, error) {
	read := room.reading.As(room.people.AsService())
	found, err := read.Results(ctx, model.ResultWish{Report: run.Report, Signed: true, Before: before, Limit: mostSigned})
	if err != nil {
		return 0, err
	}
	want := model.Resolved(run.Facts)
	for _, r := range found {
		reach := r.Manifest.Reach
		if r.Manifest.Made == nil && maps.Equal(model.Resolved(r.Manifest.Facts), want) &&
			reach.Limited == run.Reach.Limited && fmt.Sprint(reach.Units) == fmt.Sprint(run.Reach.Units) {
			return r.Number, nil
		}
	}
	return 0, nil
}

// alert tells who signed a result, whose report it is, and whose run found it, that its past has
// changed.
func (room *Room) alert(ctx context.Context, run *model.Run, signed *reading.Result, counts changes.Counts) error {
	if !run.Making.Restates || counts.Changed+counts.New+counts.Gone == 0 {
		return nil
	}
	names := []string{run.AskedBy, room.owner(run.Report)}
	for _, s := range signed.Signs {
		names = append(names, s.Person)
	}
	of := place(run.Making.Of[1].Result)
	of.Place = fmt.Sprintf("/runs/RUN-%06d", run.Number) // which leads to what changed, once that is kept
	return room.notices.Tell(ctx, "", names, of, "The past has changed: R-%06d, %s, %s, was signed off; run again as "+
		"R-%06d, %s", signed.Number, signed.Title, signed.Sentence, run.Making.Of[1].Result, counts.Said())
}
