package asking

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/report"
	"mantilla/library/catalog"
	"mantilla/model"
	"mantilla/source"
	"mantilla/source/lookup"
)

// Resolution is what a set of typed values comes to today.
type Resolution struct {
	Values   param.Values
	Facts    []model.Fact
	Sentence string
	Notes    []string
	Faults   param.Faults
	Kept     *model.Result // a result of the same values while the source is unchanged
}

// With says what values are resolved for besides their report: the criteria or
// the run control that they belong to, whose last run "since last run" means.
type With struct {
	Criteria int64
	Control  string
	Version  int // of the report, by its number; 0 for that of now
}

// asking is a report as a person fills it in.
type asking struct {
	*report.Definition
	source catalog.Source
	reach  report.Reach
	param.Setting
	with    With
	retired error // why the report is run no more; nil where it is

	own map[string]string // where the defaults of the person's own come from
}

// ask gathers what the values of a report are resolved against.
func (a *Access) ask(ctx context.Context, id string, with With) (*asking, error) {
	d, err := a.catalog.Report(id)
	if err == nil && with.Version > 0 {
		d, err = a.catalog.Earlier(ctx, id, with.Version)
	}
	if err != nil {
		return nil, err
	}
	q := &asking{Definition: d}
	if successor, gone := a.room.catalog.Retired(id); gone {
		q.retired = retired(d, successor)
	}
	if q.source, err = a.room.catalog.Source(d.Source); err != nil {
		return nil, err
	}
	if q.reach, err = a.Reach(ctx, q.source.Book); err != nil {
		return nil, err
	}
	q.Lists, q.Limited = q.source.Book.For(q.reach), q.reach.Limited && !a.Parted() // a part names its unit
	q.Calendar, q.with = a.Calendar(), with
	if with != (With{}) {
		return q, nil // what is usual for a person is no part of criteria and controls
	}
	return q, a.defaults(ctx, q)
}

// retired says that a report is run no more, and what is run instead.
func retired(d *report.Definition, successor string) error {
	if successor == "" {
		return model.Refuse("report", "%s is retired; its results can still be read", d.Title)
	}
	return model.Refuse("report", "%s is retired; run %s instead. Its results can still be read", d.Title, successor)
}

// defaults finds the defaults of the person's own: their usual values, then
// for some parameters those of their last run.
func (a *Access) defaults(ctx context.Context, q *asking) error {
	q.Own, q.own = map[string]string{}, map[string]string{}
	usual, err := a.room.records.Usual(ctx, a.Person().Name, q.ID)
	if err != nil {
		return err
	}
	last, err := a.room.records.LastTyped(ctx, a.Person().Name, q.ID)
	if err != nil {
		return err
	}
	for _, p := range q.Parameters {
		if text, ok := usual[p.ID]; ok && !p.Locked {
			q.Own[p.ID], q.own[p.ID] = text, "your usual values"
		} else if text, ok := last[p.ID]; ok && p.Start == "previous" {
			q.Own[p.ID], q.own[p.ID] = text, "your last run"
		}
	}
	return nil
}

// Resolve resolves typed values against today and the report's source. Faults
// are part of the answer, not an error.
func (a *Access) Resolve(ctx context.Context, id string, typed map[string]string, with With) (*Resolution, error) {
	q, err := a.ask(ctx, id, with)
	if err != nil {
		return nil, err
	}
	r, err := a.resolve(ctx, q, typed)
	if err != nil || len(r.Faults) > 0 {
		return r, err
	}
	r.Kept, err = a.kept(ctx, q, r)
	return r, err
}

func (a *Access) resolve(ctx context.Context, q *asking, typed map[string]string) (*Resolution, error) {
	var err error
	if q.Calendar.Last, err = a.lastLook(ctx, q, typed); err != nil {
		return nil, err
	}
	if q.Signed, err = a.lastSigned(ctx, q, typed); err != nil {
		return nil, err
	}
	values, faults, err := param.Resolve(ctx, q.Parameters, typed, q.Setting)
	if err != nil {
		return nil, err
	}
	r := &Resolution{Values: values, Faults: faults, Facts: factsFrom(values)}
	if len(faults) == 0 {
		r.Sentence = param.Describe(values) + q.cutTo()
		r.Notes = q.NotesOn(values, q.Calendar.Today)
	}
	return r, nil
}

// lastSigned are the days of the result that was signed off last, by parameter, where a range
// is compared with it.
func (a *Access) lastSigned(ctx context.Context, q *asking, typed map[string]string) (map[string]period.Range, error) {
	spoken := slices.ContainsFunc(q.Parameters, func(p param.Parameter) bool {
		text, ok := typed[p.ID]
		if !ok {
			text = q.Default(&p)
		}
		return p.Compare && param.ComparesSigned(text)
	})
	if !spoken {
		return nil, nil
	}
	facts, err := a.room.records.SignedFacts(ctx, q.ID)
	days := map[string]period.Range{}
	for _, f := range facts {
		main, _, _ := strings.Cut(f.Resolved, " against ")
		if r, err := q.Calendar.ParseRange(main); err == nil {
			days[f.Parameter] = r
		}
	}
	return days, err
}

func factsFrom(values param.Values) (facts []model.Fact) {
	for _, v := range values {
		facts = append(facts,
			model.Fact{
				Parameter: v.Parameter.ID,
				Label:     v.Parameter.Label,
				Typed:     v.Typed,
				Resolved:  v.Resolved(),
				Says:      v.Phrase(),
			})
	}
	return facts
}

