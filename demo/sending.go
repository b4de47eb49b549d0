package demo

import (
	"context"
	"errors"
	"strings"

	"mantilla/core/timetable"
	"mantilla/library"
	"mantilla/library/controls"
	"mantilla/library/sending"
	"mantilla/model"
)

// MonthEnd is the run control that sends each district its month.
const MonthEnd = "districts-month"

// addresses is the address book: an office for each district, and some people
// of the cooperative's own.
func addresses() (all []model.Address) {
	for _, r := range regions {
		for _, name := range r.districts {
			plain := strings.NewReplacer("ó", "o", " ", "-").Replace(strings.ToLower(name))
			code := r.code + "-" + strings.ToUpper(strings.NewReplacer("ó", "o", " ", "").Replace(name))[:3]
			all = append(all,
				model.Address{
					Nickname: plain,
					Name:     name + " office",
					Mail:     plain + "@brackenfell.example",
					Units:    []string{code},
					Groups:   []string{"districts"},
				})
		}
	}
	return append(all,
		model.Address{
			Nickname: "dora",
			Name:     "Dora Hollinfen",
			Mail:     "dora@brackenfell.example",
			Person:   "dora",
			Units:    []string{"UF-HOL"},
		},
		model.Address{
			Nickname: "runa",
			Name:     "Runa Askwith",
			Mail:     "runa@brackenfell.example",
			Person:   "runa",
			Groups:   []string{"management"},
		},
		model.Address{
			Nickname: "adda",
			Name:     "Adda Marrowell",
			Mail:     "adda@brackenfell.example",
			Person:   "adda",
			Groups:   []string{"management"},
		})
}

// loadSending makes the address book, the days off and the month-end set that
// are not there yet.
func loadSending(ctx context.Context, l *library.Library) error {
	days, err := catalog.ReadFile("catalog/calendars/holidays.ics")
	if err == nil {
		_, err = l.AsService().Controls.PutCalendar(ctx, "holidays", days)
	}
	if err != nil {
		return err
	}
	runa, err := l.AsPerson(ctx, "runa")
	if err != nil {
		return err
	}
	lila, err := l.AsPerson(ctx, "lila")
	if err != nil {
		return err
	}
	for _, e := range addresses() {
		if _, err := lila.Sending.PutAddress(ctx, e); err != nil && !errors.Is(err, model.ErrTaken) {
			return err
		}
	}
	_, err = runa.Controls.PutControl(ctx,
		controls.Control{Control: model.Control{ID: MonthEnd, Title: "Month of the districts", Shared: "everyone"},
			Outputs: []string{"kept", "pdf", "xlsx"}, Empty: "note",
			Steps: []controls.Step{{Report: "intake-by-origin", Typed: map[string]string{"received": "this month"}},
				{Report: "payout-detail", Typed: map[string]string{"settled": "this month"}}},
			Send: &sending.Send{Subject: "{part}: the month to {date}"}, Split: &sending.Split{Units: "district"},
			Timetable: &timetable.Timetable{
				Rule:     "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1",
				Start:    Today,
				At:       18 * 60,
				Calendar: "holidays",
				Missed:   "once",
			}})
	if errors.Is(err, model.ErrTaken) {
		return nil
	}
	return err
}
