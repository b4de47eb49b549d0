// Package cli is the command-line client. It reaches the service only over
// HTTP, prints for people by default and for programs with --output json, and
// ends with exit codes that scripts can trust.
package cli

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/core/nearest"
)

// The exit codes.
const (
	exitOther       = 1
	exitInput       = 2
	exitNotFound    = 3
	exitFailed      = 4
	exitStopped     = 5
	exitUnreachable = 6
	exitSignIn      = 7

	exitStale = -1 // told as another error, once its mend is named
)

const exitHelp = `Exit codes: 0 done, 1 another error, 2 wrong usage or values, 3 not found,
4 the run failed, 5 the run was stopped, 6 the service cannot be reached,
7 not signed in, or not allowed.`

// program is what every command shares.
type program struct {
	service string
	output  string
	out     io.Writer
	err     io.Writer

	asked    sync.Once // guards location
	location *time.Location
}

// Root makes the command that holds all others.
func Root(version string) *cobra.Command {
	c := &program{}
	root := &cobra.Command{
		Use:   "mantilla",
		Short: "Find, run, read and take away reports",
		Long: `Find a report in the catalog, run it, read its result and take it away.

  mantilla catalog honey
  mantilla describe intake-lots
  mantilla run intake-lots received="last month" unit="Hollin; Marr"
  mantilla show R-000001 --sort=-value
  mantilla export R-000001 --to lots.csv

` + exitHelp,
		Version:       version,
		SilenceUsage:  true,
		SilenceErrors: true,
		PersistentPreRunE: func(cmd *cobra.Command, _ []string) error {
			c.out, c.err = cmd.OutOrStdout(), cmd.ErrOrStderr()
			if !slices.Contains([]string{"human", "json", "csv"}, c.output) {
				return usage("--output: %q is not human, json or csv", c.output)
			}
			return nil
		},
	}
	root.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return usage("%v", err) })
	service := os.Getenv("MANTILLA_SERVICE")
	if service == "" {
		service = "http://127.0.0.1:8480"
	}
	root.PersistentFlags().StringVar(&c.service, "service", service, "address of the service; also MANTILLA_SERVICE")
	root.PersistentFlags().StringVar(&c.output, "output", "human", "human, json, or csv for what is a table")
	must(root.RegisterFlagCompletionFunc("output", fixed("human", "json", "csv")))
	root.AddGroup(&cobra.Group{ID: "reports", Title: "Reports:"}, &cobra.Group{ID: "results", Title: "Runs and results:"},
		&cobra.Group{ID: "sending", Title: "Sending and timetable:"}, &cobra.Group{ID: "account", Title: "Your account:"},
		&cobra.Group{ID: "office", Title: "For librarians:"})
	for group, commands := range map[string][]*cobra.Command{
		"reports": {catalogCommand(c), describeCommand(c), runCommand(c), criteriaCommand(c), marksCommand(c),
			controlCommand(c)},
		"account": {loginCommand(c), logoutCommand(c), whoCommand(c), passwordCommand(c), zoneCommand(c), sessionsCommand(c)},
		"results": {runsCommand(c), stopCommand(c), resultsCommand(c), showCommand(c), figureCommand(c), valuesCommand(c),
			findCommand(c), completenessCommand(c), viewsCommand(c), functionsCommand(c), exportCommand(c), formatsCommand(c),
			deleteCommand(c), sealCommand(c)},
		"sending": {deskCommand(c), sendCommand(c), parcelsCommand(c), bookCommand(c), mailboxCommand(c), timetableCommand(c),
			calendarsCommand(c)},
		"office": {definitionCommand(c), sharedCommand(c), sourceCommand(c), openCommand(c), peopleCommand(c),
			groupsCommand(c)},
	} {
		for _, cmd := range commands {
			cmd.GroupID = group
			root.AddCommand(cmd)
		}
	}
	for _, cmd := range root.Commands() {
		refuseUnknown(cmd)
	}
	return root
}

// refuseUnknown makes a command that only has others below it refuse a word that
// is none of these.
func refuseUnknown(cmd *cobra.Command) {
	if !cmd.HasSubCommands() || cmd.Runnable() {
		return
	}
	cmd.RunE = func(cmd *cobra.Command, given []string) error {
		if len(given) == 0 {
			return cmd.Help()
		}
		var known []string
		for _, sub := range cmd.Commands() {
			known = append(known, sub.Name())
		}
		near := nearest.Names(given[0], known, 2)
		if len(near) == 0 {
			near = known
		}
		return usage("%s has no command %q; use %s", cmd.CommandPath(), given[0], nearest.Or(near))
	}
}

