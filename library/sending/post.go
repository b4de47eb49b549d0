package sending

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"net/mail"
	"slices"
	"strings"
	"time"

	"mantilla/core/ask"
	"mantilla/deliver"
	"mantilla/library/access"
	"mantilla/library/acting"
	"mantilla/library/background"
	"mantilla/library/reading"
	"mantilla/model"
	"mantilla/tracing"
)

// waits are how long the queue waits after each attempt before the next; after
// the last a parcel has failed.
var waits = []time.Duration{time.Minute, 5 * time.Minute, 15 * time.Minute, time.Hour, 3 * time.Hour, 6 * time.Hour,
	12 * time.Hour}

// ways are the ways of sending, each with a queue of its own, so that one whose
// other end does not answer holds up no other; calls of web addresses, which may
// all go to different ends, are made by several at once.
var ways = []string{"mail", "folder", "webhook", "webhook", "webhook", "webhook"}

// waitAfter is how long a parcel waits after so many tries.
func waitAfter(tries int) time.Duration { return waits[min(max(tries, 1), len(waits))-1] }

// post carries out what waits in the queue of a way, one after the other.
func (room *Room) post(way string, wake background.Bell) {
	failures := 0
	for room.work.Context().Err() == nil {
		p, err := room.records.NextParcel(room.work.Context(), way, room.org.Now(), waitAfter)
		if err == nil {
			err = room.attempt(p)
		}
		wait := time.Duration(0)
		switch {
		case err == nil:
			failures = 0
			continue
		case errors.Is(err, model.ErrNotFound):
			failures = 0
			wait = room.untilPost(way)
		default:
			failures++
			wait = background.PauseAfter(failures)
			if room.work.Context().Err() == nil {
				room.log.Error("sending", "way", way, "error", err, "failures", failures)
			}
		}
		if !room.work.Sleep(wait, wake) {
			return
		}
	}
}

// untilPost is how long nothing is to be sent; the queue is looked at now and
// then all the same.
func (room *Room) untilPost(way string) time.Duration {
	next, err := room.records.NextSending(room.work.Context(), way)
	if err != nil || next.IsZero() {
		return 30 * time.Second
	}
	return min(max(next.Sub(room.org.Now()), 100*time.Millisecond), 30*time.Second)
}

func (room *Room) wakeMail() {
	for _, wake := range room.toPost {
		wake.Ring()
	}
}

// attempt tries to send one parcel, whose try is recorded, and records what
// became of it.
func (room *Room) attempt(p model.Parcel) error {
	final := false
	_, span := tracing.Begin(room.work.Context(), "parcel", "mantilla.parcel", p.Number, "mantilla.way", p.Way)
	err := room.work.Guard(func() (err error) {
		switch p.Way {
		case "mail":
			final, err = room.mailTo(room.work.Context(), &p)
		case "folder":
			err = deliver.Put(room.settings.Folder, p.Target, p.Files[0].Name, p.Payload)
		case "webhook":
			final, err = room.settings.Calls.Call(room.work.Context(), p.Target, room.settings.WebhookSecret, p.Key, p.Payload)
		}
		return err
	})
	span.End(err)
	p.State, p.Reason = model.Sent, ""
	if err != nil {
		p.State, p.Reason = model.Waiting, err.Error()
		switch {
		case room.work.Context().Err() != nil: // the service ends: it is tried again at the next start
			p.NextAt = room.org.Now()
		case final || p.Tries > len(waits):
			p.State = model.Failed
		default:
			p.NextAt = room.org.Now().Add(waitAfter(p.Tries))
		}
	}
	if p.State == model.Sent {
		room.work.Note(noteOf(p))
	}
	room.log.Info("parcel", "parcel", p.Number, "way", p.Way, "state", p.State, "tries", p.Tries, "reason", p.Reason)
	return room.work.Record("a parcel",
		func(ctx context.Context) error { return room.records.SettleParcel(ctx, p, room.org.Now()) })
}

// noteOf is what the audit has of a parcel that was sent.
func noteOf(p model.Parcel) acting.Done {
	d := acting.Done{Person: p.Owner, Act: "sendParcel", Kind: "parcel", ID: fmt.Sprintf("P-%06d", p.Number)}
	if p.Result != 0 {
		d.Kind, d.ID, d.Part = "result", fmt.Sprintf("R-%06d", p.Result), "parcel "+d.ID
	}
	d.Why = p.Way + " to " + p.Target
	if p.Way == "mail" {
		var to []string
		for _, r := range p.Recipients {
			if r.State == model.Sent {
				to = append(to, r.Address)
			}
		}
		d.Why = "mail to " + strings.Join(to, ", ")
	}
	return d
}

