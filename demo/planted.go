package demo

import (
	"context"
	"embed"
	"fmt"
	"time"

	"mantilla/core/manuscript"
	"mantilla/core/period"
	"mantilla/library"
	"mantilla/library/capture"
	rooms "mantilla/library/catalog"
	"mantilla/model"
)

//go:embed planted
var planted embed.FS

// Plant puts reports into the catalog that its health tells of: one that fails, one that is
// there twice and past its review, one that nobody has run for years, and one that says nothing
// of itself. One that is closed to most is listed for all.
func Plant(ctx context.Context, l *library.Library) error {
	a := l.AsService()
	if _, err := a.Catalog.Report("stock-worth"); err == nil {
		return nil // it was done when the demo first began
	}
	everyone := []model.Opening{{Kind: "everyone"}}
	put := func(text []byte, at time.Time) error {
		d, err := a.Catalog.PutReport(ctx, text, rooms.Put{Was: "*", At: at})
		if err == nil {
			_, err = a.Catalog.Open(ctx, d.ID, everyone)
		}
		return err
	}
	for file, years := range map[string]int{"honey-fair": 3, "site-openings": 0, "stock-worth": 0} {
		text, err := planted.ReadFile("planted/" + file + ".yaml")
		if err == nil {
			err = put(text, l.Settings().Now().AddDate(-years, 0, 0))
		}
		if err != nil {
			return fmt.Errorf("planting %s: %w", file, err)
		}
	}
	lots, err := a.Catalog.Report("intake-lots")
	if err != nil {
		return err
	}
	if err := put([]byte(manuscript.Renamed(lots.Text, "lots-received", "Lots received")), time.Time{}); err != nil {
		return err
	}
	for _, c := range []model.Care{{
		Report:   "lots-received",
		Owner:    "aron",
		Review:   true,
		ReviewOn: firstOfMonth(l),
		Every:    12,
	},
		{Report: "agent-commission", Owner: "lila", Listed: true}} {
		if _, err := a.Care.PutCare(ctx, c); err != nil {
			return err
		}
	}
	for range 3 {
		if _, err := a.Capture.StartRun(ctx, capture.Ask{Report: "stock-worth"}); err != nil {
			return err
		}
	}
	return nil
}

// firstOfMonth is the first day of the present month.
func firstOfMonth(l *library.Library) period.Day {
	now := l.Settings().Now()
	return period.DayOf(time.Date(now.Year(), now.Month(), 1, 0, 0, 0, 0, time.UTC), time.UTC)
}

// LoadAll takes everything of the demo into the library.
func LoadAll(ctx context.Context, l *library.Library) error {
	if err := Load(ctx, l); err != nil {
		return err
	}
	return Plant(ctx, l)
}
