package catalog

import (
	"bytes"
	"fmt"
	"io"
	"net/http"
	"strings"

	"github.com/spf13/cobra"
	"go.yaml.in/yaml/v3"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// SourceCommand makes the command source: list the sources that rows come from; put or get one.
func SourceCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "source",
		Short: "List the sources that rows come from; put, get or test one",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			list, err := c.sources(cmd)
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(list)
			}
			t := talk.Table{Headings: []string{"Source", "Kind", "Title"}}
			for _, s := range list {
				t.Rows = append(t.Rows, []string{s.Id, s.Kind, s.Title})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	put := &cobra.Command{
		Use:   "put FILE",
		Short: "Declare a source, or change its declaration",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			text, err := talk.ReadText(given[0])
			if err != nil {
				return err
			}
			var head struct {
				Source string `yaml:"source"`
			}
			if err := yaml.Unmarshal(text, &head); err != nil || head.Source == "" {
				head.Source = "unnamed" // the service says what is wrong
			}
			return c.Done(head.Source+" is declared.", func(a *client.Client) (*http.Response, error) {
				return a.PutSourceWithBody(cmd.Context(), head.Source, talk.YAMLType, bytes.NewReader(text))
			})
		},
	}
	get := &cobra.Command{
		Use:   "get SOURCE",
		Short: "Print a declaration as it was written",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			list, err := c.sources(cmd)
			if err != nil {
				return err
			}
			var ids []string
			for _, s := range list {
				if s.Id == given[0] {
					_, err := io.WriteString(c.Out, s.Text)
					return err
				}
				ids = append(ids, s.Id)
			}
			return &talk.Coded{Code: talk.ExitNotFound, Text: fmt.Sprintf("there is no source %q; use %s", given[0],
				talk.Meant(given[0], ids))}
		},
	}
	cmd.AddCommand(put, get, c.testSourceCommand(),
		c.Throwing(api.ThrownKindSource, "delete SOURCE", "Take a source that no report reads out of the catalog", nil,
			func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error) {
				return a.DeleteSource(cmd.Context(), id)
			}))
	return cmd
}

// testSourceCommand makes the command test: look whether a source can be reached and read.
func (c *Program) testSourceCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "test SOURCE|FILE",
		Short: "Look whether a source can be reached and read, and nothing else; a file is tried before it is put",
		Example: `  mantilla source test coop
  mantilla source test shop.yaml`,
		Args: talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			id, body := given[0], []byte{}
			if strings.HasSuffix(id, ".yaml") || strings.HasSuffix(id, ".yml") || id == "-" {
				var err error
				if body, err = talk.ReadText(id); err != nil {
					return err
				}
				id = "new"
			}
			found, err := talk.Fetch[[]api.Finding](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.TestSourceWithBody(cmd.Context(), id, talk.YAMLType, bytes.NewReader(body))
			})
			if err != nil {
				return err
			}
			return c.tellFindings(found)
		},
	}
}

// tellFindings prints what was found of a source, and fails where something is not well.
func (c *Program) tellFindings(found []api.Finding) error {
	bad := 0
	t := talk.Table{Headings: []string{"", "Looked at", "ms", "Found"}, Right: []bool{2: true, 3: false}}
	for _, f := range found {
		mark := "✓"
		if !f.Good {
			mark, bad = "▲", bad+1
		}
		t.Rows = append(t.Rows, []string{mark, f.What, fmt.Sprintf("%.1f", f.Milliseconds), f.Says})
	}
	if c.JSON() {
		if err := c.PrintJSON(found); err != nil {
			return err
		}
	} else if _, err := c.Draw(&t); err != nil {
		return err
	}
	if bad > 0 {
		return &talk.Coded{Code: talk.ExitOther, Text: "the source is not as it should be"}
	}
	return nil
}

func (c *Program) sources(cmd *cobra.Command) ([]api.Source, error) {
	return talk.Fetch[[]api.Source](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.ListSources(cmd.Context()) })
}

// SharedCommand makes the command shared: print the parameters that are declared for the whole catalog; put them.
func SharedCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "shared",
		Short: "Print the parameters that are declared for the whole catalog; put them",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			if c.CSV() {
				return talk.Usage("shared parameters are no table; take them as YAML, or with --output json")
			}
			r, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.GetShared(cmd.Context()) })
			if err != nil {
				return err
			}
			defer r.Body.Close()
			if !c.JSON() {
				_, err = io.Copy(c.Out, r.Body)
				return err
			}
			var declared any
			if err := yaml.NewDecoder(r.Body).Decode(&declared); err != nil && err != io.EOF {
				return fmt.Errorf("reading the shared parameters: %w", err)
			}
			return c.PrintJSON(declared)
		},
	}
	cmd.AddCommand(&cobra.Command{
		Use:   "put FILE",
		Short: "Change them; refused when a report would no longer be right",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			text, err := talk.ReadText(given[0])
			if err != nil {
				return err
			}
			return c.Done("They are kept; every report was read anew.", func(a *client.Client) (*http.Response, error) {
				return a.PutSharedWithBody(cmd.Context(), talk.YAMLType, bytes.NewReader(text))
			})
		},
	})
	return cmd
}
