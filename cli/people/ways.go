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
	var opens, density, scheme, week string
	cmd := &cobra.Command{
		Use:   "ways",
		Short: "Show or set how you like the console: where it opens, how lines stand, light or dark, the week's first day",
		Long: `Show or set how you like the console. What is not named stays as it is; an empty text is as
everybody has it.`,
		Example: "  mantilla ways --opens results --density close\n  mantilla ways --scheme dark --week sunday",
		Args:    talk.Args(cobra.NoArgs),
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
				"week": {&week, &set.Week}} {
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
			}{{"opens", who.Ways.Opens}, {"density", who.Ways.Density}, {"scheme", who.Ways.Scheme}, {"week", who.Ways.Week}} {
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
	return cmd
}
