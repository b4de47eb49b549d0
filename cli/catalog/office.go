package catalog

import (
	"bytes"
	"fmt"
	"io"
	"net/http"

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
		Short: "List the sources that rows come from; put or get one",
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
			for _, s := range list {
				if s.Id == given[0] {
					_, err := io.WriteString(c.Out, s.Text)
					return err
				}
			}
			return &talk.Coded{Code: talk.ExitNotFound, Text: fmt.Sprintf("there is no source %q", given[0])}
		},
	}
	cmd.AddCommand(put, get,
		c.Removing("delete SOURCE", "Take a source that no report reads out of the catalog", nil,
			func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error) {
				return a.DeleteSource(cmd.Context(), id)
			}))
	return cmd
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
			r, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.GetShared(cmd.Context()) })
			if err != nil {
				return err
			}
			defer r.Body.Close()
			_, err = io.Copy(c.Out, r.Body)
			return err
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
