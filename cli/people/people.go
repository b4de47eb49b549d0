package people

import (
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/catalog"
	"mantilla/cli/talk"
)

// PeopleCommand makes the command people: list the accounts; put one.
func PeopleCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "people",
		Short: "List the accounts; put one",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			people, err := c.people(cmd)
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(people)
			}
			t := talk.Table{Headings: []string{"Name", "Person", "Role", "Groups", "Units", "Rights", "Owner", "State"}}
			for _, p := range people {
				state := ""
				if p.Closed {
					state = "closed"
				}
				t.Rows = append(t.Rows,
					[]string{p.Name, p.Title, string(p.Role), strings.Join(p.Groups, ", "), strings.Join(p.Units, ", "),
						strings.Join(single(p), ", "), ownerOf(p), state})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.AddCommand(putPersonCommand(c), resetCommand(c), dataCommand(c), eraseCommand(c),
		c.Throwing(api.ThrownKindAccount, "delete NAME", "Delete an account that nothing is kept for", nil,
			func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error) {
				return a.DeletePerson(cmd.Context(), id)
			}))
	return cmd
}

func (c *Program) people(cmd *cobra.Command) ([]api.Person, error) {
	return talk.Fetch[[]api.Person](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.ListPeople(cmd.Context()) })
}

// putPersonCommand makes the command put: make an account, or change what is named of one.
func putPersonCommand(c *Program) *cobra.Command {
	var title, role, owner string
	var units, given, withheld []string
	var closed, password bool
	cmd := &cobra.Command{
		Use:   "put NAME",
		Short: "Make an account, or change what is named of one",
		Example: `  mantilla people put ottilie --title "Ottilie Bramwick" --role runner --units UF-HOL
  mantilla people put ottilie --withhold send-outside --give sources
  mantilla people put ottilie --closed
  mantilla people put nightly --title "Nightly export" --role reader --owner ottilie`,
		Args: talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, names []string) error {
			people, err := c.people(cmd)
			if err != nil {
				return err
			}
			at := slices.IndexFunc(people, func(p api.Person) bool { return p.Name == names[0] })
			change := api.PersonChange{Role: api.Runner, Units: []string{}}
			params := &api.PutPersonParams{}
			if at >= 0 {
				p := people[at]
				change = api.PersonChange{Title: p.Title, Role: p.Role, Units: p.Units, Closed: p.Closed,
					Given: p.Given, Withheld: p.Withheld}
				revision := fmt.Sprint(p.Revision)
				params.IfMatch = &revision
			}
			flags := cmd.Flags()
			if flags.Changed("title") {
				change.Title = title
			}
			if flags.Changed("role") {
				change.Role = api.Role(role)
			}
			if flags.Changed("units") {
				change.Units = *named(units)
			}
			if flags.Changed("give") {
				change.Given = named(given)
			}
			if flags.Changed("withhold") {
				change.Withheld = named(withheld)
			}
			if flags.Changed("closed") {
				change.Closed = closed
			}
			if flags.Changed("owner") {
				change.Owner = &owner
			}
			if password || at < 0 && owner == "" {
				secret, err := c.AskSecret(cmd, "Password of "+names[0]+": ")
				if err != nil {
					return err
				}
				change.Password = &secret
			}
			return c.Done(names[0]+" is kept.", func(a *client.Client) (*http.Response, error) {
				return a.PutPerson(cmd.Context(), names[0], params, change)
			})
		},
	}
	cmd.Flags().StringVar(&title, "title", "", "how the person is called")
	cmd.Flags().StringVar(&role, "role", "", "reader, runner, author, librarian or administrator")
	cmd.Flags().StringSliceVar(&units, "units", nil, "codes of the units that the person is limited to; '' for no limit")
	cmd.Flags().StringSliceVar(&given, "give", nil, "rights beyond those of the role: take-away, send-outside, sources, "+
		"open, personal; '' for none")
	cmd.Flags().StringSliceVar(&withheld, "withhold", nil, "rights that the role has and the person has not; '' for none")
	cmd.Flags().StringVar(&owner, "owner", "",
		"make a service account, for scripts: who answers for it and makes its tokens")
	cmd.Flags().BoolVar(&closed, "closed", false, "close the account; --closed=false opens it again")
	cmd.Flags().BoolVar(&password, "password", false, "give a new password")
	talk.Must(cmd.RegisterFlagCompletionFunc("role",
		talk.Fixed("reader", "runner", "author", "librarian", "administrator")))
	return cmd
}

// named leaves out what is empty, which stands for none at all.
func named(words []string) *[]string {
	words = slices.DeleteFunc(words, func(w string) bool { return w == "" })
	return &words
}

// ownerOf is who answers for a service account.
func ownerOf(p api.Person) string {
	if p.Owner == nil {
		return ""
	}
	return *p.Owner
}

// single says which rights a person has beyond their role, and which they have not.
func single(p api.Person) (all []string) {
	if p.Given != nil {
		for _, name := range *p.Given {
			all = append(all, "+"+name)
		}
	}
	if p.Withheld != nil {
		for _, name := range *p.Withheld {
			all = append(all, "-"+name)
		}
	}
	return all
}

