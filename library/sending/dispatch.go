package sending

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"mantilla/core/ask"
	"mantilla/deliver"
	"mantilla/library/background"
	"mantilla/library/reading"
	"mantilla/model"
)

// dispatch sends what runs of controls gave, as soon as all of a control's runs
// have ended. Parts are composed one after the other and held; letting them go
// and the mark that it was done are one transaction, so that nothing is sent
// twice or forgotten. What fails for now is tried again after a pause of its
// own, and holds up no other.
func (room *Room) dispatch() {
	failing := map[int64]int{}     // how often, by control run
	after := map[int64]time.Time{} // when it is tried again
	unread := 0
	for room.work.Context().Err() == nil {
		now := time.Now()
		var without []int64
		wait := 15 * time.Second
		for number, at := range after {
			if at.After(now) {
				without = append(without, number)
				wait = min(wait, at.Sub(now))
			}
		}
		ready, err := room.records.ToSend(room.work.Context(), 50, without)
		if err != nil {
			unread++
			wait = background.PauseAfter(unread)
			room.log.Error("looking for what is to be sent", "error", err)
		} else {
			unread = 0
		}
		for _, r := range ready {
			err := room.dispatchOne(room.work.Context(), r)
			if room.work.Context().Err() != nil {
				return
			}
			if err == nil || errors.Is(err, model.ErrStale) {
				delete(failing, r.Number)
				delete(after, r.Number)
				continue
			}
			failing[r.Number]++
			after[r.Number] = time.Now().Add(background.PauseAfter(failing[r.Number]))
			room.log.Error("sending what a run control gave", "control", r.Control, "run", r.Number, "error", err, "failures",
				failing[r.Number])
		}
		if len(ready) > 0 {
			room.wakeMail()
			continue
		}
		select {
		case <-room.work.Context().Done():
		case <-room.ended:
		case <-room.toDispatch:
		case <-time.After(wait):
		}
	}
}

// dispatchOne composes what a run of a control sends and lets it go.
func (room *Room) dispatchOne(ctx context.Context, r model.ControlRun) error {
	if err := room.records.BeginSending(ctx, r.Number); err != nil {
		return err
	}
	state, note, parcels := "done", "", 0
	err := room.work.Guard(func() (err error) {
		parcels, note, err = room.compose(ctx, r)
		return err
	})
	switch {
	case ctx.Err() != nil, errors.Is(err, model.ErrFull):
		return err // it is composed again
	case err != nil:
		state, note = "failed", err.Error()
	case parcels == 0:
		state = "none"
	}
	room.log.InfoContext(ctx, "run control sent", "control", r.Control, "run", r.Number, "part", r.Part, "state", state,
		"parcels",
		parcels, "note", note)
	return room.work.Record("what a run control sent",
		func(ctx context.Context) error { return room.records.SettleSending(ctx, r.Number, state, note) })
}

// compose makes and holds what one run of a control sends, part by part, and
// counts the parcels. Without any the note says why there are none.
func (room *Room) compose(ctx context.Context, r model.ControlRun) (parcels int, note string, err error) {
	p, err := readPlan(r.Plan)
	if err != nil {
		return 0, "", err
	}
	if len(r.Runs) == 0 || len(p.Views) < len(r.Runs) {
		return 0, "", errors.New("the run control had no report to run, so there is nothing to send")
	}
	for _, run := range r.Runs {
		if run.State != model.Done || run.Result == 0 {
			return 0, "", errors.New(
				strings.TrimSuffix(fmt.Sprintf("%s of %s %s: %s", runName(run.Number), run.Report, run.State, run.Reason), ": "))
		}
	}
	a, err := room.sends(ctx, r.AskedBy, p)
	if err != nil {
		return 0, "", err
	}
	c := composing{Room: room, run: r, plan: p}
	for _, run := range r.Runs {
		x, err := a.reading.Result(ctx, run.Result)
		if err != nil {
			return 0, "", err
		}
		c.results = append(c.results, x)
	}
	parts := []string{""}
	if p.Column != "" {
		if parts, err = c.values(ctx, a); err != nil {
			return 0, "", err
		}
	}
	var quiet []string
	for _, value := range parts {
		made, why, err := c.part(ctx, a, value)
		if err == nil {
			err = room.records.HoldParcels(ctx, made)
		}
		if err != nil {
			return 0, "", err
		}
		if why != "" {
			quiet = append(quiet, why)
		}
		parcels += len(made)
	}
	slices.Sort(quiet)
	return parcels, strings.Join(append(slices.Compact(quiet), p.Nobody...), "; "), nil
}

