// Package shelf has the commands about documents and links.
package shelf

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }

// Command makes the command shelf: documents and links, beside reports and by category.
func Command(c *Program) *cobra.Command {
	var report string
	cmd := &cobra.Command{
		Use:   "shelf [WORD...]",
		Short: "Documents and links beside reports and by category; get, put and delete them",
		Example: `  mantilla shelf grades
  mantilla shelf get grades --to grades.csv
  mantilla shelf put grades grades.csv --title "Limits of the grades" --category Intake --report intake-lots
  mantilla shelf put prices --address https://example.org/prices --title Prices --category Payouts --everyone`,
		RunE: func(cmd *cobra.Command, words []string) error {
			search := strings.Join(words, " ")
			list, err := talk.Fetch[[]api.Resource](c.Program, func(a *client.Client) (*http.Response, error) {
				return a.ListResources(cmd.Context(), &api.ListResourcesParams{Report: &report, Search: &search})
			})
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(list)
			}
			t := talk.Table{Headings: []string{"Id", "Category", "Report", "Version", "What", "Title"},
				Right: []bool{false, false, false, true, false, false}}
			for _, r := range list {
				number, what := "", talk.Deref(r.Address)
				if r.Latest != nil {
					number, what = strconv.Itoa(r.Latest.Number), r.Latest.Name
				}
				t.Rows = append(t.Rows, []string{r.Id, r.Category, talk.Deref(r.Report), number, what, r.Title})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
	cmd.Flags().StringVar(&report, "report", "", "only those beside this report")
	cmd.AddCommand(c.show(), c.get(), c.put(), c.Throwing(api.ThrownKindDocument, "delete ID",
		"Delete a document or link with all its versions", nil,
		func(cmd *cobra.Command, a *client.Client, id string) (*http.Response, error) {
			return a.DeleteResource(cmd.Context(), id)
		}))
	return cmd
}

func (c *Program) whole(cmd *cobra.Command, id string) (api.ResourceWhole, error) {
	return talk.Fetch[api.ResourceWhole](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.GetResource(cmd.Context(), id) })
}

func (c *Program) show() *cobra.Command {
	return &cobra.Command{
		Use:   "show ID",
		Short: "Show a document or link with its versions",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			w, err := c.whole(cmd, given[0])
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(w)
			}
			fmt.Fprintf(c.Out, "%s, %s\n", w.Resource.Title, w.Resource.Category)
			for _, line := range []string{w.Resource.About, talk.Deref(w.Resource.Address)} {
				if line != "" {
					fmt.Fprintln(c.Out, line)
				}
			}
			t := talk.Table{Headings: []string{"Version", "File", "Bytes", "When", "Who", "Note"},
				Right: []bool{true, false, true, false, false, false}}
			for _, v := range w.Versions {
				t.Rows = append(t.Rows, []string{strconv.Itoa(v.Number), v.Name, strconv.FormatInt(v.Bytes, 10), c.At(v.At), v.By,
					v.Note})
			}
			if len(t.Rows) > 0 {
				_, err = c.Draw(&t)
			}
			return err
		},
	}
}

func (c *Program) get() *cobra.Command {
	var to string
	var version int
	cmd := &cobra.Command{
		Use:   "get ID",
		Short: "Fetch a document",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			params := &api.FetchResourceParams{}
			if version > 0 {
				params.Version = &version
			}
			if to == "" {
				w, err := c.whole(cmd, given[0])
				if err != nil {
					return err
				}
				if w.Resource.Latest == nil {
					return talk.Usage("%s is a link: %s", given[0], talk.Deref(w.Resource.Address))
				}
				to = w.Resource.Latest.Name
			}
			r, err := c.Send(func(a *client.Client) (*http.Response, error) {
				return a.FetchResource(cmd.Context(), given[0], params)
			})
			if err != nil {
				return err
			}
			defer r.Body.Close()
			if to == "-" {
				_, err = io.Copy(c.Out, r.Body)
				return err
			}
			n, err := talk.WriteWhole(to, r.Body)
			if err == nil {
				fmt.Fprintf(c.Say(), "%s: %d bytes\n", to, n)
			}
			return err
		},
	}
	cmd.Flags().StringVar(&to, "to", "", "the file to write, - for standard output; otherwise its own name")
	cmd.Flags().IntVar(&version, "version", 0, "the version; otherwise the latest")
	return cmd
}

