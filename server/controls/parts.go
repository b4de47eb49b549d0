package controls

import (
	results "mantilla/server/reading"

	"mantilla/server/answer"

	"fmt"

	"mantilla/api"
	"mantilla/core/period"
	"mantilla/core/timetable"
	"mantilla/library/sending"
	"mantilla/render"
)

func sendIn(b *api.Send) *sending.Send {
	if b == nil {
		return nil
	}
	return &sending.Send{To: answer.Value(b.To), Copy: answer.Value(b.Copy), Blind: answer.Value(b.Blind),
		Subject: answer.Value(b.Subject),
		Text:    answer.Value(b.Text), InBody: answer.Value(b.InBody),
		Folder: answer.Value(b.Folder), Webhook: answer.Value(b.Webhook), When: answer.Value(b.When),
		Page: render.Options{Page: results.PageForm(b.Page), Table: results.TableForm(b.Table)}}
}

func sendOut(s *sending.Send) *api.Send {
	if s == nil {
		return nil
	}
	lines := func(of []string) *[]string {
		if len(of) == 0 {
			return nil
		}
		return &of
	}
	out := &api.Send{To: lines(s.To), Copy: lines(s.Copy), Blind: lines(s.Blind), Subject: answer.Given(s.Subject),
		Text: answer.Given(s.Text), InBody: answer.Truth(s.InBody),
		Folder: answer.Given(s.Folder), Webhook: answer.Given(s.Webhook), When: answer.Given(s.When)}
	p, t := s.Page.Page, s.Page.Table
	margin, lead := float32(p.Margin), p.Lead
	out.Page = &api.PageForm{
		Size:        word[api.PageFormSize](p.Size),
		Orientation: word[api.PageFormOrientation](p.Orientation),
		Fit:         word[api.PageFormFit](p.Fit),
		Cover:       answer.Truth(p.Cover),
		Margin:      &margin,
		Lead:        &lead,
	}
	out.Table = &api.TableForm{
		Separator: word[api.TableFormSeparator](t.Separator),
		Decimal:   word[api.TableFormDecimal](t.Decimal),
		Headings:  word[api.TableFormHeadings](t.Headings),
		Mark:      answer.Truth(t.Mark),
		Raw:       answer.Truth(t.Raw),
	}
	return out
}

// word is left out where it is empty.
func word[T ~string](text string) *T {
	if text == "" {
		return nil
	}
	w := T(text)
	return &w
}

func splitIn(b *api.Split) *sending.Split {
	if b == nil {
		return nil
	}
	return &sending.Split{Units: answer.Value(b.Units), Column: answer.Value(b.Column), People: answer.Value(b.People)}
}

func splitOut(s *sending.Split) *api.Split {
	if s == nil {
		return nil
	}
	out := &api.Split{Units: answer.Given(s.Units), Column: answer.Given(s.Column)}
	if len(s.People) > 0 {
		out.People = &s.People
	}
	return out
}

func timetableIn(b api.TimetableOf) (t timetable.Timetable, err error) {
	t = timetable.Timetable{
		Rule:     b.Rule,
		Zone:     answer.Value(b.Zone),
		Calendar: answer.Value(b.Calendar),
		OffDay:   string(answer.Value(b.OffDay)),
		Missed:   string(answer.Value(b.Missed)),
	}
	if at := answer.Value(b.At); at != "" {
		var hour, minute int
		if _, err := fmt.Sscanf(at, "%d:%d", &hour, &minute); err != nil || hour < 0 || hour > 23 || minute < 0 ||
			minute > 59 {
			return t, &answer.BadRequest{Field: "timetable.at", Err: fmt.Errorf("%q is not a time of day such as 18:00", at)}
		}
		t.At = hour*60 + minute
	}
	day := func(part, text string) (d period.Day) {
		if text == "" || err != nil {
			return 0
		}
		if d, err = period.ParseDay(text); err != nil {
			err = &answer.BadRequest{Field: "timetable." + part, Err: err}
		}
		return d
	}
	t.Start, t.Until = day("start", answer.Value(b.Start)), day("until", answer.Value(b.Until))
	for _, text := range answer.Value(b.Except) {
		t.Except = append(t.Except, day("except", text))
	}
	return t, err
}

func timetableOut(t *timetable.Timetable) api.TimetableOf {
	at, start := fmt.Sprintf("%02d:%02d", t.At/60, t.At%60), t.Start.String()
	out := api.TimetableOf{
		Rule:     t.Rule,
		At:       &at,
		Zone:     &t.Zone,
		Start:    &start,
		Calendar: answer.Given(t.Calendar),
		OffDay:   word[api.TimetableOfOffDay](t.OffDay),
		Missed:   word[api.TimetableOfMissed](t.Missed),
	}
	if t.Until > 0 {
		until := t.Until.String()
		out.Until = &until
	}
	if len(t.Except) > 0 {
		var days []string
		for _, d := range t.Except {
			days = append(days, d.String())
		}
		out.Except = &days
	}
	return out
}