func runName(n int64) string { return fmt.Sprintf("RUN-%06d", n) }

// composing is what one run of a control sends, on its way.
type composing struct {
	*Room
	run     model.ControlRun
	plan    plan
	results []*reading.Result
	said    []string // the sentences of the results, with what was done to the views of the part under way
}

// mostParts bounds into how many parts one run of a control is split.
const mostParts = 5000

// values are those of the column that files are split by.
func (c *composing) values(ctx context.Context, a *Access) (values []string, err error) {
	read, err := a.reading.Read(ctx, c.results[0], reading.FirstView(c.results[0].Definition, c.plan.Views[0]),
		ask.Changes{})
	if err != nil {
		return nil, err
	}
	found, err := read.Values(ctx, c.plan.Column, "", mostParts)
	if err != nil {
		return nil, err
	}
	if found.Of > mostParts {
		return nil, fmt.Errorf("split by %s there would be %d parts; at most %d are sent, so split by a column with fewer "+
			"values or filter the report", c.plan.Column, found.Of, mostParts)
	}
	for _, item := range found.Items {
		values = append(values, strings.TrimPrefix(item.Filter, c.plan.Column+"="))
	}
	return values, nil
}

// part makes the parcels of the whole, or of one value of the column; why says
// that there is nothing to send.
func (c *composing) part(ctx context.Context, a *Access, value string) (parcels []model.Parcel, why string, err error) {
	var lines []line
	for _, l := range c.plan.Lines {
		if value == "" || l.Parts == nil || slices.Contains(l.Parts, value) {
			lines = append(lines, l)
		}
	}
	if len(lines) == 0 && c.plan.Send.Folder == "" && c.plan.Send.Webhook == "" {
		return nil, "nobody gets a part", nil
	}
	var changes ask.Changes
	if value != "" {
		changes.Filters = []string{c.plan.Column + "=" + value}
	}
	wanted, rows, err := c.wanted(ctx, a, changes)
	if err != nil || !wanted {
		return nil, "the condition to send, " + c.plan.Send.When + ", does not hold", err
	}
	if c.said, err = c.sentences(ctx, a, changes); err != nil {
		return nil, "", err
	}
	files, tooLarge, err := c.files(ctx, a, value, changes)
	if err != nil {
		return nil, "", err
	}
	first := reading.Viewed{View: reading.FirstView(c.results[0].Definition, c.plan.Views[0]), Changes: changes}
	fields := c.fields(value, rows, first)
	key := fmt.Sprintf("run/%d/%s", c.run.Number, value)
	base := model.Parcel{
		Key:        key,
		Owner:      c.run.AskedBy,
		Result:     c.results[0].Number,
		ControlRun: c.run.Number,
		MadeAt:     c.org.Now(),
		Title:      fill(cmp.Or(c.plan.Send.Subject, usualSubject), fields),
	}
	if len(lines) > 0 {
		mail, err := c.mail(ctx, a, base, lines, files, tooLarge, fields, changes)
		if err != nil {
			return nil, "", err
		}
		mail.Key = key + "/mail"
		parcels = append(parcels, mail)
	}
	if c.plan.Send.Folder != "" {
		for _, f := range files {
			p := base
			p.Key, p.Way, p.Target, p.Payload = key+"/folder/"+f.Name, "folder", fill(c.plan.Send.Folder, fields), f.Data
			p.Files = []model.Filed{{Name: f.Name, Bytes: len(f.Data)}}
			parcels = append(parcels, p)
		}
	}
	if c.plan.Send.Webhook != "" {
		p := base
		p.Key, p.Way, p.Target, p.Files = key+"/webhook", "webhook", c.plan.Send.Webhook, filed(files)
		if p.Payload, err = c.call(value, rows, files); err != nil {
			return nil, "", err
		}
		parcels = append(parcels, p)
	}
	return parcels, "", nil
}

