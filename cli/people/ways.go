package people

import (
	"net/http"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// WaysCommand makes the command ways: show or set how one likes the console.
func WaysCommand(c *Program) *cobra.Command {
	var opens, density, scheme, week, numbers, days string
	cmd := &cobra.Command{
		Use:   "ways",
		Short: "Show or set how you like the console: where it opens, how lines stand, light or dark, numbers, days",
		Long: `Show or set how you like the console. What is not named stays as it is; an empty text is as
everybody has it.`,
		Example: "  mantilla ways --opens results --density close\n  mantilla ways --scheme dark --week sunday\n  mantilla " +
			"ways --numbers dot --days dots",
		Args: talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			who, err := talk.Fetch[api.Who](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.GetSession(cmd.Context()) })
			if err != nil {
				return err
			}
			set, changed := who.Ways, false
			for name, to := range map[string]struct {
				typed *string
				way   **string
			}{"opens": {&opens, &set.Opens}, "density": {&density, &set.Density}, "scheme": {&scheme, &set.Scheme},
				"week": {&week, &set.Week}, "numbers": {&numbers, &set.Numbers}, "days": {&days, &set.Days}} {
				if cmd.Flags().Changed(name) {
					*to.way, changed = to.typed, true
				}
			}
			if changed {
				if who, err = talk.Fetch[api.Who](c.Program,
					func(a *client.Client) (*http.Response, error) { return a.SetWays(cmd.Context(), set) }); err != nil {
					return err
				}
			}
			if c.JSON() {
				return c.PrintJSON(who.Ways)
			}
			t := talk.Table{Headings: []string{"Way", "Yours"}}
			for _, w := range []struct {
				name  string
				yours *string
			}{{"opens", who.Ways.Opens}, {"density", who.Ways.Density}, {"scheme", who.Ways.Scheme}, {"week", who.Ways.Week},
				{"numbers", who.Ways.Numbers}, {"days", who.Ways.Days}} {
				text := "as everybody has it"
				if w.yours != nil {
					text = *w.yours
				}
				t.Rows = append(t.Rows, []string{w.name, text})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	f := cmd.Flags()
	f.StringVar(&opens, "opens", "", "desk, catalog, controls, runs or results")
	f.StringVar(&density, "density", "", "roomy or close")
	f.StringVar(&scheme, "scheme", "", "light or dark")
	f.StringVar(&week, "week", "", "its first day: monday, sunday or saturday")
	f.StringVar(&numbers, "numbers", "",
		"how they are written: comma 1,234.5, dot 1.234,5, space 1 234,5 or apostrophe 1’234.5")
	f.StringVar(&days, "days", "", "how they are written: words 30 Sep 2026, dots 30.09.2026, slashes 30/09/2026,\n"+
		"month-first 09/30/2026 or iso 2026-09-30")
	return cmd
}
