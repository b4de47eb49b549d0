// Package audit has the commands that tell who did what.
package audit

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
	"mantilla/core/audit"
)

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }

// asked is what lines are wanted.
type asked struct {
	api.ListAuditParams
	on, since, until, face, outcome string
}

// Command makes the command audit: list who did what, check and take away the lines.
func Command(c *Program) *cobra.Command {
	q := &asked{}
	person, act, text, limit := "", "", "", 0
	cmd := &cobra.Command{
		Use:   "audit",
		Short: "Tell who did what, the newest first",
		Long: `Tell who did what, when and from where: what people signed in for, changed, ran, read and
took away, what was sent, what they were refused, and what the service did by itself.

The lines are only ever added, and chained by digests: mantilla audit check finds one that
was changed or taken out.`,
		Example: "  mantilla audit --person runa --since 2026-10-01\n  mantilla audit --on result:R-12\n" +
			"  mantilla audit --outcome refused --output json",
		Args: talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			if err := q.read(c); err != nil {
				return err
			}
			q.Person, q.Act, q.Text, q.Limit = given(person), given(act), given(text), &limit
			lines, err := talk.Fetch[[]api.AuditLine](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListAudit(cmd.Context(), &q.ListAuditParams) })
			if err != nil {
				return err
			}
			return c.print(lines)
		},
	}
	f := cmd.Flags()
	f.StringVar(&person, "person", "", "account of who did it")
	f.StringVar(&act, "act", "", "what was done, such as deleteResult, as --output json has it")
	f.StringVar(&q.on, "on", "", "to what, such as result:R-12, report:intake-lots or person:runa, or a kind alone")
	f.StringVar(&q.face, "face", "", "by console, 'command line', program or service")
	f.StringVar(&q.outcome, "outcome", "", "done, refused or failed")
	f.StringVar(&text, "text", "", "what stands in it")
	f.StringVar(&q.since, "since", "", "from this day on, such as 2026-10-01")
	f.StringVar(&q.until, "until", "", "up to the end of this day")
	f.IntVar(&limit, "limit", 100, "at most so many")
	cmd.AddCommand(checkCommand(c), exportCommand(c), seenCommand(c))
	return cmd
}

func given(text string) *string {
	if text == "" {
		return nil
	}
	return &text
}

// read reads what was typed.
func (q *asked) read(c *Program) (err error) {
	kind, id, _ := strings.Cut(q.on, ":")
	if kind == "result" {
		id = longID(id)
	}
	q.Kind, q.Id = given(kind), given(id)
	if q.Since, err = c.day("since", q.since, 0); err != nil {
		return err
	}
	if q.Until, err = c.day("until", q.until, 1); err != nil {
		return err
	}
	if q.face != "" {
		face := api.ListAuditParamsFace(q.face)
		q.Face = &face
	}
	if q.outcome != "" {
		outcome := api.ListAuditParamsOutcome(q.outcome)
		q.Outcome = &outcome
	}
	return nil
}

// longID is the id of a result as the audit has it.
func longID(id string) string {
	n := 0
	if _, err := fmt.Sscanf(strings.TrimPrefix(strings.ToUpper(id), "R-"), "%d", &n); err != nil {
		return id
	}
	return fmt.Sprintf("R-%06d", n)
}

// day is the beginning of a day so many days behind the one that was typed, in the person's zone.
func (c *Program) day(flag, text string, behind int) (*time.Time, error) {
	if text == "" {
		return nil, nil
	}
	at, err := time.ParseInLocation(time.DateOnly, text, c.Zone())
	if err != nil {
		return nil, talk.Usage("--%s: %q is not a day such as 2026-10-01", flag, text)
	}
	at = at.AddDate(0, 0, behind)
	return &at, nil
}

func (c *Program) print(lines []api.AuditLine) error {
	if c.JSON() {
		return c.PrintJSON(lines)
	}
	t := talk.Table{Headings: []string{"Line", "At", "Who", "By", "Did", "To", "And", "Outcome"}, Right: []bool{true}}
	for _, l := range lines {
		t.Rows = append(t.Rows, []string{fmt.Sprint(l.Number), c.At(l.At), talk.Deref(l.Person), string(l.Face), l.Says,
			to(l), and(l), string(l.Outcome)})
	}
	_, err := c.Draw(&t)
	return err
}