// mailTo hands a message to the server for those who do not have it yet.
func (room *Room) mailTo(ctx context.Context, p *model.Parcel) (final bool, err error) {
	var to []string
	for _, r := range p.Recipients {
		if r.State == model.Waiting {
			to = append(to, r.Address)
		}
	}
	var outcomes []deliver.Outcome
	if len(to) > 0 {
		if outcomes, err = deliver.Send(ctx, room.settings.Mail, to, p.Payload); err != nil {
			return errors.Is(err, deliver.ErrNoServer), err
		}
	}
	var waiting, refusals []string
	for i, r := range p.Recipients {
		at := slices.IndexFunc(outcomes, func(o deliver.Outcome) bool { return o.Address == r.Address })
		if at < 0 {
			if r.State == model.Turned { // earlier
				refusals = append(refusals, r.Address)
			}
			continue
		}
		o := outcomes[at]
		p.Recipients[i].Answer = o.Answer
		switch {
		case o.Sent:
			p.Recipients[i].State = model.Sent
		case o.Final || p.Tries > len(waits):
			p.Recipients[i].State = model.Turned
			refusals = append(refusals, r.Address)
		default:
			waiting = append(waiting, r.Address)
		}
	}
	switch {
	case len(waiting) > 0:
		return false, fmt.Errorf("the mail server does not take it yet for %v", waiting)
	case len(refusals) > 0:
		return true, fmt.Errorf("the mail server refuses %v", refusals)
	}
	return false, nil
}

// Parcels lists what is on its way and what went, the newest first: of the
// person, or of everybody for librarians.
func (a *Access) Parcels(ctx context.Context, state model.State, before int64, limit int) ([]model.Parcel, error) {
	if err := a.May(access.Run); err != nil {
		return nil, err
	}
	owner := a.Person().Name
	if a.Has(access.KeepCatalog) {
		owner = ""
	}
	return a.room.records.Parcels(ctx, owner, state, before, limit)
}

// Parcel returns one parcel.
func (a *Access) Parcel(ctx context.Context, number int64) (model.Parcel, error) {
	if err := a.May(access.Run); err != nil {
		return model.Parcel{}, err
	}
	p, err := a.room.records.Parcel(ctx, number)
	if err == nil && p.Owner != a.Person().Name && !a.Has(access.KeepCatalog) {
		err = model.ErrNotFound
	}
	if err != nil {
		return p, fmt.Errorf("parcel P-%06d: %w", number, err)
	}
	return p, nil
}

// MendParcel tries a parcel again now, and may write to another address in the
// place of one that was wrong.
func (a *Access) MendParcel(ctx context.Context, number int64, instead map[string]string) (model.Parcel, error) {
	p, err := a.Parcel(ctx, number)
	if err != nil {
		return p, err
	}
	if p.State == model.Sent {
		return p, model.Refuse("parcel", "P-%06d was sent", number)
	}
	for from, to := range instead {
		if !slices.ContainsFunc(p.Recipients, func(r model.Recipient) bool { return r.Address == from }) {
			return p, model.Refuse("instead", "P-%06d is not written to %s", number, from)
		}
		if parsed, err := mail.ParseAddress(to); err != nil || parsed.Address != to {
			return p, model.Refuse("instead", "%q is not a mail address such as ada@example.org", to)
		}
		if err := a.room.mailable(to); err != nil {
			return p, model.Refuse("instead", "%w", err)
		}
	}
	if err := a.room.records.MendParcel(ctx, number, instead, a.room.org.Now()); err != nil {
		return p, err
	}
	a.room.wakeMail()
	return a.Parcel(ctx, number)
}

// StopParcel takes a parcel out of the queue.
func (a *Access) StopParcel(ctx context.Context, number int64) (model.Parcel, error) {
	p, err := a.Parcel(ctx, number)
	if err != nil {
		return p, err
	}
	if err := a.room.records.StopParcel(ctx, number, a.room.org.Now()); err != nil {
		return p, model.Refuse("parcel", "P-%06d is %s; only what waits or failed can be stopped", number, p.State)
	}
	return a.Parcel(ctx, number)
}

