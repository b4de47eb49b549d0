package sending

import (
	"context"
	"fmt"
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/reading"
	"mantilla/cli/talk"
)

// SendCommand makes the command send: send a result by mail.
func SendCommand(c *Program) *cobra.Command {
	var to, copies, blind []string
	var subject, text, view string
	var body bool
	var r reading.Reading
	var o reading.TakeOptions
	cmd := &cobra.Command{
		Use:   "send RESULT",
		Short: "Send a result by mail",
		Long: `Send files of a result by mail. Recipients are nicknames and groups of the
address book, and mail addresses. What a recipient may not see is not sent.`,
		Example:           `  mantilla send R-000001 --to lil,management --format pdf --subject "{title}, {date}"`,
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: reading.Of(c.Program).CompleteResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			if o.Format == "" {
				o.Format = "xlsx"
			}
			take := o.Take(api.Format(o.Format), "")
			if view != "" {
				changes := r.Values().Encode()
				take.View, take.Changes = &view, &changes
			}
			p, err := talk.Fetch[api.Parcel](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.SendResult(cmd.Context(), given[0],
					api.SendNow{
						To:      append([]string{}, to...),
						Copy:    talk.Some(copies),
						Blind:   talk.Some(blind),
						Subject: &subject,
						Text:    &text,
						InBody:  &body,
						Takes:   []api.Take{take},
					})
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(p)
			}
			fmt.Fprintf(c.Err, "%s waits to be sent to %s; see mantilla parcels\n", p.Id, recipients(p))
			return nil
		},
	}
	f := cmd.Flags()
	f.StringSliceVar(&to, "to", nil, "recipients, commas between")
	f.StringSliceVar(&copies, "copy", nil, "recipients of copies")
	f.StringSliceVar(&blind, "blind", nil, "recipients whom the others do not see")
	f.StringVar(&subject, "subject", "", "subject; {title}, {result}, {rows}, {date} and others are filled in")
	f.StringVar(&text, "text", "", "text; the same are filled in")
	f.BoolVar(&body, "in-body", false, "the sheets stand in the message too")
	f.StringVar(&view, "view", "", "view to send; otherwise the result's page")
	o.Flags(cmd)
	r.Flags(cmd)
	talk.Must(cmd.RegisterFlagCompletionFunc("format", reading.Of(c.Program).CompleteFormat))
	return cmd
}

func recipients(p api.Parcel) string {
	var names []string
	for _, r := range p.Recipients {
		name := r.Address
		if r.State != "sent" && r.Answer != "" {
			name += " (" + r.Answer + ")"
		}
		names = append(names, name)
	}
	return strings.Join(names, ", ")
}

// ParcelsCommand makes the command parcels: list what is on its way to people and programs, and what went.
func ParcelsCommand(c *Program) *cobra.Command {
	var state string
	var most int
	cmd := &cobra.Command{
		Use:   "parcels",
		Short: "List what is on its way to people and programs, and what went",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			params := &api.ListParcelsParams{Limit: &most, State: talk.Word[api.ListParcelsParamsState](state)}
			all, err := talk.Fetch[[]api.Parcel](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListParcels(cmd.Context(), params) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(all)
			}
			t := talk.Table{
				Headings: []string{"Parcel", "Made", "State", "Tries", "Way", "Title", "Files", "To", "Why"},
				Right:    []bool{3: true, 8: false},
			}
			for _, p := range all {
				where := recipients(p)
				if p.Target != nil {
					where = *p.Target
				}
				t.Rows = append(t.Rows,
					[]string{p.Id, c.At(p.MadeAt), string(p.State), fmt.Sprint(p.Tries), string(p.Way), p.Title,
						fmt.Sprint(len(p.Files)), where, talk.Deref(p.Reason)})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.Flags().StringVar(&state, "state", "", "only those that are waiting, sent, failed or stopped")
	talk.LimitFlag(cmd, &most, 30, "at most so many")
	talk.Must(cmd.RegisterFlagCompletionFunc("state", talk.Fixed("waiting", "sent", "failed", "stopped")))
	cmd.AddCommand(mendCommand(c), stopParcelCommand(c))
	return cmd
}

// mendCommand makes the command again: try a parcel again now, to other addresses where some were wrong.
func mendCommand(c *Program) *cobra.Command {
	var instead []string
	cmd := &cobra.Command{
		Use:     "again PARCEL",
		Short:   "Try a parcel again now, to other addresses where some were wrong",
		Example: `  mantilla parcels again P-000012 --instead old@example.org=new@example.org`,
		Args:    talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			other, err := talk.Pairs(instead)
			if err != nil {
				return err
			}
			p, err := talk.Fetch[api.Parcel](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.MendParcel(cmd.Context(), given[0], api.MendParcelJSONRequestBody{Instead: (*map[string]string)(&other)})
			})
			if err != nil {
				return err
			}
			fmt.Fprintf(c.Err, "%s waits to be sent to %s.\n", p.Id, recipients(p))
			return nil
		},
	}
	cmd.Flags().StringSliceVar(&instead, "instead", nil, "OLD=NEW mail address; may be repeated")
	return cmd
}

