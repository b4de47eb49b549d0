package reconciling

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/reconcile"
	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/library/capture"
	"mantilla/library/reading"
	"mantilla/model"
	"mantilla/statement"
)

// Reconciliation is what is to be reconciled.
type Reconciliation struct {
	Result    int64
	Statement int64
	Earlier   int64  // the reconciliation whose open items are brought on; 0 for none
	Until     string // the last day that the statement covers; "" for that of the file
	Chosen    []reconcile.Choice
}

// mostChosen bounds what is chosen by hand.
const mostChosen = 2000

// Reconcile puts in the queue a result held against a statement, which becomes a result of its own.
func (a *Access) Reconcile(ctx context.Context, c Reconciliation) (model.Run, error) {
	run := model.Run{Making: &model.Making{How: model.HowReconcile}}
	if err := a.May(access.Run); err != nil {
		return run, err
	}
	if err := a.whole(); err != nil {
		return run, err
	}
	r, err := a.reading.Result(ctx, c.Result)
	if err != nil {
		return run, err
	}
	if r.Manifest.Made != nil || r.Manifest.Reach.Limited {
		return run, model.Refuse("result", "R-%06d is made of other results, or cut to units; reconcile one of all units",
			r.Number)
	}
	kept, _, err := a.Statement(ctx, c.Statement)
	if err != nil {
		return run, err
	}
	if kept.Report != r.Report {
		return run, model.Refuse("statement", "S-%06d is a statement for %s, and R-%06d is of %s", kept.Number, kept.Report,
			r.Number, r.Report)
	}
	against, err := a.against(ctx, kept, c)
	if err != nil {
		return run, err
	}
	if err := against.By.Check(r.Definition); err != nil {
		return run, model.Refuse("result", "R-%06d cannot be reconciled: %w; run the report again", r.Number, err)
	}
	run.Making.Against, run.Making.Of = against, []model.MadeOf{{Result: r.Number, Report: r.Report,
		Dataset: against.By.Of}}
	if c.Earlier > 0 {
		before, err := a.reading.Result(ctx, c.Earlier)
		if err != nil {
			return run, err
		}
		if m := before.Manifest.Made; m == nil || m.Against == nil || before.Report != r.Report {
			return run, model.Refuse("earlier", "R-%06d is no reconciliation of %s", c.Earlier, r.Report)
		}
		run.Making.Of = append(run.Making.Of, model.MadeOf{Result: before.Number, Report: before.Report,
			Dataset: reconcile.AllRows})
	}
	run.Report, run.Title, run.Version = r.Report, "Reconciled: "+r.Title, r.Manifest.Version
	run.Sentence = fmt.Sprintf("R-%06d with %s, %s", r.Number, against.By.Title, against.Name)
	return a.capture.StartMaking(ctx, run)
}

// against is a statement as it is reconciled with.
func (a *Access) against(ctx context.Context, kept model.Statement, c Reconciliation) (*model.Against, error) {
	d, err := a.catalog.Report(kept.Report)
	if err != nil {
		return nil, err
	}
	by, err := declaredBy(d, kept.Declared)
	if err != nil {
		return nil, err
	}
	if _, err := a.room.daysOff(ctx, by.Calendar); err != nil {
		return nil, err
	}
	out := &model.Against{Statement: kept.Number, Name: kept.Name, Digest: kept.Digest, By: *by, Until: kept.Until,
		Chosen: c.Chosen}
	if c.Until != "" {
		day, err := period.ParseDay(c.Until)
		if err != nil {
			return nil, model.Refuse("until", "%w", err)
		}
		out.Until = day.String()
	}
	if out.Until < kept.Until {
		return nil, model.Refuse("until", "S-%06d has lines until %s; it cannot end before", kept.Number, kept.Until)
	}
	if len(c.Chosen) > mostChosen {
		return nil, model.Refuse("chosen", "more than %d choices are too many for one reconciliation", mostChosen)
	}
	return out, nil
}

// Make is the work of a run that reconciles; a [capture.Maker].
func (room *Room) Make(ctx context.Context, run *model.Run, keep capture.Keeper, tick func(int64) error) (
	*report.Definition, error) {
	m, err := room.load(ctx, run.Making)
	if err != nil {
		return nil, err
	}
	sets, err := reconcile.Match(ctx, m.sides.Ours, m.sides.Theirs, m.rule, run.Making.Against.Chosen)
	if err != nil {
		return nil, err
	}
	for _, id := range []string{reconcile.AllRows, reconcile.OpenRows} {
		keep.Dataset(id)
		schema := m.shape.Rows.Schema()
		err := capture.Ahead(ctx, keep, schema, tick, func(ctx context.Context, out *frame.Builder) error {
			return m.shape.Write(ctx, m.sides, sets, id == reconcile.AllRows, m.rule.Off, out)
		})
		if err != nil {
			return nil, err
		}
	}
	run.Sentence = m.sentence(run.Making)
	says := m.shape.Say(reconcile.Sum(m.sides.Ours, m.sides.Theirs, sets))
	return m.shape.Definition(report.Definition{ID: run.Report, Title: run.Title, Category: m.result.Definition.Category,
		Depth: m.result.Definition.Depth, About: "A result held against what others state."}, says), nil
}

// loaded is everything that is reconciled.
type loaded struct {
	result  *reading.Result
	earlier *reading.Result // nil for none
	lines   statement.Lines
	shape   *reconcile.Shape
	sides   reconcile.Sides
	rule    reconcile.Rule
	left    leftOut
}

