// Package standing has the command that tells what the service takes.
package standing

import (
	"fmt"
	"net/http"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }

// Command makes the command space: what takes space, by a way.
func Command(c *Program) *cobra.Command {
	by := "report"
	cmd := &cobra.Command{
		Use:   "space",
		Short: "Tell what takes space: the records, and the results by report, person or age",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			x, err := talk.Fetch[api.Space](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.GetSpace(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(x)
			}
			ways := map[string][]api.Taken{"report": x.Reports, "person": x.People, "age": x.Ages}
			rows, ok := ways[by]
			if !ok {
				return talk.Usage("--by: %q is not report, person or age", by)
			}
			t := talk.Table{Headings: []string{"Of", "Results", "Rows", "Bytes", "For ever"},
				Right: []bool{false, true, true, true, true}}
			for _, r := range rows {
				t.Rows = append(t.Rows, []string{r.Name, fmt.Sprint(r.Results), fmt.Sprint(r.Rows), fmt.Sprint(r.Bytes),
					fmt.Sprint(r.ForEver)})
			}
			if _, err := c.Draw(&t); err != nil {
				return err
			}
			fmt.Fprintf(c.Say(), "The records take %s, of which %s are free; the disk has %s left of %s.\n", size(x.File),
				size(x.Free), size(x.DiskFree), size(x.Disk))
			return nil
		},
	}
	cmd.AddCommand(rulesCommand(c), keepCommand(c), quotaCommand(c))
	cmd.Flags().StringVar(&by, "by", by, "report, person or age")
	talk.Must(cmd.RegisterFlagCompletionFunc("by", talk.Fixed("report", "person", "age")))
	return cmd
}

func size(bytes int64) string {
	switch {
	case bytes < 1e6:
		return fmt.Sprintf("%.1f kB", float64(bytes)/1e3)
	case bytes < 1e9:
		return fmt.Sprintf("%.1f MB", float64(bytes)/1e6)
	}
	return fmt.Sprintf("%.1f GB", float64(bytes)/1e9)
}
