package cli

import (
	"bytes"
	"fmt"
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
)

func timetableCommand(c *program) *cobra.Command {
	var most int
	cmd := &cobra.Command{
		Use:   "timetable",
		Short: "Show what is due, what ran and what did not",
		Args:  args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			t, err := fetch[api.Timetable](c, func(a *client.Client) (*http.Response, error) {
				return a.GetTimetable(cmd.Context(), &api.GetTimetableParams{Limit: &most})
			})
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(t)
			}
			return c.tellTimetable(t)
		},
	}
	limitFlag(cmd, &most, 20, "at most so many past runs")
	cmd.AddCommand(datesCommand(c), feedCommand(c))
	return cmd
}

func (c *program) tellTimetable(t api.Timetable) error {
	due := table{headings: []string{"Due", "Run control", "Owner", "When", "Title"}}
	for _, k := range t.Due {
		when := "paused"
		if k.Paused == nil && k.NextRun != nil {
			when = c.onDay(*k.NextRun)
		}
		due.rows = append(due.rows, []string{when, k.Id, k.Owner, deref(k.Says), k.Title})
	}
	if _, err := c.draw(&due); err != nil {
		return err
	}
	if len(t.Ran) > 0 {
		fmt.Fprintln(c.out, "\nRan")
		if err := c.tellControlRuns(t.Ran); err != nil {
			return err
		}
	}
	if len(t.Notes) == 0 {
		return nil
	}
	fmt.Fprintln(c.out, "\nDid not run")
	notes := table{headings: []string{"Moment", "Run control", "What", "Why"}}
	for _, n := range t.Notes {
		notes.rows = append(notes.rows, []string{c.onDay(n.Moment), n.Control, string(n.State), n.Reason})
	}
	_, err := c.draw(&notes)
	return err
}

func datesCommand(c *program) *cobra.Command {
	var t api.TimetableOf
	var at, zone, start, until, calendar, off string
	cmd := &cobra.Command{
		Use:     "dates RULE",
		Short:   "Say a rule of RFC 5545 in words, with its next ten dates",
		Example: `  mantilla timetable dates "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1" --at 18:00`,
		Args:    args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			t = api.TimetableOf{
				Rule:     given[0],
				At:       word[string](at),
				Zone:     word[string](zone),
				Start:    word[string](start),
				Until:    word[string](until),
				Calendar: word[string](calendar),
				OffDay:   word[api.TimetableOfOffDay](off),
			}
			next, err := fetch[api.NextDates](c,
				func(a *client.Client) (*http.Response, error) { return a.NextDates(cmd.Context(), t) })
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(next)
			}
			fmt.Fprintln(c.out, strings.ToUpper(next.Says[:1])+next.Says[1:])
			for _, d := range next.Dates {
				fmt.Fprintln(c.out, d.Format("  Mon 2 Jan 2006 15:04 -07:00"))
			}
			return nil
		},
	}
	f := cmd.Flags()
	f.StringVar(&at, "at", "", "time of day, such as 18:00")
	f.StringVar(&zone, "zone", "", "IANA time zone")
	f.StringVar(&start, "start", "", "first day")
	f.StringVar(&until, "until", "", "last day")
	f.StringVar(&calendar, "calendar", "", "calendar whose days off count")
	f.StringVar(&off, "off-day", "", "what becomes of a day off: run, skip, next or previous")
	return cmd
}

func feedCommand(c *program) *cobra.Command {
	return &cobra.Command{
		Use:   "feed",
		Short: "Make a secret address for a calendar program, in the place of an earlier one",
		Args:  args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			f, err := fetch[api.FeedAddress](c,
				func(a *client.Client) (*http.Response, error) { return a.NewFeed(cmd.Context()) })
			if err != nil {
				return err
			}
			_, err = fmt.Fprintln(c.out, strings.TrimRight(c.service, "/")+f.Path)
			return err
		},
	}
}

func calendarsCommand(c *program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "calendars",
		Short: "List the calendars of days off; put or delete one",
		Args:  args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			all, err := fetch[[]api.DaysOff](c,
				func(a *client.Client) (*http.Response, error) { return a.ListCalendars(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(all)
			}
			t := table{headings: []string{"Calendar", "Title", "Days", "Next days off"}, right: []bool{2: true, 3: false}}
			for _, d := range all {
				t.rows = append(t.rows, []string{d.Id, d.Title, fmt.Sprint(d.Of), strings.Join(d.Days[:min(len(d.Days), 4)], ", ")})
			}
			_, err = c.draw(&t)
			return err
		},
	}
	cmd.AddCommand(&cobra.Command{
		Use:   "put ID FILE",
		Short: "Keep a calendar from an iCalendar file: each day of its events is a day off; - reads standard input",
		Args:  args(cobra.ExactArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			text, err := readText(given[1])
			if err != nil {
				return err
			}
			return c.done(given[0]+" is kept.", func(a *client.Client) (*http.Response, error) {
				return a.PutCalendarWithBody(cmd.Context(), given[0], "text/calendar", bytes.NewReader(text))
			})
		},
	}, &cobra.Command{
		Use:   "delete ID",
		Short: "Delete a calendar that no timetable counts by",
		Args:  args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			return c.done(given[0]+" is deleted.",
				func(a *client.Client) (*http.Response, error) { return a.DeleteCalendar(cmd.Context(), given[0]) })
		},
	})
	return cmd
}
