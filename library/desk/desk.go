package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"mantilla/core/ask"
	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/core/shown"
	"mantilla/library/reading"
	"mantilla/model"
)

// Tile is a view of a run control's latest result, on a desk.
type Tile struct {
	ID      string      `json:"id"`
	Result  int64       `json:"result,omitempty"` // this one; otherwise the latest of a run control
	Control string      `json:"control"`
	Step    int         `json:"step"` // of the control's reports, from 1
	Part    string      `json:"part,omitempty"`
	View    string      `json:"view"`
	Changes ask.Changes `json:"changes,omitzero"`  // to the view
	Show    string      `json:"show"`              // figure, chart or table
	Measure string      `json:"measure,omitempty"` // of a figure: a column of the view, or a formula of all rows
	Title   string      `json:"title,omitempty"`
	Width   int         `json:"width,omitempty"`  // in quarters of the desk; 0 as it suits
	Height  int         `json:"height,omitempty"` // in lines of tiles; 0 as it suits
	Wide    bool        `json:"wide,omitempty"`   // how a width of two was kept once
}

// Desk is the tiles of a person, or of a group whose members share them.
type Desk struct {
	Kind, Owner string // person or group
	Tiles       []Tile
	Revision    int64
}

// Desks returns the person's own desk and those of their groups.
func (a *Access) Desks(ctx context.Context) (all []Desk, err error) {
	owners := []Desk{{Kind: "person", Owner: a.Person().Name}}
	for _, g := range a.Person().Groups {
		owners = append(owners, Desk{Kind: "group", Owner: g})
	}
	for _, d := range owners {
		kept, err := a.desk(ctx, d.Kind, d.Owner)
		if err != nil {
			return nil, err
		}
		all = append(all, kept)
	}
	return all, nil
}

// A desk is four tiles across; no tile is more than fits a screen.
const mostAcross, mostDown = 4, 4

// mostTiles bounds a desk: what nobody can take in at a glance is no desk.
const mostTiles = 40

// PutDesk keeps a desk as it then is; tiles that are no longer on it can be brought back for
// a while. Members of a group change its desk alike.
func (a *Access) PutDesk(ctx context.Context, d Desk) (Desk, error) {
	return a.put(ctx, d, 0)
}

// ReturnTile puts a tile back at the end of the desk that it was on.
func (a *Access) ReturnTile(ctx context.Context, number int64) error {
	thrown, err := a.room.records.ThrownTile(ctx, number)
	if err == nil && !a.shares(thrown.Kind, thrown.Owner) {
		err = model.ErrNotFound
	}
	if err != nil {
		return fmt.Errorf("tile T-%d: %w", number, err)
	}
	d, err := a.desk(ctx, thrown.Kind, thrown.Owner)
	if err != nil {
		return err
	}
	var t Tile
	if err := json.Unmarshal(thrown.Tile, &t); err != nil {
		return err
	}
	d.Tiles = append(d.Tiles, t)
	_, err = a.put(ctx, d, number)
	return err
}

// shares tells whether a desk is the person's own, or of one of their groups.
func (a *Access) shares(kind, owner string) bool {
	return kind == "person" && owner == a.Person().Name || kind == "group" && slices.Contains(a.Person().Groups, owner)
}

// desk reads a desk as it is kept.
func (a *Access) desk(ctx context.Context, kind, owner string) (Desk, error) {
	d := Desk{Kind: kind, Owner: owner}
	kept, err := a.room.records.Desk(ctx, kind, owner)
	if err == nil {
		d.Revision = kept.Revision
		err = json.Unmarshal(kept.Tiles, &d.Tiles)
	}
	for i := range d.Tiles {
		if t := &d.Tiles[i]; t.Wide {
			t.Width, t.Wide = max(t.Width, 2), false
		}
	}
	return d, err
}

