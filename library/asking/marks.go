package asking

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"

	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/library/access"
	"mantilla/model"
)

// lastLook finds the mark that "since last run" speaks of among typed values;
// none where nothing speaks of it.
func (a *Access) lastLook(ctx context.Context, q *asking, typed map[string]string) (period.Last, error) {
	var parameter string
	for i := range q.Parameters {
		p := &q.Parameters[i]
		text, ok := typed[p.ID]
		if !ok {
			text = q.Default(p)
		}
		if param.IsSince(text) {
			parameter = p.ID
		}
	}
	if parameter == "" {
		return period.Last{}, nil
	}
	none := q.Setting
	none.Calendar.Last = period.Last{}
	values, _, err := param.Resolve(ctx, q.Parameters, typed, none)
	if err != nil {
		return period.Last{}, err
	}
	at, err := a.room.records.MarkAt(ctx,
		model.Mark{
			Whose:     a.whose(q.with),
			Report:    q.ID,
			Parameter: parameter,
			Others:    othersDigest(factsFrom(values), parameter),
		})
	if errors.Is(err, model.ErrNotFound) {
		return period.Last{}, nil
	}
	if err != nil {
		return period.Last{}, err
	}
	of := "your last look"
	switch {
	case q.with.Control != "":
		of = "the last look of this run control"
	case q.with.Criteria > 0:
		of = "the last look with these criteria"
	}
	return period.Last{At: at, Of: of + ", which went to " + at.In(a.room.org.Zone).Format("2 January 2006 15:04 MST")},
		nil
}

// whose names who or what a mark belongs to.
func (a *Access) whose(with With) string {
	switch {
	case with.Control != "":
		return "control " + with.Control
	case with.Criteria > 0:
		return "criteria " + strconv.FormatInt(with.Criteria, 10)
	}
	return "person " + a.Person().Name
}

// othersDigest identifies all values but one.
func othersDigest(facts []model.Fact, but string) string {
	others := map[string]string{}
	for _, f := range facts {
		if f.Parameter != but {
			others[f.Parameter] = f.Resolved
		}
	}
	text, _ := json.Marshal(others) // of texts alone
	return model.Digest(string(text))
}

// MarksOf are the marks that a run leaves when it ends well: where its ranges
// since last run end, but not later than it was asked for.
func (room *Room) MarksOf(run model.Run, values param.Values) (marks []model.Mark) {
	a := room.As(room.people.As(model.Person{Name: run.AskedBy}))
	with := With{Criteria: run.Criteria, Control: run.Terms.Control}
	if with.Control != "" {
		with.Criteria = 0
	}
	for _, v := range values {
		if !param.IsSince(run.Typed[v.Parameter.ID]) {
			continue
		}
		end := room.org.Calendar().Interval(v.Range).To
		if n := len(v.Intervals); v.Parameter.Timed && n > 0 {
			end = v.Intervals[n-1].To
		}
		if end.After(run.AskedAt) {
			end = run.AskedAt
		}
		marks = append(marks, model.Mark{Whose: a.whose(with), Report: run.Report, Parameter: v.Parameter.ID,
			Others: othersDigest(run.Facts, v.Parameter.ID), At: end, Run: run.Number})
	}
	return marks
}

// Mark is until when somebody looked.
type Mark struct {
	model.Mark
	Of       string // you, or the name of the run control or criteria
	Label    string // of the parameter
	Sentence string // of the run
}

// Marks returns the marks of a report that the person, or what is theirs, has.
func (a *Access) Marks(ctx context.Context, report string) (out []Mark, err error) {
	d, err := a.catalog.Report(report)
	if err != nil {
		return nil, err
	}
	all, err := a.room.records.Marks(ctx, report)
	if err != nil {
		return nil, err
	}
	for _, m := range all {
		of, mine, err := a.ofMark(ctx, m)
		if err != nil {
			return nil, err
		}
		if !mine {
			continue
		}
		mark := Mark{Mark: m, Of: of, Label: m.Parameter}
		if p := d.Parameter(m.Parameter); p != nil {
			mark.Label = p.Label
		}
		if sentence, err := a.room.records.SentenceOf(ctx, m.Run); err == nil {
			mark.Sentence = sentence
		}
		out = append(out, mark)
	}
	return out, nil
}

// ofMark names what a mark belongs to, and tells whether the person may change
// that.
func (a *Access) ofMark(ctx context.Context, m model.Mark) (of string, mine bool, err error) {
	kind, name, _ := strings.Cut(m.Whose, " ")
	switch kind {
	case "person":
		return "you", name == a.Person().Name, nil
	case "control":
		title, owner, err := a.room.records.ControlOf(ctx, name)
		if errors.Is(err, model.ErrNotFound) {
			return "", false, nil
		}
		return title, err == nil && a.MayChange("", owner) == nil, err
	}
	number, _ := strconv.ParseInt(name, 10, 64) // as it was written
	c, err := a.room.records.CriteriaOf(ctx, number, a.Person().Name)
	if errors.Is(err, model.ErrNotFound) {
		return "", false, nil
	}
	return c.Name, err == nil && a.MayChange("", c.Owner) == nil, err
}

func (a *Access) mark(ctx context.Context, number int64) (model.Mark, error) {
	m, err := a.room.records.MarkNumbered(ctx, number)
	if err == nil {
		var mine bool
		if _, mine, err = a.ofMark(ctx, m); err == nil && !mine {
			err = model.ErrNotFound
		}
	}
	if err != nil {
		return m, fmt.Errorf("mark M-%d: %w", number, err)
	}
	return m, nil
}

// SetMark says until when somebody looked.
func (a *Access) SetMark(ctx context.Context, number int64, at time.Time) (Mark, error) {
	if err := a.May(access.Run); err != nil {
		return Mark{}, err
	}
	m, err := a.mark(ctx, number)
	if err != nil {
		return Mark{}, err
	}
	if at.After(a.room.org.Now()) {
		return Mark{}, model.Refuse("at", "nobody looked further than now")
	}
	if err := a.room.records.SetMark(ctx, number, at); err != nil {
		return Mark{}, err
	}
	all, err := a.Marks(ctx, m.Report)
	for _, mark := range all {
		if mark.Number == number {
			return mark, nil
		}
	}
	return Mark{}, cmp.Or(err, error(model.ErrNotFound))
}

// DeleteMark forgets until when somebody looked.
func (a *Access) DeleteMark(ctx context.Context, number int64) error {
	if err := a.May(access.Run); err != nil {
		return err
	}
	m, err := a.mark(ctx, number)
	if err != nil {
		return err
	}
	thrown := a.Throws(model.ThrownMark, fmt.Sprintf("M-%d", number), m.Parameter)
	thrown.Report = m.Report
	return a.room.records.DeleteMark(ctx, thrown)
}

// PutBackMark brings back until when somebody looked, which whoever calls has seen to be theirs.
func (a *Access) PutBackMark(ctx context.Context, number int64) error {
	if err := a.May(access.Run); err != nil {
		return err
	}
	return a.room.records.PutBack(ctx, model.ThrownMark, fmt.Sprintf("M-%d", number))
}