// stopParcelCommand makes the command stop: take a parcel that waits or failed out of the queue.
func stopParcelCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "stop PARCEL",
		Short: "Take a parcel that waits or failed out of the queue",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			return c.Done(given[0]+" is stopped.",
				func(a *client.Client) (*http.Response, error) { return a.StopParcel(cmd.Context(), given[0]) })
		},
	}
}

// BookCommand makes the command book: list the address book; put or delete an entry.
func BookCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "book",
		Short: "List the address book; put or delete an entry",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			all, err := c.book(cmd.Context())
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(all)
			}
			t := talk.Table{Headings: []string{"Nickname", "Name", "Mail", "Account", "Units", "Groups"}}
			for _, e := range all {
				t.Rows = append(t.Rows,
					[]string{e.Nickname, e.Name, e.Mail, talk.Deref(e.Person), strings.Join(e.Units, ", "),
						strings.Join(e.Groups, ", ")})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.AddCommand(putAddressCommand(c), addressHistoryCommand(c),
		c.Removing("delete NICKNAME", "Delete an entry of the address book", nil,
			func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error) {
				return a.DeleteAddress(cmd.Context(), id)
			}))
	return cmd
}

// addressHistoryCommand makes the command history: tell where an entry led, and who said so.
func addressHistoryCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "history NICKNAME",
		Short: "Tell where an entry led, and who said so",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			all, err := talk.Fetch[[]api.AddressEvent](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.ListAddressChanges(cmd.Context(), given[0])
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(all)
			}
			t := talk.Table{Headings: []string{"At", "By", "What", "Mail", "Account", "Units", "Groups"}}
			for _, e := range all {
				row := []string{c.At(e.At), e.By, string(e.What), "", "", "", ""}
				if e.Entry != nil {
					row = append(row[:3], e.Entry.Mail, talk.Deref(e.Entry.Person), strings.Join(e.Entry.Units, ", "),
						strings.Join(e.Entry.Groups, ", "))
				}
				t.Rows = append(t.Rows, row)
			}
			_, err = c.Draw(&t)
			return err
		},
	}
}

func (c *Program) book(ctx context.Context) ([]api.Address, error) {
	return talk.Fetch[[]api.Address](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.ListAddresses(ctx) })
}

// putAddressCommand makes the command put: keep an entry of the address book.
func putAddressCommand(c *Program) *cobra.Command {
	var e api.AddressChange
	var person string
	cmd := &cobra.Command{
		Use:     "put NICKNAME",
		Short:   "Keep an entry of the address book",
		Example: `  mantilla book put hol --name "Hollin office" --mail hollin@example.org --units UF-HOL --groups districts`,
		Args:    talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			all, err := c.book(cmd.Context())
			if err != nil {
				return err
			}
			params := &api.PutAddressParams{}
			e.Person = talk.Word[string](person)
			for _, known := range all {
				if strings.EqualFold(known.Nickname, given[0]) {
					revision := fmt.Sprint(known.Revision)
					params.IfMatch = &revision
				}
			}
			e.Units, e.Groups = append([]string{}, e.Units...), append([]string{}, e.Groups...)
			return c.Done(given[0]+" is kept.", func(a *client.Client) (*http.Response, error) {
				return a.PutAddress(cmd.Context(), given[0], params, e)
			})
		},
	}
	f := cmd.Flags()
	f.StringVar(&e.Name, "name", "", "name")
	f.StringVar(&e.Mail, "mail", "", "mail address")
	f.StringVar(&person, "account", "", "account it belongs to; what it gets is cut to what the account may see")
	f.StringSliceVar(&e.Units, "units", nil, "codes of units that it stands for")
	f.StringSliceVar(&e.Groups, "groups", nil, "names under which several are written to")
	return cmd
}

// MailboxCommand makes the command mailbox: list what the stand-in mail server got, or read one letter.
func MailboxCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "mailbox [LETTER]",
		Short: "List what the stand-in mail server got, or read one letter",
		Args:  talk.Args(cobra.MaximumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			if len(given) == 1 {
				return c.readLetter(cmd.Context(), given[0])
			}
			all, err := talk.Fetch[[]api.Letter](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListLetters(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(all)
			}
			t := talk.Table{Headings: []string{"Letter", "Came", "To", "Subject", "Bytes"}, Right: []bool{4: true}}
			for _, l := range all {
				t.Rows = append(t.Rows, []string{l.Id, c.At(l.At), l.Recipient, l.Subject, fmt.Sprint(l.Bytes)})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
}

func (c *Program) readLetter(ctx context.Context, id string) error {
	l, err := talk.Fetch[api.OpenLetter](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.GetLetter(ctx, id) })
	if err != nil {
		return err
	}
	if c.JSON() {
		return c.PrintJSON(l)
	}
	for _, h := range l.Headers {
		fmt.Fprintf(c.Out, "%s: %s\n", h.Name, h.Text)
	}
	fmt.Fprintf(c.Out, "\n%s\n", l.Text)
	for _, p := range l.Parts {
		fmt.Fprintf(c.Out, "· %s, %s, %d bytes\n", p.Name, p.Type, p.Bytes)
	}
	return nil
}
