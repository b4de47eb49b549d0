package care

import (
	"fmt"
	"net/http"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// RenameCommand makes the command rename of things of a kind: source, parameter, group,
// address or account.
func RenameCommand(c *Program, kind string) *cobra.Command {
	follows := map[string]string{
		"source":    "reports that read it get new versions, drafts new texts",
		"parameter": "reports that use it go on knowing it as before",
		"group":     "what is open to it or shared with it stays so",
		"address":   "run controls that send to it go on sending",
		"account":   "what is kept for it goes on, and the person signs in by the new name",
	}
	return &cobra.Command{
		Use:   "rename OLD NEW",
		Short: "Give one another name; " + follows[kind],
		Args:  talk.Args(cobra.ExactArgs(2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			return c.Done(fmt.Sprintf("%s is %s now.", given[0], given[1]),
				func(a *client.Client) (*http.Response, error) {
					return a.RenameOther(cmd.Context(), kind, given[0], api.OtherName{To: given[1]})
				})
		},
	}
}