// cutTo says that a limited person's rows are cut, where no unit is asked for
// that would say so.
func (q *asking) cutTo() string {
	asked := slices.ContainsFunc(q.Parameters,
		func(p param.Parameter) bool { return p.Type == param.Unit && p.From == q.source.Config.Units })
	if q.Limited && !asked {
		return " Only your units."
	}
	return ""
}

// kept finds a result of the same values whose source has not changed since.
func (a *Access) kept(ctx context.Context, q *asking, r *Resolution) (*model.Result, error) {
	fingerprint, err := q.source.Fingerprint(ctx)
	if errors.Is(err, source.ErrSilent) {
		return nil, nil // a run will tell; the form goes on
	}
	if err != nil {
		return nil, err
	}
	planned, err := a.planned(q, r)
	if err != nil {
		return nil, err
	}
	same, err := a.room.records.SameResult(ctx, model.FactsDigest(planned), fingerprint)
	if errors.Is(err, model.ErrNotFound) {
		return nil, nil
	}
	return &same, err
}

// Form is a report as a person is asked for it.
type Form struct {
	*report.Definition
	Defaults map[string]string        // what each parameter is set to at first
	From     map[string]string        // where a default of the person's own comes from
	Lists    map[string][]param.Entry // the entries of lists that are not too long
	Periods  map[string][]period.Named
	Refused  string    // why the person cannot run it at all
	Silent   time.Time // since when its source does not answer; zero where it does
	Fault    error     // what keeps its source from being read
	FilesOf  string    // its source, where the person may bring files for it
}

// inForm is how long a list may be that comes with the form.
const inForm = 500

// Form describes a report with the person's own defaults and its lists.
func (a *Access) Form(ctx context.Context, id string) (*Form, error) {
	q, err := a.ask(ctx, id, With{})
	if err != nil {
		return nil, err
	}
	f := &Form{
		Definition: q.Definition,
		Defaults:   map[string]string{},
		From:       q.own,
		Lists:      map[string][]param.Entry{},
		Periods:    map[string][]period.Named{},
	}
	if err := q.cannotRun(); err != nil {
		f.Refused = err.Error()
	}
	for i := range q.Parameters {
		p := &q.Parameters[i]
		f.Defaults[p.ID] = q.Default(p)
		if p.Type == param.Period {
			f.Periods[p.ID] = q.Calendar.Periods(p.Grain)
		}
		if p.From == "" || p.Type == param.Entity {
			continue
		}
		entries, err := q.source.Book.For(q.reach).Entries(ctx, p.From, lookup.Wish{Limit: inForm + 1})
		if errors.Is(err, source.ErrSilent) {
			continue // the form says that its source does not answer
		}
		if err != nil {
			return nil, err
		}
		if len(entries) <= inForm {
			f.Lists[p.ID] = entries
		}
	}
	f.Silent, f.Fault = q.source.Silent()
	if a.brings(q.source.Config) {
		f.FilesOf = q.source.Config.ID
	}
	return f, nil
}

// brings tells whether a person may bring files for a table of a source.
func (a *Access) brings(c *source.Config) bool {
	for _, t := range c.Tables {
		if a.MayBring(t.Groups) == nil {
			return true
		}
	}
	return false
}

// Entries returns the entries that a parameter offers. Typed values of other
// parameters narrow them: what those rule out comes last and is marked.
func (a *Access) Entries(ctx context.Context, id, parameter string, w lookup.Wish,
	typed map[string]string) ([]param.Entry, error) {
	q, err := a.ask(ctx, id, With{})
	if err != nil {
		return nil, err
	}
	p := q.Parameter(parameter)
	if p == nil {
		return nil, model.NoSuch("parameter", parameter, catalog.ParameterIDs(q.Definition))
	}
	if p.From == "" {
		return p.Options, nil
	}
	if len(p.By) > 0 {
		values, _, err := param.Resolve(ctx, q.Parameters, typed, q.Setting)
		if err != nil {
			return nil, err
		}
		byID := map[string]*param.Value{}
		for i := range values {
			byID[values[i].Parameter.ID] = &values[i]
		}
		w.By = param.Narrowed(p, byID)
	}
	return q.source.Book.For(q.reach).Entries(ctx, p.From, w)
}

// planned is the run that a resolution would make.
func (a *Access) planned(q *asking, r *Resolution) (model.Run, error) {
	values, err := r.Values.Pack()
	if err != nil {
		return model.Run{}, err
	}
	typed := map[string]string{}
	for _, f := range r.Facts {
		typed[f.Parameter] = f.Typed
	}
	return model.Run{Report: q.ID, Title: q.Title, Version: q.Version, Typed: typed, Facts: r.Facts, Values: values,
		Sentence: r.Sentence,
		AskedBy:  a.Person().Name, AskedAt: a.room.org.Now(), AfterCrash: q.Limits.AfterCrash, Reach: q.reach}, nil
}

// cannotRun says why a person cannot run a report at all.
func (q *asking) cannotRun() error {
	if q.retired != nil {
		return q.retired
	}
	if q.reach.Limited && !q.Cuts() {
		return model.Forbid("%s cannot be run for some units only: %v", q.Title, report.ErrNotCut)
	}
	return nil
}

// Plan makes the run that a report with values would be. When values are wrong, the
// error is a [param.Faults] that lists all of them.
func (a *Access) Plan(ctx context.Context, id string, typed map[string]string, with With) (model.Run, error) {
	q, err := a.ask(ctx, id, with)
	if err != nil {
		return model.Run{}, err
	}
	if err := q.cannotRun(); err != nil {
		return model.Run{}, err
	}
	r, err := a.resolve(ctx, q, typed)
	if err != nil {
		return model.Run{}, err
	}
	if len(r.Faults) > 0 {
		return model.Run{}, r.Faults
	}
	return a.planned(q, r)
}