// GroupsCommand makes the command groups: list the groups of people; put one.
func GroupsCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "groups",
		Short: "List the groups of people; put one",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			groups, err := c.groups(cmd)
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(groups)
			}
			t := talk.Table{Headings: []string{"Group", "Title", "Members"}}
			for _, g := range groups {
				t.Rows = append(t.Rows, []string{g.Id, g.Title, strings.Join(g.Members, ", ")})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	var title string
	var members []string
	put := &cobra.Command{
		Use:     "put GROUP",
		Short:   "Make a group, or change what is named of one",
		Example: `  mantilla groups put stores --title "Store keepers" --members runa,dora`,
		Args:    talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			groups, err := c.groups(cmd)
			if err != nil {
				return err
			}
			change, params := api.GroupChange{Title: given[0], Members: []string{}}, &api.PutGroupParams{}
			if at := slices.IndexFunc(groups, func(g api.Group) bool { return g.Id == given[0] }); at >= 0 {
				revision := fmt.Sprint(groups[at].Revision)
				change, params.IfMatch = api.GroupChange{Title: groups[at].Title, Members: groups[at].Members}, &revision
			}
			if cmd.Flags().Changed("title") {
				change.Title = title
			}
			if cmd.Flags().Changed("members") {
				change.Members = slices.DeleteFunc(members, func(m string) bool { return m == "" })
			}
			return c.Done(given[0]+" is kept.", func(a *client.Client) (*http.Response, error) {
				return a.PutGroup(cmd.Context(), given[0], params, change)
			})
		},
	}
	put.Flags().StringVar(&title, "title", "", "what the group is called")
	put.Flags().StringSliceVar(&members, "members", nil, "names of all its members")
	cmd.AddCommand(put,
		c.Throwing(api.ThrownKindGroup, "delete GROUP", "Delete a group; its people stay", nil,
			func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error) {
				return a.DeleteGroup(cmd.Context(), id)
			}))
	return cmd
}

func (c *Program) groups(cmd *cobra.Command) ([]api.Group, error) {
	return talk.Fetch[[]api.Group](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.ListGroups(cmd.Context()) })
}

// OpenCommand makes the command open: tell, or say, to whom a report is open.
func OpenCommand(c *Program) *cobra.Command {
	var everyone, confirm bool
	var groups, people []string
	cmd := &cobra.Command{
		Use:   "open REPORT",
		Short: "Tell, or say, to whom a report is open",
		Example: `  mantilla open intake-lots
  mantilla open ledger-lines --groups accounts --people rhea`,
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: catalog.Of(c.Program).CompleteReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			f := cmd.Flags()
			to, err := talk.Fetch[api.OpeningNow](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.GetOpening(cmd.Context(), given[0]) })
			if err != nil {
				return err
			}
			if confirm {
				if to.Wish == nil {
					return talk.Usage("nobody wants %s to be open to others than it is", given[0])
				}
				return c.opened(cmd, given[0], to.Wish.To)
			}
			if f.Changed("everyone") || f.Changed("groups") || f.Changed("people") {
				return c.opened(cmd, given[0], api.Opening{Everyone: everyone, Groups: append([]string{}, groups...),
					People: append([]string{}, people...)})
			}
			if c.JSON() {
				return c.PrintJSON(to)
			}
			fmt.Fprintf(c.Out, "Everyone  %t\nGroups    %s\nPeople    %s\n", to.Everyone, strings.Join(to.Groups, ", "),
				strings.Join(to.People, ", "))
			if w := to.Wish; w != nil {
				fmt.Fprintf(c.Out, "%s wants it open to %s; agree with: mantilla open %s --confirm\n", w.By, toWhom(w.To), given[0])
			}
			return nil
		},
	}
	cmd.Flags().BoolVar(&everyone, "everyone", false, "open it to everyone with an account")
	cmd.Flags().StringSliceVar(&groups, "groups", nil, "open it to these groups, and to no others")
	cmd.Flags().StringSliceVar(&people, "people", nil, "open it to these people, and to no others")
	cmd.Flags().BoolVar(&confirm, "confirm", false, "agree to what another wants, where two people open reports")
	return cmd
}

// opened opens a report, or says that it waits for another to want the same.
func (c *Program) opened(cmd *cobra.Command, report string, to api.Opening) error {
	r, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.PutOpening(cmd.Context(), report, to) })
	if err != nil {
		return err
	}
	defer r.Body.Close()
	says := report + " is open to them."
	if r.StatusCode == http.StatusAccepted {
		says = report + " waits until another person opens it too: mantilla open " + report + " --confirm"
	}
	fmt.Fprintln(c.Err, says)
	return nil
}

func toWhom(to api.Opening) string {
	names := append(append([]string{}, to.Groups...), to.People...)
	if to.Everyone {
		names = append([]string{"everyone"}, names...)
	}
	return strings.Join(names, ", ")
}
