// Package moving has the commands of bundles, and of a catalog that is kept as files.
package moving

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
	"mantilla/core/bundle"
)

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }

// binary is the content type of a bundle on its way to the service.
const binary = "application/octet-stream"

// BundleCommand makes the command bundle: reports as one file, from one service to another.
func BundleCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "bundle",
		Short: "Take reports from one service to another as one file",
		Long: `Take reports with what they need from one service to another: shared parameters, to
whom they are open, criteria that are shared, views for everyone, run controls.

  mantilla bundle make keepers.zip keeper-file keepers-by-age --controls
  mantilla bundle check keepers.zip
  mantilla --service http://live.example bundle look keepers.zip --group field=offices
  mantilla --service http://live.example bundle take keepers.zip --note "tried in October"`,
	}
	cmd.AddCommand(c.make(), c.check(), c.look(), c.take())
	return cmd
}

func (c *Program) make() *cobra.Command {
	var wish api.BundleWish
	var controls, recipients bool
	cmd := &cobra.Command{
		Use:   "make FILE REPORT...",
		Short: "Make a bundle of reports with what they need",
		Args:  talk.Args(cobra.MinimumNArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			wish.Reports, wish.Controls, wish.Recipients = given[1:], &controls, &recipients
			r, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.MakeBundle(cmd.Context(), wish) })
			if err != nil {
				return err
			}
			defer r.Body.Close()
			n, err := talk.WriteWhole(given[0], r.Body)
			if err != nil {
				return err
			}
			fmt.Fprintf(c.Out, "%s has %d reports, %d bytes.\n", given[0], len(wish.Reports), n)
			return nil
		},
	}
	cmd.Flags().BoolVar(&controls, "controls", false, "with the run controls that run these reports alone")
	cmd.Flags().BoolVar(&recipients, "recipients", false, "and with those to whom they send")
	return cmd
}

func (c *Program) check() *cobra.Command {
	return &cobra.Command{
		Use:   "check FILE",
		Short: "Prove a bundle whole, without a service",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(_ *cobra.Command, given []string) error {
			text, err := talk.ReadText(given[0])
			if err != nil {
				return err
			}
			b, err := bundle.Read(text)
			if err != nil {
				return &talk.Coded{Code: talk.ExitInput, Text: given[0] + ": " + err.Error()}
			}
			fmt.Fprintf(c.Out, "%s is whole: %d files, made by %s of %s.\n", given[0], len(b.Files), b.By, b.From)
			return nil
		},
	}
}

// mapped are the flags of what is called otherwise.
type mapped struct{ sources, groups, units []string }

func (m *mapped) flags(cmd *cobra.Command) {
	cmd.Flags().StringSliceVar(&m.sources, "source", nil, "a source that is called otherwise there: THERE=HERE")
	cmd.Flags().StringSliceVar(&m.groups, "group", nil, "a group that is called otherwise there: THERE=HERE")
	cmd.Flags().StringSliceVar(&m.units, "unit", nil, "the code of a unit that is another there: THERE=HERE")
}

func (c *Program) look() *cobra.Command {
	var m mapped
	cmd := &cobra.Command{
		Use:   "look FILE",
		Short: "Tell what taking a bundle would do; nothing changes",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			l, err := c.lookAt(cmd.Context(), given[0], m)
			if err != nil {
				return err
			}
			if err := c.tell(l); err != nil || !l.Blocked {
				return err
			}
			return &talk.Coded{Code: talk.ExitInput, Text: "something stands in the way; nothing of it could be taken in"}
		},
	}
	m.flags(cmd)
	return cmd
}

func (c *Program) lookAt(ctx context.Context, file string, m mapped) (api.BundleLook, error) {
	text, err := talk.ReadText(file)
	if err != nil {
		return api.BundleLook{}, err
	}
	params := &api.LookAtBundleParams{Source: talk.Some(m.sources), Group: talk.Some(m.groups), Unit: talk.Some(m.units)}
	return talk.Fetch[api.BundleLook](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.LookAtBundleWithBody(ctx, params, binary, bytes.NewReader(text))
	})
}

func (c *Program) tell(l api.BundleLook) error {
	if c.JSON() {
		return c.PrintJSON(l)
	}
	fmt.Fprintf(c.Out, "Made by %s of %s, %s.\n", l.By, l.From, c.At(l.Made))
	t := talk.Table{Headings: []string{"State", "Kind", "Id", "Title", "What"}}
	for _, i := range l.Items {
		t.Rows = append(t.Rows, []string{string(i.State), string(i.Kind), i.Id, i.Title, strings.Join(i.Says, "; ")})
	}
	_, err := c.Draw(&t)
	return err
}

func (c *Program) take() *cobra.Command {
	var m mapped
	var note string
	cmd := &cobra.Command{
		Use:   "take FILE",
		Short: "Take a bundle in, all or nothing",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			text, err := talk.ReadText(given[0])
			if err != nil {
				return err
			}
			params := &api.TakeBundleParams{Source: talk.Some(m.sources), Group: talk.Some(m.groups), Unit: talk.Some(m.units)}
			if note != "" {
				params.Note = &note
			}
			l, err := talk.Fetch[api.BundleLook](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.TakeBundleWithBody(cmd.Context(), params, binary, bytes.NewReader(text))
			})
			if err != nil {
				return err
			}
			if err := c.tell(l); err != nil || c.JSON() {
				return err
			}
			if len(l.Back) > 0 {
				fmt.Fprintln(c.Out, "\nTo go back:\n  "+strings.Join(l.Back, "\n  "))
			}
			return nil
		},
	}
	m.flags(cmd)
	cmd.Flags().StringVar(&note, "note", "", "why; it stands beside the versions")
	return cmd
}
