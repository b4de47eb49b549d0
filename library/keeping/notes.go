package keeping

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"mantilla/core/ask"
	"mantilla/core/ready"
	"mantilla/library/access"
	"mantilla/library/reading"
	"mantilla/model"
)

// mostNote is how long a note may be.
const mostNote = 4000

// mentioned finds the accounts that a note speaks to: @runa.
var mentioned = regexp.MustCompile(`(?:^|[^a-z0-9._@-])@([a-z][a-z0-9._-]*[a-z0-9])`)

// NewNote is a note that is to be written: an answer, or on a result; on a row of it where Row is
// not nil, which is of the dataset of About.View, and otherwise on what About says.
type NewNote struct {
	Says    string
	Answers int64
	About   model.NoteAbout
	Row     *int
}

// WriteNote writes a note on a result, or answers one. Who is mentioned in it is told, as far as
// they see the result, and whoever is answered.
func (a *Access) WriteNote(ctx context.Context, result int64, n NewNote) (model.ResultNote, error) {
	out := model.ResultNote{Result: result, Answers: n.Answers, Person: a.Person().Name, At: a.room.org.Now(),
		Says: strings.TrimSpace(n.Says), About: n.About}
	r, err := a.reading.Result(ctx, result)
	if err != nil {
		return out, err
	}
	if out.Says == "" || len(out.Says) > mostNote {
		return out, model.Refuse("says", "a note has 1 to %d characters, not %d", mostNote, len(out.Says))
	}
	told, err := a.mentions(ctx, r, out.Says)
	if err != nil {
		return out, err
	}
	if n.Answers > 0 {
		to, err := a.note(ctx, n.Answers)
		if err != nil || to.Result != result {
			return out, errors.Join(err, model.Refuse("answers", "note %d is on another result", n.Answers))
		}
		out.Answers, out.About, told = max(to.Answers, to.Number), model.NoteAbout{}, append(told, to.Person)
		if to.Answers == 0 {
			out.Answers = to.Number
		}
	} else if out.About, err = a.about(ctx, r, n); err != nil {
		return out, err
	}
	if out.Number, err = a.room.records.AddNote(ctx, out); err != nil {
		return out, fmt.Errorf("keeping the note: %w", err)
	}
	of := ""
	if out.About.Says != "" {
		of = " (" + out.About.Says + ")"
	}
	return out, a.room.notices.Tell(ctx, out.Person, told, place(result), "%s wrote on R-%06d%s: %s", a.Person().Title,
		result, of, out.Says)
}

// mentions are the accounts that a text speaks to; each must see the result.
func (a *Access) mentions(ctx context.Context, r *reading.Result, says string) (names []string, err error) {
	known, err := a.room.people.Accounts(ctx)
	if err != nil {
		return nil, err
	}
	for _, m := range mentioned.FindAllStringSubmatch(says, -1) {
		name := m[1]
		if !known[name] {
			var all []string
			for n, open := range known {
				if open {
					all = append(all, n)
				}
			}
			return nil, model.Refuse("says", "@%s: %w", name, model.NoSuch("account", name, all))
		}
		who, err := a.room.people.AsPerson(ctx, name)
		if err != nil {
			return nil, err
		}
		if _, err := a.room.reading.As(who).Result(ctx, r.Number); err != nil {
			return nil, model.Refuse("says", "@%s does not see R-%06d, and so cannot be told of a note on it", name, r.Number)
		}
		names = append(names, name)
	}
	return names, nil
}

// about checks what a note is about. A row is known by its key, where the dataset has one.
func (a *Access) about(ctx context.Context, r *reading.Result, n NewNote) (about model.NoteAbout, err error) {
	about = n.About
	if about.View == "" {
		return model.NoteAbout{}, nil
	}
	read, err := a.reading.Read(ctx, r, about.View, ask.Changes{Filters: about.Filters})
	if err != nil {
		return about, err
	}
	if n.Row != nil {
		if about, err = rowOf(ctx, read, *n.Row); err != nil {
			return about, err
		}
		if read, err = a.reading.Read(ctx, r, about.View, ask.Changes{Filters: about.Filters}); err != nil {
			return about, err
		}
	}
	if _, err := read.Lay(ctx); err != nil { // the filters are right
		return about, err
	}
	if about.Says == "" || len(about.Says) > 400 {
		return about, model.Refuse("about", "say in up to 400 characters what the note is about")
	}
	return about, nil
}

