package controls

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// TimetableCommand makes the command timetable: show what is due, what ran and what did not.
func TimetableCommand(c *Program) *cobra.Command {
	var most int
	cmd := &cobra.Command{
		Use:   "timetable",
		Short: "Show what is due, what ran and what did not",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			t, err := talk.Fetch[api.Timetable](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.GetTimetable(cmd.Context(), &api.GetTimetableParams{Limit: &most})
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(t)
			}
			return c.tellTimetable(t)
		},
	}
	talk.LimitFlag(cmd, &most, 20, "at most so many past runs")
	cmd.AddCommand(datesCommand(c), feedCommand(c))
	return cmd
}

func (c *Program) tellTimetable(t api.Timetable) error {
	due := talk.Table{Headings: []string{"Due", "Run control", "Owner", "When", "Title"}}
	for _, k := range t.Due {
		when := "paused"
		if k.Paused == nil && k.NextRun != nil {
			when = c.OnDay(*k.NextRun)
		}
		due.Rows = append(due.Rows, []string{when, k.Id, k.Owner, talk.Deref(k.Says), k.Title})
	}
	if _, err := c.Draw(&due); err != nil || c.CSV() {
		return err
	}
	if len(t.Ran) > 0 {
		fmt.Fprintln(c.Out, "\nRan")
		if err := c.tellControlRuns(t.Ran); err != nil {
			return err
		}
	}
	if len(t.Notes) == 0 {
		return nil
	}
	fmt.Fprintln(c.Out, "\nDid not run")
	notes := talk.Table{Headings: []string{"Moment", "Run control", "What", "Why"}}
	for _, n := range t.Notes {
		notes.Rows = append(notes.Rows, []string{c.OnDay(n.Moment), n.Control, string(n.State), n.Reason})
	}
	_, err := c.Draw(&notes)
	return err
}

// datesCommand makes the command dates: say a rule of RFC 5545 in words, with its next ten dates.
func datesCommand(c *Program) *cobra.Command {
	var t api.TimetableOf
	var at, zone, start, until, calendar, off string
	cmd := &cobra.Command{
		Use:     "dates RULE",
		Short:   "Say a rule of RFC 5545 in words, with its next ten dates",
		Example: `  mantilla timetable dates "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1" --at 18:00`,
		Args:    talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			t = api.TimetableOf{
				Rule:     given[0],
				At:       talk.Word[string](at),
				Zone:     talk.Word[string](zone),
				Start:    talk.Word[string](start),
				Until:    talk.Word[string](until),
				Calendar: talk.Word[string](calendar),
				OffDay:   talk.Word[api.TimetableOfOffDay](off),
			}
			next, err := talk.Fetch[api.NextDates](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.NextDates(cmd.Context(), t) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(next)
			}
			fmt.Fprintln(c.Out, strings.ToUpper(next.Says[:1])+next.Says[1:])
			for _, d := range next.Dates {
				fmt.Fprintln(c.Out, "  "+c.OnDay(d))
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

// feedCommand makes the command feed: make a secret address for a calendar program, in the place of an earlier one.
func feedCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "feed",
		Short: "Make a secret address for a calendar program, in the place of an earlier one",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			f, err := talk.Fetch[api.FeedAddress](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.NewFeed(cmd.Context()) })
			if err != nil {
				return err
			}
			address := strings.TrimRight(c.Service, "/") + f.Path
			if c.JSON() {
				return c.PrintJSON(map[string]string{"address": address})
			}
			_, err = fmt.Fprintln(c.Out, address)
			return err
		},
	}
}

// CalendarsCommand makes the command calendars: list the calendars of days off; get, put or delete one.
func CalendarsCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "calendars",
		Short: "List the calendars of days off; get, put or delete one",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			all, err := talk.Fetch[[]api.DaysOff](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListCalendars(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(all)
			}
			t := talk.Table{Headings: []string{"Calendar", "Title", "Days", "Next days off"}, Right: []bool{2: true, 3: false}}
			for _, d := range all {
				t.Rows = append(t.Rows, []string{d.Id, d.Title, fmt.Sprint(d.Of), strings.Join(d.Days[:min(len(d.Days), 4)], ", ")})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.AddCommand(&cobra.Command{
		Use:   "get ID",
		Short: "Write the iCalendar file of a calendar, as it was taken",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			r, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.GetCalendar(cmd.Context(), given[0]) })
			if err != nil {
				return err
			}
			_, err = io.Copy(c.Out, r.Body)
			return errors.Join(err, r.Body.Close())
		},
	}, &cobra.Command{
		Use:   "put ID FILE",
		Short: "Keep a calendar from an iCalendar file: each day of its events is a day off; - reads standard input",
		Args:  talk.Args(cobra.ExactArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			text, err := talk.ReadText(given[1])
			if err != nil {
				return err
			}
			return c.Done(given[0]+" is kept.", func(a *client.Client) (*http.Response, error) {
				return a.PutCalendarWithBody(cmd.Context(), given[0], "text/calendar", bytes.NewReader(text))
			})
		},
	}, &cobra.Command{
		Use:   "delete ID",
		Short: "Delete a calendar that no timetable counts by",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			return c.Done(fmt.Sprintf("%[1]s is deleted; mantilla return calendar/%[1]s brings it back.", given[0]),
				func(a *client.Client) (*http.Response, error) { return a.DeleteCalendar(cmd.Context(), given[0]) })
		},
	})
	return cmd
}