// put keeps a desk to which the tile of that number comes back; 0 for none.
func (a *Access) put(ctx context.Context, d Desk, returned int64) (Desk, error) {
	if !a.shares(d.Kind, d.Owner) {
		return d, model.Forbid("this desk is not yours, and you are not in the group whose it is")
	}
	if len(d.Tiles) > mostTiles {
		return d, model.Refuse("tiles", "a desk has at most %d tiles", mostTiles)
	}
	for i, t := range d.Tiles {
		if err := a.checkTile(ctx, t); err != nil {
			return d, model.Refuse(fmt.Sprintf("tiles.%d", i+1), "tile %d: %w", i+1, err)
		}
		if t.ID == "" {
			d.Tiles[i].ID = model.Digest(model.NewSecret())[:8]
		}
	}
	text, err := json.Marshal(append([]Tile{}, d.Tiles...))
	if err != nil {
		return d, err
	}
	thrown, err := a.takenOff(ctx, d)
	if err != nil {
		return d, err
	}
	err = a.room.records.PutDesk(ctx, model.DeskChange{Thrown: thrown, Returned: returned,
		Desk: model.Desk{Kind: d.Kind, Owner: d.Owner, Tiles: text, Revision: d.Revision}})
	d.Revision++
	return d, err
}

// takenOff are the tiles that are on the desk now and will not be any more.
func (a *Access) takenOff(ctx context.Context, d Desk) (thrown []model.Tile, err error) {
	now, err := a.desk(ctx, d.Kind, d.Owner)
	if err != nil {
		return nil, err
	}
	for _, t := range now.Tiles {
		if slices.ContainsFunc(d.Tiles, func(o Tile) bool { return o.ID == t.ID }) {
			continue
		}
		text, err := json.Marshal(t)
		if err != nil {
			return nil, err
		}
		thrown = append(thrown, model.Tile{Tile: text, Title: a.titleOf(ctx, t), At: a.room.org.Now()})
	}
	return thrown, nil
}

// titleOf is what a tile is called: as it says, or as its run control does.
func (a *Access) titleOf(ctx context.Context, t Tile) string {
	if t.Title != "" {
		return t.Title
	}
	if t.Result > 0 {
		return fmt.Sprintf("R-%06d", t.Result)
	}
	if c, err := a.controls.Control(ctx, t.Control); err == nil {
		return c.Title
	}
	return t.Control
}

func (a *Access) checkTile(ctx context.Context, t Tile) error {
	d, err := a.definitionOf(ctx, t)
	if err != nil {
		return err
	}
	if _, kept := reading.KeptNumber(t.View); reading.ViewOf(d, t.View) == nil && !kept {
		return model.NoSuch("view", t.View, reading.ViewIDs(d))
	}
	if t.Width < 0 || t.Width > mostAcross || t.Height < 0 || t.Height > mostDown {
		return fmt.Errorf("a tile is 1 to %d quarters of the desk across and 1 to %d lines down, not %dx%d", mostAcross,
			mostDown, t.Width, t.Height)
	}
	if !slices.Contains([]string{"figure", "chart", "table"}, t.Show) {
		return fmt.Errorf("%q is not what a tile shows; use figure, chart or table", t.Show)
	}
	if t.Show == "figure" && t.Measure == "" {
		return errors.New("a figure needs a measure: a column of the view with a total, or a formula such as sum(value)")
	}
	if v := reading.ViewOf(d, t.View); v != nil && t.Show == "figure" {
		return a.checkMeasure(d, v, t.Measure)
	}
	return nil
}

// definitionOf is the definition that a tile's view is of: that of its result, or of a report of
// its run control.
func (a *Access) definitionOf(ctx context.Context, t Tile) (*report.Definition, error) {
	if t.Result > 0 {
		r, err := a.reading.Result(ctx, t.Result)
		if err != nil {
			return nil, err
		}
		return r.Definition, nil
	}
	c, err := a.controls.Control(ctx, t.Control)
	if err != nil {
		return nil, err
	}
	if t.Step < 1 || t.Step > len(c.Steps) {
		return nil, fmt.Errorf("the run control %q has the reports 1 to %d", c.Title, len(c.Steps))
	}
	return a.catalog.Report(c.Steps[t.Step-1].Report)
}