func (c *Program) put() *cobra.Command {
	var change struct{ title, about, category, report, address, note string }
	var everyone bool
	var groups, people []string
	cmd := &cobra.Command{
		Use:   "put ID [FILE]",
		Short: "Keep a document or link, or a new version of a document; what is left out stays",
		Args:  talk.Args(cobra.RangeArgs(1, 2)),
		RunE: func(cmd *cobra.Command, given []string) error {
			id, flags := given[0], cmd.Flags()
			body, params := api.ResourceChange{}, &api.PutResourceParams{}
			if w, err := c.whole(cmd, id); err == nil {
				r, revision := w.Resource, fmt.Sprint(w.Resource.Revision)
				body = api.ResourceChange{
					Title:    r.Title,
					About:    &r.About,
					Category: r.Category,
					Report:   r.Report,
					Address:  r.Address,
				}
				params.IfMatch = &revision
			}
			changed := params.IfMatch == nil
			for name, to := range map[string]func(){
				"title": func() { body.Title = change.title }, "about": func() { body.About = &change.about },
				"category": func() { body.Category = change.category }, "report": func() { body.Report = &change.report },
				"address": func() { body.Address = &change.address }} {
				if flags.Changed(name) {
					changed = true
					to()
				}
			}
			if everyone || len(groups) > 0 || len(people) > 0 {
				changed = true
				body.Open = &api.Opening{Everyone: everyone, Groups: append([]string{}, groups...),
					People: append([]string{}, people...)}
			}
			var data []byte
			var err error
			if len(given) == 2 { // read first: nothing is kept for a file that is not there
				if data, err = os.ReadFile(given[1]); err != nil {
					return talk.Usage("%v", err)
				}
			}
			if changed {
				_, err := talk.Fetch[api.Resource](c.Program, func(a *client.Client) (*http.Response, error) {
					return a.PutResource(cmd.Context(), id, params, body)
				})
				if err != nil {
					return err
				}
			}
			if data == nil {
				fmt.Fprintf(c.Say(), "%s is kept.\n", id)
				return nil
			}
			err = c.version(cmd, id, filepath.Base(given[1]), change.note, data)
			if err != nil && params.IfMatch == nil { // a new document whose file is refused is none
				_, taken := c.Send(func(a *client.Client) (*http.Response, error) { return a.DeleteResource(cmd.Context(), id) })
				err = errors.Join(err, taken)
			}
			return err
		},
	}
	flags := cmd.Flags()
	flags.StringVar(&change.title, "title", "", "what it is called")
	flags.StringVar(&change.about, "about", "", "what it is")
	flags.StringVar(&change.category, "category", "", "the shelf that it stands on")
	flags.StringVar(&change.report, "report", "", "the report that it is kept beside")
	flags.StringVar(&change.address, "address", "", "where a link leads")
	flags.StringVar(&change.note, "note", "", "what is new in this version")
	flags.BoolVar(&everyone, "everyone", false, "open what stands on a shelf to everyone")
	flags.StringSliceVar(&groups, "group", nil, "open it to a group; repeat it for several")
	flags.StringSliceVar(&people, "person", nil, "open it to a person; repeat it for several")
	return cmd
}

func (c *Program) version(cmd *cobra.Command, id, name, note string, data []byte) error {
	v, err := talk.Fetch[api.ResourceVersion](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.AddResourceVersionWithBody(cmd.Context(), id, &api.AddResourceVersionParams{Name: name, Note: &note},
			"application/octet-stream", bytes.NewReader(data))
	})
	if err != nil {
		return err
	}
	if c.JSON() {
		return c.PrintJSON(v)
	}
	fmt.Fprintf(c.Out, "%s is kept as version %d of %s.\n", v.Name, v.Number, id)
	return nil
}
