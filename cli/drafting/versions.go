package drafting

import (
	"bytes"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// VersionCommands make the commands below definition that are about versions, and about
// what depends on a report.
func VersionCommands(c *Program) []*cobra.Command {
	return []*cobra.Command{c.versions(), c.compare(), c.restore(), c.dependents(), c.effects(), c.retire()}
}

func (c *Program) versions() *cobra.Command {
	return &cobra.Command{
		Use:   "versions REPORT [NUMBER]",
		Short: "List the versions that a report had, or print one as it was written",
		Args:  talk.Args(cobra.RangeArgs(1, 2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			if len(given) == 2 {
				n, err := versionNumber(given[1])
				if err != nil {
					return err
				}
				r, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.GetVersion(cmd.Context(), given[0], n) })
				if err != nil {
					return err
				}
				defer r.Body.Close()
				_, err = io.Copy(c.Out, r.Body)
				return err
			}
			list, err := talk.Fetch[[]api.Version](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListVersions(cmd.Context(), given[0]) })
			if err != nil || c.JSON() {
				return printed(c, list, err)
			}
			t := talk.Table{Headings: []string{"No.", "Taken in", "By", "Version", "Note"},
				Right: []bool{true, false, false, false, false}}
			for _, v := range list {
				note := v.Note
				if v.Back != nil {
					note = strings.TrimSpace(fmt.Sprintf("brings back %d. %s", *v.Back, note))
				}
				t.Rows = append(t.Rows, []string{strconv.Itoa(v.Number), c.At(v.At), or(v.By, "not kept"), v.Version[:12], note})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
}

func versionNumber(typed string) (int, error) {
	n, err := strconv.Atoi(typed)
	if err != nil || n < 1 {
		return 0, talk.Usage("%q is not the number of a version", typed)
	}
	return n, nil
}

func (c *Program) compare() *cobra.Command {
	var from int
	var lines bool
	cmd := &cobra.Command{
		Use:   "compare REPORT NUMBER",
		Short: "Tell how a version differs from the one before, or from another",
		Args:  talk.Args(cobra.ExactArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			n, err := versionNumber(given[1])
			if err != nil {
				return err
			}
			params := &api.CompareVersionsParams{}
			if from > 0 {
				params.From = &from
			}
			d, err := talk.Fetch[api.Differences](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.CompareVersions(cmd.Context(), given[0], n, params)
			})
			if err != nil || c.JSON() {
				return printed(c, d, err)
			}
			if len(d.Words) == 0 {
				fmt.Fprintln(c.Out, "They mean the same.")
			}
			for _, w := range d.Words {
				fmt.Fprintln(c.Out, "- "+w)
			}
			if lines {
				fmt.Fprint(c.Out, "\n"+d.Text)
			}
			return nil
		},
	}
	cmd.Flags().IntVar(&from, "from", 0, "the number of the earlier version")
	cmd.Flags().BoolVar(&lines, "lines", false, "compare their texts line by line, too")
	return cmd
}

func (c *Program) restore() *cobra.Command {
	var note, was string
	cmd := &cobra.Command{
		Use:   "restore REPORT NUMBER",
		Short: "Bring an earlier version back as a new one",
		Args:  talk.Args(cobra.ExactArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			n, err := versionNumber(given[1])
			if err != nil {
				return err
			}
			if was == "" {
				present, err := talk.Fetch[api.Report](c.Program,
					func(a *client.Client) (*http.Response, error) { return a.GetReport(cmd.Context(), given[0]) })
				if err != nil {
					return err
				}
				was = present.Version
			}
			r, err := talk.Fetch[api.Report](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.RestoreVersion(cmd.Context(), given[0], n, &api.RestoreVersionParams{IfMatch: &was},
					api.Said{Note: text(note)})
			})
			if err != nil || c.JSON() {
				return printed(c, r, err)
			}
			fmt.Fprintf(c.Out, "Version %d of %s brings back version %d.\n", r.Versions[0].Number, r.Id, n)
			return nil
		},
	}
	noteFlag(cmd, &note)
	cmd.Flags().StringVar(&was, "was", "", "version that it replaces; otherwise the present one")
	return cmd
}

func (c *Program) dependents() *cobra.Command {
	return &cobra.Command{
		Use:   "dependents REPORT",
		Short: "List what depends on a report: criteria, run controls, views, tiles, other reports",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			list, err := talk.Fetch[[]api.Effect](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListDependents(cmd.Context(), given[0]) })
			if err != nil || c.JSON() {
				return printed(c, list, err)
			}
			return c.printEffects(list, false)
		},
	}
}

// effects names before a change what would no longer fit after it.
func (c *Program) effects() *cobra.Command {
	return &cobra.Command{
		Use:   "effects FILE",
		Short: "Tell what a definition would change: how it differs, and what would no longer fit",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			read, err := talk.ReadText(given[0])
			if err != nil {
				return err
			}
			f, err := talk.Fetch[api.Findings](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.FindFaultsWithBody(cmd.Context(), &api.FindFaultsParams{}, talk.YAMLType, bytes.NewReader(read))
			})
			if err != nil || c.JSON() {
				return printed(c, f, err)
			}
			if len(f.Faults) > 0 {
				var lines []string
				for _, fault := range f.Faults {
					lines = append(lines, fmt.Sprintf("line %d, column %d: %s", fault.Line, fault.Column, fault.Message))
				}
				return &talk.Coded{Code: talk.ExitInput, Text: "the definition is not right\n" + strings.Join(lines, "\n")}
			}
			for _, w := range talk.Deref(f.Changes) {
				fmt.Fprintln(c.Out, "- "+w)
			}
			return c.printEffects(f.Effects, true)
		},
	}
}

// SharedEffectsCommand makes the command shared effects: what would no longer fit.
func SharedEffectsCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "effects FILE",
		Short: "Tell what would no longer fit with other shared parameters",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			read, err := talk.ReadText(given[0])
			if err != nil {
				return err
			}
			list, err := talk.Fetch[[]api.Effect](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.FindSharedEffectsWithBody(cmd.Context(), talk.YAMLType, bytes.NewReader(read))
			})
			if err != nil || c.JSON() {
				return printed(c, list, err)
			}
			if len(list) == 0 {
				fmt.Fprintln(c.Out, "Everything would go on fitting.")
				return nil
			}
			for i, e := range list {
				list[i].Name = e.Name + " (" + talk.Deref(e.Report) + ")"
			}
			return c.printEffects(list, true)
		},
	}
}

func (c *Program) printEffects(list []api.Effect, fits bool) error {
	if len(list) == 0 {
		fmt.Fprintln(c.Out, "Nothing depends on it.")
		return nil
	}
	t := talk.Table{Headings: []string{"Kind", "Id", "Owner", "Name"}}
	if fits {
		t.Headings = append(t.Headings, "Fits")
	}
	for _, e := range list {
		row := []string{string(e.Kind), e.Id, talk.Deref(e.Owner), e.Name}
		if fits {
			row = append(row, or(strings.Join(e.Unfit, "; "), "yes"))
		}
		t.Rows = append(t.Rows, row)
	}
	_, err := c.Draw(&t)
	return err
}