// SendNow sends files of one result.
func (a *Access) SendNow(ctx context.Context, r *reading.Result, takes []reading.Take, s Send) (model.Parcel, error) {
	if err := a.May(access.Run); err != nil {
		return model.Parcel{}, err
	}
	book, err := a.room.records.Addresses(ctx)
	if err != nil {
		return model.Parcel{}, err
	}
	c := composing{
		Room:    a.room,
		results: []*reading.Result{r},
		plan:    plan{Title: r.Title, Send: s, Views: []string{""}},
		run:     model.ControlRun{AskedAt: a.room.org.Now()},
	}
	var lines []line
	for _, l := range []struct {
		line, part string
		written    []string
	}{{"to", "to", s.To}, {"cc", "copy", s.Copy}, {"bcc", "blind", s.Blind}} {
		people, err := a.room.addressed(book, l.written)
		if err != nil {
			return model.Parcel{}, model.Refuse(l.part, "%w", err)
		}
		for _, p := range people {
			if why, err := a.mayGet(ctx, p, r); err != nil || why != "" {
				return model.Parcel{}, errors.Join(err, model.Refuse(l.part, "%s", why))
			}
			lines = append(lines, line{Address: p, Line: l.line})
		}
	}
	if len(takes) > 0 || s.InBody {
		if err := a.room.mayGoOut(a.Access, s, lines); err != nil {
			return model.Parcel{}, err
		}
	}
	if len(lines) == 0 {
		return model.Parcel{}, model.Refuse("to", "nobody is written to; name a mail address, or who is in the address book")
	}
	files, total := []deliver.Attachment{}, 0
	said := map[string]bool{}
	for _, take := range takes {
		file, data, err := a.written(ctx, r, take)
		if err != nil {
			return model.Parcel{}, err
		}
		said[file.Says()] = true
		total += len(data)
		files = append(files, deliver.Attachment{Name: file.Name, Type: file.Type, Data: data})
	}
	if len(said) > 0 {
		c.said = []string{strings.Join(slices.Sorted(maps.Keys(said)), "\n")}
	}
	var first reading.Viewed
	if len(takes) > 0 && len(takes[0].Views) > 0 {
		first = takes[0].Views[0]
	}
	fields := c.fields("", int(r.Rows), first)
	id := model.NewSecret()[:16]
	base := model.Parcel{
		Key:    "now/" + id,
		Owner:  a.Person().Name,
		Result: r.Number,
		MadeAt: a.room.org.Now(),
		Title:  fill(cmp.Or(s.Subject, "{report}"), fields),
	}
	p, err := c.mail(ctx, a, base, lines, files, total > a.room.settings.MailLimit, fields, ask.Changes{})
	if err != nil {
		return p, err
	}
	one := []model.Parcel{p}
	if err := a.room.records.AddParcels(ctx, one); err != nil {
		return p, err
	}
	a.room.wakeMail()
	return a.room.records.Parcel(ctx, one[0].Number)
}

// written writes a file into memory, to be sent.
func (a *Access) written(ctx context.Context, r *reading.Result, take reading.Take) (*reading.File, []byte, error) {
	file, err := a.reading.TakeAway(ctx, r, take)
	if err != nil {
		return nil, nil, err
	}
	var b bytes.Buffer
	_, err = file.Write(ctx, &b, nil)
	return file, b.Bytes(), err
}

// mayGet says why a recipient may not get a result; "" where nothing speaks
// against it.
func (a *Access) mayGet(ctx context.Context, e model.Address, r *reading.Result) (why string, err error) {
	reader := model.Person{Name: e.Nickname, Role: model.Administrator, Units: e.Units}
	if e.Person != "" {
		if reader, err = a.room.people.Person(ctx, e.Person); err != nil {
			return "", err
		}
		if reader.Owner != "" {
			return fmt.Sprintf("%s is a service account, which reads no mail", e.Name), nil
		}
		if !a.room.people.As(reader).Opens(r.Report) {
			return fmt.Sprintf("%s may not open the report %s", e.Name, r.Report), nil
		}
	}
	if len(reader.Units) == 0 {
		return "", nil
	}
	seen, err := a.room.people.As(reader).Sees(ctx, r.Report, r.Manifest.Reach)
	if err == nil && !seen {
		why = fmt.Sprintf("%s sees only %v, and the result holds more; run it for these units, or split a run control",
			e.Name, reader.Units)
	}
	return why, err
}