// to is what something was done to.
func to(l api.AuditLine) string {
	return strings.TrimSpace(talk.Deref(l.Kind) + " " + talk.Deref(l.Id) + " " + talk.Deref(l.Part))
}

// and is what more there is to say.
func and(l api.AuditLine) string {
	before, after := talk.Deref(l.Before), talk.Deref(l.After)
	text := after
	switch {
	case before != "" && after != "":
		text = before + " → " + after
	case before != "":
		text = before + " → nothing"
	}
	return strings.Trim(text+"; "+talk.Deref(l.Why), "; ")
}

func checkCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:     "check [FILE]",
		Aliases: []string{"verify"},
		Short:   "Look whether no line was changed or taken out, of the service's or of a file that was taken away",
		Args:    talk.Args(cobra.MaximumNArgs(1)),
		RunE: func(cmd *cobra.Command, files []string) error {
			if len(files) == 1 {
				return c.checkFile(files[0])
			}
			found, err := talk.Fetch[api.AuditCheck](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.CheckAudit(cmd.Context()) })
			if err != nil {
				return err
			}
			return c.told(found)
		},
	}
}

// checkFile looks through a file that was taken away.
func (c *Program) checkFile(path string) error {
	f, err := os.Open(path)
	if err != nil {
		return talk.Usage("%v", err)
	}
	defer f.Close()
	chain, err := audit.ReadFile(f)
	found := api.AuditCheck{Whole: err == nil, Lines: chain.Lines, Erased: chain.Erased, First: chain.First,
		Last:   chain.Last,
		Digest: chain.Digest}
	if err != nil {
		fault := err.Error()
		found.Fault = &fault
	}
	return c.told(found)
}

// told says what was found; that it is not whole is an error.
func (c *Program) told(found api.AuditCheck) error {
	if c.JSON() {
		if err := c.PrintJSON(found); err != nil {
			return err
		}
	} else if found.Whole {
		fmt.Fprintf(c.Out, "✓ the audit is whole: %d lines, from %d to %d, the last with the digest %s\n", found.Lines,
			found.First, found.Last, found.Digest)
		if found.Erased > 0 {
			fmt.Fprintf(c.Out, "  somebody was taken out of %d of them\n", found.Erased)
		}
	}
	if !found.Whole {
		return errors.New(talk.Deref(found.Fault) + "; compare with what was sent on, or with a back-up")
	}
	return nil
}

func exportCommand(c *Program) *cobra.Command {
	behind := int64(0)
	cmd := &cobra.Command{
		Use:   "export TO",
		Short: "Take the lines away as they are kept, a line of JSON for each, into a file, or - for standard output",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			file := given[0]
			r, err := c.Send(func(a *client.Client) (*http.Response, error) {
				return a.ExportAudit(cmd.Context(), &api.ExportAuditParams{Behind: &behind})
			})
			if err != nil {
				return err
			}
			defer r.Body.Close()
			if file == "-" {
				_, err = io.Copy(c.Out, r.Body)
				return err
			}
			n, err := talk.WriteWhole(file, r.Body)
			if err != nil {
				return fmt.Errorf("writing %s: %w", file, err)
			}
			fmt.Fprintf(c.Err, "%s is written, %d bytes; look through it with: mantilla audit check '%s'\n", file, n, file)
			return nil
		},
	}
	cmd.Flags().Int64Var(&behind, "behind", 0, "only lines with larger numbers, as for what was added since")
	return cmd
}

func seenCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "seen RESULT",
		Short: "Tell who read a result or took it away",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			all, err := talk.Fetch[[]api.Reading](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListReaders(cmd.Context(), given[0]) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(all)
			}
			t := talk.Table{Headings: []string{"Who", "Did", "By", "Times", "First", "Last"}, Right: []bool{3: true}}
			for _, x := range all {
				t.Rows = append(t.Rows, []string{talk.Deref(x.Person), x.Says, string(x.Face), fmt.Sprint(x.Times),
					c.At(x.First), c.At(x.Last)})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
}