// checkMeasure reads what a figure is of: a column with a total, or a formula
// of all rows.
func (a *Access) checkMeasure(d *report.Definition, v *report.View, measure string) error {
	if c := d.Dataset(v.Of).Column(measure); c != nil && (c.Total != frame.NoTotal || c.AtGroups) {
		return nil
	}
	if _, err := formula.Parse(measure, a.reading.FigureScope(d, v)); err != nil {
		return fmt.Errorf("the measure %q: %w", measure, err)
	}
	return nil
}

// Shown is what a tile shows now.
type Shown struct {
	Result, Before *reading.Result // the latest, and the one before it; nil for none
	Figure, Was    frame.Value
	Label          string
	Sentence       string      // of the latest, with what was done to the view
	Change         frame.Value // of the figure
	Percent        frame.Value
}

// Show finds what a tile shows: of the latest result that the person sees.
func (a *Access) Show(ctx context.Context, t Tile) (s Shown, err error) {
	if err := a.checkTile(ctx, t); err != nil {
		return s, model.Refuse("tile", "%w", err)
	}
	numbers, err := a.latestOf(ctx, t)
	if err != nil || len(numbers) == 0 {
		return s, err
	}
	if s.Result, err = a.reading.Result(ctx, numbers[0]); err != nil {
		return s, err
	}
	if t.Show != "figure" {
		s.Sentence, err = a.reading.Says(ctx, s.Result, []reading.Viewed{{View: t.View, Changes: t.Changes}})
		return s, err
	}
	told := ""
	s.Figure, s.Label, told, err = a.figureOf(ctx, s.Result, t)
	s.Sentence = strings.TrimSpace(s.Result.Sentence + " " + told)
	if err != nil || len(numbers) == 1 {
		return s, err
	}
	if s.Before, err = a.reading.Result(ctx, numbers[1]); err != nil {
		return s, err
	}
	if s.Was, _, _, err = a.figureOf(ctx, s.Before, t); err != nil {
		return s, nil // an earlier version of the report may not have the column
	}
	s.Change, s.Percent = changeOf(s.Was, s.Figure)
	return s, nil
}

// latestOf are the result of a tile and the one before it, where there are any.
func (a *Access) latestOf(ctx context.Context, t Tile) ([]int64, error) {
	if t.Result > 0 {
		return []int64{t.Result}, nil
	}
	sight, err := a.Sight(ctx)
	if err != nil {
		return nil, err
	}
	return a.room.records.LatestOf(ctx, sight, t.Control, t.Step-1, t.Part, 2)
}

// changeOf is the difference of two figures and what it is of the first, in
// percent to one place.
func changeOf(was, is frame.Value) (change, percent frame.Value) {
	change, percent = frame.Value{Null: true}, frame.Value{Null: true}
	if was.Null || is.Null || !is.Kind.Numeric() {
		return change, percent
	}
	change = frame.Value{Kind: is.Kind, Number: is.Number.Plus(was.Number, -1)}
	hundred := change.Number.Times(frame.Exact(100, 0))
	if share, ok := hundred.Over(was.Number, 1); ok {
		percent = frame.Value{Kind: frame.Decimal, Number: share}
	}
	return change, percent
}

// figureOf computes a measure of all rows of a view.
func (a *Access) figureOf(ctx context.Context, r *reading.Result, t Tile) (figure frame.Value, label, told string,
	err error) {
	read, err := a.reading.Read(ctx, r, t.View, t.Changes)
	if err != nil {
		return figure, "", "", err
	}
	s, err := read.Lay(ctx)
	if err != nil {
		return figure, "", "", err
	}
	for i, c := range s.Columns {
		if c.ID == t.Measure && i < len(s.Totals) && len(c.Heads) == 0 && s.Totals[i].Op != frame.NoTotal {
			return s.Totals[i].Value, shown.Heading(c.Column), s.Told(), nil
		}
	}
	v, err := read.Figure(ctx, t.Measure)
	if err != nil {
		return v, "", "",
			model.Refuse("measure", "%q has no total in the view and is no formula of all rows: %w", t.Measure, err)
	}
	return v, t.Measure, s.Told(), nil
}

// Age is how old a result is.
func (a *Access) Age(r *reading.Result) time.Duration { return a.room.org.Now().Sub(r.KeptAt) }