// wanted tells whether the condition to send holds, and counts the rows.
func (c *composing) wanted(ctx context.Context, a *Access, changes ask.Changes) (ok bool, rows int, err error) {
	for i, x := range c.results {
		read, err := a.reading.Read(ctx, x, reading.FirstView(x.Definition, c.plan.Views[i]), changes)
		if err != nil {
			return false, 0, err
		}
		s, err := read.Lay(ctx)
		if err != nil {
			return false, 0, err
		}
		rows += s.Rows
		if w := c.plan.Send.When; i == 0 && w != "" && w != "rows" {
			if ok, err = read.Holds(ctx, w); err != nil {
				return false, 0, fmt.Errorf("the condition to send: %w", err)
			}
		}
	}
	switch c.plan.Send.When {
	case "":
		return true, rows, nil
	case "rows":
		return rows > 0, rows, nil
	}
	return ok, rows, nil
}

// files writes what is wanted of each result. TooLarge tells that there is more
// than a message may hold; then the files are left out of it.
func (c *composing) files(ctx context.Context, a *Access, value string,
	changes ask.Changes) (files []deliver.Attachment, tooLarge bool, err error) {
	total := 0
	for i, x := range c.results {
		for _, format := range c.plan.Outputs {
			if format == "kept" {
				continue
			}
			// Parts that lie in one folder have names of their own.
			part := strings.NewReplacer("{", "", "}", "").Replace(c.partName(value))
			take := reading.Take{Format: format, Options: c.plan.Send.Page, Name: "{report} " + part + " {result}"}
			views, err := c.views(x, c.plan.Views[i], changes)
			if err != nil {
				return nil, false, err
			}
			take.Views = views
			file, err := a.reading.TakeAway(ctx, x, take)
			if err != nil {
				return nil, false, err
			}
			var b bytes.Buffer
			if _, err := file.Write(ctx, &b, nil); err != nil {
				return nil, false, err
			}
			name := file.Name
			for n := 2; slices.ContainsFunc(files, func(f deliver.Attachment) bool { return f.Name == name }); n++ {
				name = fmt.Sprintf("%d %s", n, name)
			}
			total += b.Len()
			files = append(files, deliver.Attachment{Name: name, Type: file.Type, Data: b.Bytes()})
		}
	}
	return files, total > c.settings.MailLimit, nil
}

// sentences say of each result what it is of and what was done to its views.
func (c *composing) sentences(ctx context.Context, a *Access, changes ask.Changes) (said []string, err error) {
	for i, x := range c.results {
		views, err := c.views(x, c.plan.Views[i], changes)
		if err != nil {
			return nil, err
		}
		says, err := a.reading.Says(ctx, x, views)
		if err != nil {
			return nil, err
		}
		said = append(said, says)
	}
	return said, nil
}

// partName names the part of the run, and the value of the column within it.
func (c *composing) partName(value string) string {
	return strings.TrimSpace(c.run.PartName + " " + value)
}

// views are what stands in a file: the view that opens first, or the page.
func (c *composing) views(x *reading.Result, first string, changes ask.Changes) (views []reading.Viewed, err error) {
	if first != "" {
		return []reading.Viewed{{View: first, Changes: changes}}, nil
	}
	for _, v := range x.Page() {
		if c.plan.Column == "" || x.Definition.Dataset(v.Of).Column(c.plan.Column) != nil {
			views = append(views, reading.Viewed{View: v.ID, Changes: changes})
		}
	}
	if len(views) == 0 {
		views = []reading.Viewed{{View: reading.FirstView(x.Definition, ""), Changes: changes}}
	}
	return views, nil
}