// load reads both sides, and what the reconciliation before left open.
func (room *Room) load(ctx context.Context, making *model.Making) (m loaded, err error) {
	read, by := room.reading.As(room.people.AsService()), &making.Against.By
	for i := range making.Of {
		r, err := read.Result(ctx, making.Of[i].Result)
		if err != nil {
			return m, err
		}
		making.Of[i].Seal = r.Manifest.Seal
		if i == 0 {
			m.result = r
		} else {
			m.earlier = r
		}
	}
	set := m.result.Definition.Dataset(by.Of)
	if reason := m.result.FailedOf(by.Of); reason != "" {
		return m, fmt.Errorf("R-%06d has no such rows: %s", m.result.Number, reason)
	}
	if m.shape, err = reconcile.Shaped(set, by); err != nil {
		return m, err
	}
	_, data, err := room.records.Statement(ctx, making.Against.Statement)
	if err != nil {
		return m, fmt.Errorf("the statement S-%06d: %w", making.Against.Statement, err)
	}
	amount := set.Column(by.Amount).Field()
	if m.lines, err = statement.Read(data, by, amount); err != nil {
		return m, fmt.Errorf("%s: %w", making.Against.Name, err)
	}
	if m.rule, err = room.rule(ctx, making.Against, amount); err != nil {
		return m, err
	}
	of, err := read.Read(ctx, m.result, by.Of+".rows", ask.Changes{})
	if err != nil {
		return m, err
	}
	batches, _, err := of.Batches(ctx, m.shape.Ours)
	if err != nil {
		return m, err
	}
	fresh := ours(batches, m.shape)
	m.rule.Since = firstDay(fresh)
	var before brought
	if m.earlier != nil {
		if before, err = room.bring(ctx, read, m.earlier, m.shape, set.Key); err != nil {
			return m, err
		}
		m.rule.Since = 0
	}
	m.sides, m.left = before.join(fresh, m.lines.Items, set.Key, m.shape)
	return m, nil
}

// rule says when items belong together.
func (room *Room) rule(ctx context.Context, a *model.Against, amount frame.Field) (rule reconcile.Rule, err error) {
	rule.From, rule.To = a.By.From, a.By.To
	if rule.Off, err = room.daysOff(ctx, a.By.Calendar); err != nil {
		return rule, err
	}
	if a.By.Tolerance != "" {
		if rule.Tolerance, err = frame.ParseNumber(a.By.Tolerance, amount.Scale); err != nil {
			return rule, err
		}
	}
	until, err := time.Parse(time.DateOnly, a.Until)
	rule.Until = period.DayOf(until, time.UTC)
	return rule, err
}

// found are items of ours with where their cells are.
type found struct {
	items []reconcile.Item
	rows  []reconcile.Row
}

// ours are the rows of a dataset as items.
func ours(batches []*frame.Batch, shape *reconcile.Shape) (out found) {
	at := make([]int, len(shape.Ours))
	for i := range at {
		at[i] = i
	}
	for _, b := range batches {
		for row := range b.Rows {
			r := reconcile.Row{Batch: b, Row: row, At: at}
			out.items, out.rows = append(out.items, item(r, shape)), append(out.rows, r)
		}
	}
	return out
}

// item is a row of ours as it is matched.
func item(r reconcile.Row, shape *reconcile.Shape) (it reconcile.Item) {
	it.Undated = true
	for i, id := range shape.Ours {
		at := r.At[i]
		if at < 0 || r.Batch.Null(at, r.Row) {
			continue
		}
		switch id {
		case shape.By.Amount:
			it.Amount = r.Batch.Int(at, r.Row)
		case shape.By.Day:
			it.Day, it.Undated = period.Day(r.Batch.Int(at, r.Row)), false
		case shape.By.Reference:
			it.Reference = r.Batch.Text(at, r.Row)
		}
	}
	return it
}

// firstDay is the first day of all items that have one; 0 where none has.
func firstDay(f found) (first period.Day) {
	for _, it := range f.items {
		if !it.Undated && (first == 0 || it.Day < first) {
			first = it.Day
		}
	}
	return first
}

// sentence says what was reconciled with what, and how.
func (m *loaded) sentence(making *model.Making) string {
	a := making.Against
	until, err := period.ParseDay(a.Until)
	if err != nil {
		until = m.lines.Until
	}
	covers := period.Range{First: min(m.lines.First, until), Last: until}
	said := fmt.Sprintf("R-%06d (%s) with %s %s, of %s; lines follow %s by %d to %d working days", m.result.Number,
		strings.TrimSuffix(m.result.Sentence, "."), a.By.Title, a.Name, covers.Long(),
		m.shape.Rows.Column(a.By.Day).Label, a.By.From, a.By.To)
	if a.By.Tolerance != "" {
		said += ", amounts by " + a.By.Tolerance + " at most"
	}
	if m.earlier != nil {
		said += fmt.Sprintf("; what R-%06d left open is brought on", m.earlier.Number)
	}
	if m.left.rows+m.left.lines > 0 {
		said += fmt.Sprintf("; %d rows and %d lines that were settled there are left out", m.left.rows, m.left.lines)
	}
	for i, c := range a.Chosen {
		if i == 0 {
			said += "; by hand: "
		} else {
			said += ", "
		}
		said += numbers(c.Ours) + " is line " + numbers(c.Theirs)
	}
	return said + "."
}

func numbers(of []int) string {
	var out []string
	for _, n := range slices.Sorted(slices.Values(of)) {
		out = append(out, fmt.Sprint(n))
	}
	return strings.Join(out, "+")
}