// rowOf is what a note on a row is about: the filters that select it by its key, or without a
// key its number.
func rowOf(ctx context.Context, read *reading.Reading, row int) (about model.NoteAbout, err error) {
	columns, line, err := read.Row(ctx, row)
	if err != nil {
		return about, err
	}
	about.View = read.Dataset.ID + ".rows"
	var said []string
	for i, c := range columns {
		if slices.Contains(read.Dataset.Key, c.ID) {
			about.Filters = append(about.Filters, ready.FilterOf(ready.Level{Text: c.ID}, line.Cells[i]))
			said = append(said, c.Label+" "+line.Cells[i].String())
		}
	}
	about.Says = strings.Join(said, ", ")
	if len(said) == 0 {
		about.Says = fmt.Sprintf("row %d of %s", row+1, read.Dataset.ID)
	}
	return about, nil
}

// Notes are those on a result, each after what it answers.
func (a *Access) Notes(ctx context.Context, result int64) ([]model.ResultNote, error) {
	if _, err := a.reading.Result(ctx, result); err != nil {
		return nil, err
	}
	notes, err := a.room.records.Notes(ctx, result)
	thread := func(n model.ResultNote) int64 {
		if n.Answers > 0 {
			return n.Answers
		}
		return n.Number
	}
	slices.SortStableFunc(notes, func(x, y model.ResultNote) int { return int(thread(x) - thread(y)) })
	return notes, err
}

func (a *Access) note(ctx context.Context, number int64) (model.ResultNote, error) {
	n, err := a.room.records.Note(ctx, number)
	if err == nil {
		_, err = a.reading.Result(ctx, n.Result)
	}
	if errors.Is(err, model.ErrNotFound) {
		err = model.NoSuch("note", fmt.Sprint(number), nil)
	}
	return n, err
}

// SettleNote says that a note with its answers is settled, or opens it again. Who wrote it may,
// whoever asked for the result, and librarians.
func (a *Access) SettleNote(ctx context.Context, number int64, settled bool) (model.ResultNote, error) {
	n, err := a.note(ctx, number)
	if err != nil {
		return n, err
	}
	if n.Answers > 0 {
		return n, model.Refuse("note", "note %d is an answer; settle note %d, which it answers", number, n.Answers)
	}
	r, err := a.reading.Result(ctx, n.Result)
	if err != nil {
		return n, err
	}
	name := a.Person().Name
	if n.Person != name && r.Manifest.AskedBy != name && !a.Has(access.KeepCatalog) {
		return n, model.Forbid("who wrote note %d settles it, who asked for the result, or a librarian", number)
	}
	by := ""
	if settled {
		by = name
	}
	if err := a.room.records.SettleNote(ctx, number, by, a.room.org.Now()); err != nil {
		return n, err
	}
	return a.note(ctx, number)
}

// written are the open notes on a result, in sentences.
func (room *Room) written(ctx context.Context, result int64, zone *time.Location) (said []string, err error) {
	notes, err := room.records.Notes(ctx, result)
	if err != nil {
		return nil, err
	}
	settled := map[int64]bool{}
	for _, n := range notes {
		settled[n.Number] = !n.SettledAt.IsZero()
		if settled[n.Number] || settled[n.Answers] {
			continue
		}
		word, of := "wrote", ""
		if n.Answers > 0 {
			word = "answered"
		}
		if n.About.Says != "" {
			of = " of " + n.About.Says
		}
		said = append(said, fmt.Sprintf("%s %s on %s%s: %s", n.Person, word, n.At.In(zone).Format("2 January 2006, 15:04"),
			of, n.Says))
	}
	return said, nil
}
