// Package trash has the commands of what was deleted.
package trash

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
	"mantilla/core/nearest"
)

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }

// Command makes the command trash: list what was deleted and can be brought back.
func Command(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "trash",
		Short: "List what was deleted and can be brought back: what people keep, and what the office does",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			all, err := talk.Fetch[[]api.Thrown](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListTrash(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(all)
			}
			t := talk.Table{Headings: []string{"Id", "What", "Deleted", "Until", "Of", "Report", "Name"}}
			for _, x := range all {
				t.Rows = append(t.Rows, []string{x.Id, string(x.Kind), c.At(x.At), c.At(x.Until), x.Owner,
					talk.Deref(x.Report), x.Name})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
}

// ReturnCommand makes the command return: take things out of the trash.
func ReturnCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "return ID...",
		Short: "Take what was deleted out of the trash; trash lists it",
		Example: `  mantilla return R-000013
  mantilla return C-4 V-2 T-1 month-end
  mantilla return group/coop report/lot-history`,
		Args: talk.Args(cobra.MinimumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			for _, name := range given {
				kind, id, err := c.meant(cmd.Context(), name)
				if err != nil {
					return err
				}
				if err := c.Done(id+" is kept again.", func(a *client.Client) (*http.Response, error) {
					return a.ReturnThrown(cmd.Context(), kind, id)
				}); err != nil {
					return err
				}
			}
			return nil
		},
	}
}

// numbered are the kinds of things whose ids say what they are.
var numbered = map[string]api.ThrownKind{"R": api.ThrownKindResult, "C": api.ThrownKindCriteria,
	"V": api.ThrownKindView, "T": api.ThrownKindTile, "D": api.ThrownKindDraft, "M": api.ThrownKindMark}

// meant tells what is meant by an id, before which its kind may stand: group/coop.
func (c *Program) meant(ctx context.Context, name string) (kind api.ThrownKind, id string, err error) {
	before, after, _ := strings.Cut(name, "/")
	if api.ThrownKind(before).Valid() {
		return api.ThrownKind(before), after, nil
	}
	letter, _, _ := strings.Cut(name, "-")
	if kind, ok := numbered[letter]; ok {
		return kind, name, nil
	}
	all, err := talk.Fetch[[]api.Thrown](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.ListTrash(ctx) })
	if err != nil {
		return "", "", err
	}
	var found []string
	for _, x := range all {
		if x.Id == name {
			found = append(found, string(x.Kind)+"/"+x.Id)
			kind = x.Kind
		}
	}
	switch len(found) {
	case 0:
		return "", "", &talk.Coded{Code: talk.ExitNotFound, Text: fmt.Sprintf("there is no %s in the trash that you could "+
			"bring back; mantilla trash lists what is there", name)}
	case 1:
		return kind, name, nil
	}
	slices.Sort(found)
	return "", "", talk.Usage("there are several things of that name in the trash; say which: %s", nearest.And(found))
}