func must(err error) {
	if err != nil {
		panic(err) // a command was declared wrongly
	}
}

// Execute runs the command line and returns its exit code.
func Execute(ctx context.Context, root *cobra.Command) int {
	err := root.ExecuteContext(ctx)
	if err == nil {
		return 0
	}
	fmt.Fprintln(root.ErrOrStderr(), "mantilla:", err)
	var coded *coded
	if errors.As(err, &coded) && coded.code == exitStale {
		return exitOther
	}
	if errors.As(err, &coded) {
		return coded.code
	}
	if strings.HasPrefix(err.Error(), "unknown command") {
		return exitInput
	}
	return exitOther
}

// coded is an error with its exit code.
type coded struct {
	code int
	text string
}

func (c *coded) Error() string { return c.text }

func usage(format string, args ...any) error {
	return &coded{exitInput, fmt.Sprintf(format, args...)}
}

// args wraps a check of the number of arguments as wrong usage.
func args(check cobra.PositionalArgs) cobra.PositionalArgs {
	return func(cmd *cobra.Command, given []string) error {
		if err := check(cmd, given); err != nil {
			return usage("%v; see %s --help", err, cmd.CommandPath())
		}
		return nil
	}
}

// send makes one call of the generated client and returns the answer, whose
// body the caller closes. Failures come back with their exit codes.
func (c *program) send(call func(*client.Client) (*http.Response, error)) (*http.Response, error) {
	generated, err := client.NewClient(strings.TrimRight(c.service, "/")+"/api", client.WithRequestEditorFn(c.signed))
	if err != nil {
		return nil, usage("--service: %v", err)
	}
	r, err := call(generated)
	var unreachable *url.Error
	switch {
	case errors.As(err, &unreachable) && !errors.Is(err, context.Canceled):
		return nil, &coded{exitUnreachable, fmt.Sprintf("the service at %s cannot be reached (%v); start it with mantilla "+
			"serve, or name another with --service", c.service, unreachable.Err)}
	case err != nil:
		return nil, err
	case r.StatusCode >= 200 && r.StatusCode < 300:
		return r, nil
	}
	defer r.Body.Close()
	return nil, refusal(r)
}

// refusal reads the problem in an answer as an error with its exit code.
func refusal(r *http.Response) error {
	var p api.Problem
	if err := json.NewDecoder(r.Body).Decode(&p); err != nil || p.Title == "" {
		return &coded{exitOther, "the service answered with " + r.Status}
	}
	code := exitOther
	switch r.StatusCode {
	case http.StatusNotFound:
		code = exitNotFound
	case http.StatusBadRequest, http.StatusUnprocessableEntity, http.StatusConflict:
		code = exitInput
	case http.StatusPreconditionFailed:
		code = exitStale
	case http.StatusForbidden, http.StatusTooManyRequests:
		code = exitSignIn
	case http.StatusUnauthorized:
		return &coded{exitSignIn, p.Detail + "; use mantilla login NAME"}
	}
	return &coded{code, told(&p)}
}

// fetch makes one call and reads its JSON answer.
func fetch[T any](c *program, call func(*client.Client) (*http.Response, error)) (answer T, err error) {
	r, err := c.send(call)
	if err != nil {
		return answer, err
	}
	defer r.Body.Close()
	if err := json.NewDecoder(r.Body).Decode(&answer); err != nil {
		return answer, fmt.Errorf("reading the service's answer: %w", err)
	}
	return answer, nil
}

// told says a problem in lines: what it is, and each fault at its place.
func told(p *api.Problem) string {
	if len(p.Fields) == 0 || len(p.Fields) == 1 && p.Fields[0].Message == p.Detail {
		return p.Detail
	}
	var b strings.Builder
	fmt.Fprintf(&b, "%s:", p.Title)
	for _, f := range p.Fields {
		place := f.Field
		if f.Line != nil && f.Column != nil {
			place = fmt.Sprintf("line %d, column %d", *f.Line, *f.Column)
		}
		fmt.Fprintf(&b, "\n  %s: %s", place, f.Message)
	}
	return b.String()
}

// printJSON prints an answer of the service as it came, indented.
func (c *program) printJSON(v any) error {
	encoder := json.NewEncoder(c.out)
	encoder.SetIndent("", "  ")
	encoder.SetEscapeHTML(false)
	return encoder.Encode(v)
}

func (c *program) json() bool { return c.output == "json" }
