package talk

import (
	"fmt"
	"net/http"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
)

// Done makes a call that answers with nothing and says that it was done.
func (c *Program) Done(said string, call func(*client.Client) (*http.Response, error)) error {
	r, err := c.Send(call)
	if err != nil {
		return err
	}
	fmt.Fprintln(c.Err, said)
	return r.Body.Close()
}

// Removing is a command that deletes one thing for good.
func (c *Program) Removing(use, short string, complete cobra.CompletionFunc,
	remove func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error)) *cobra.Command {
	return c.deleting("cannot be brought back", func(string) string { return "" }, use, short, complete, remove)
}

// Throwing is a command that puts one thing of a kind into the trash.
func (c *Program) Throwing(kind api.ThrownKind, use, short string, complete cobra.CompletionFunc,
	remove func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error)) *cobra.Command {
	back := func(id string) string { return "; mantilla return " + string(kind) + "/" + id + " brings it back" }
	return c.deleting("can be brought back for 30 days", back, use, short, complete, remove)
}

// deleting is a command that deletes one thing, which becomes what is said, and says how to undo that.
func (c *Program) deleting(becomes string, back func(id string) string, use, short string,
	complete cobra.CompletionFunc,
	remove func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error)) *cobra.Command {
	var yes bool
	cmd := &cobra.Command{Use: use, Short: short, Args: Args(cobra.ExactArgs(1)), ValidArgsFunction: complete,
		RunE: func(cmd *cobra.Command, given []string) error {
			if err := c.Confirmed(cmd, given[0], becomes, yes); err != nil {
				return err
			}
			return c.Done(given[0]+" is deleted"+back(given[0])+".",
				func(a *client.Client) (*http.Response, error) { return remove(cmd, a, given[0]) })
		}}
	cmd.Flags().BoolVar(&yes, "yes", false, "delete without asking")
	return cmd
}
