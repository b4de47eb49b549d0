// Package talk is what all commands share: calls of the service, what they print for
// people and for programs, questions at a terminal, and exit codes.
package talk

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
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
	ExitOther       = 1
	ExitInput       = 2
	ExitNotFound    = 3
	ExitFailed      = 4
	ExitStopped     = 5
	exitUnreachable = 6
	exitSignIn      = 7

	ExitStale = -1 // told as another error, once its mend is named
)

// ExitHelp tells the exit codes.
const ExitHelp = `Exit codes: 0 done, 1 another error, 2 wrong usage or values, 3 not found,
4 the run failed, 5 the run was stopped, 6 the service cannot be reached,
7 not signed in, or not allowed.`

// Program is what every command shares.
type Program struct {
	Service string
	Output  string
	Out     io.Writer
	Err     io.Writer

	in       *bufio.Reader // what is typed, or written there; nil before anything was asked
	asked    sync.Once     // guards location
	location *time.Location
	days     string // how they are written for the person
}

// Must is for what fails only where a command was declared wrongly.
func Must(err error) {
	if err != nil {
		panic(err) // a command was declared wrongly
	}
}

// Coded is an error with its exit code.
type Coded struct {
	Code int
	Text string
}

func (c *Coded) Error() string { return c.Text }

// Usage is wrong usage, said in a sentence.
func Usage(format string, args ...any) error {
	return &Coded{ExitInput, fmt.Sprintf(format, args...)}
}

// Args wraps a check of the number of arguments as wrong usage.
func Args(check cobra.PositionalArgs) cobra.PositionalArgs {
	return func(cmd *cobra.Command, given []string) error {
		if err := check(cmd, given); err != nil {
			if cmd.HasSubCommands() && len(given) > 0 && check(cmd, given[:1]) != nil {
				return Unknown(cmd, given[0])
			}
			return Usage("%v; see %s --help", err, cmd.CommandPath())
		}
		return nil
	}
}

// Unknown says that a command has none of that name below it, and which was probably meant.
func Unknown(cmd *cobra.Command, typed string) error {
	var known []string
	for _, below := range cmd.Commands() {
		known = append(known, below.Name())
	}
	return Usage("%s has no command %q; use %s", cmd.CommandPath(), typed, Meant(typed, known))
}

// Meant is what was probably meant by a word, or all that there is.
func Meant(typed string, known []string) string {
	if near := nearest.Names(typed, known, 2); len(near) > 0 {
		return nearest.Or(near)
	}
	return nearest.Or(known)
}

// Send makes one call of the generated client and returns the answer, whose
// body the caller closes. Failures come back with their exit codes.
func (c *Program) Send(call func(*client.Client) (*http.Response, error)) (*http.Response, error) {
	generated, err := client.NewClient(strings.TrimRight(c.Service, "/")+"/api", client.WithRequestEditorFn(c.signed))
	if err != nil {
		return nil, Usage("--service: %v", err)
	}
	r, err := call(generated)
	var unreachable *url.Error
	switch {
	case errors.As(err, &unreachable) && !errors.Is(err, context.Canceled):
		return nil, &Coded{exitUnreachable, fmt.Sprintf("the service at %s cannot be reached (%v); start it with mantilla "+
			"serve, or name another with --service", c.Service, unreachable.Err)}
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
		return &Coded{ExitOther, "the service answered with " + r.Status}
	}
	code := ExitOther
	switch r.StatusCode {
	case http.StatusNotFound:
		code = ExitNotFound
	case http.StatusBadRequest, http.StatusUnprocessableEntity, http.StatusConflict:
		code = ExitInput
	case http.StatusPreconditionFailed:
		code = ExitStale
	case http.StatusForbidden, http.StatusTooManyRequests:
		code = exitSignIn
	case http.StatusUnauthorized:
		return &Coded{exitSignIn, p.Detail + "; use mantilla login NAME"}
	}
	text := told(&p)
	if p.Type == "purpose" {
		text += ": mantilla purpose REPORT WHY"
	}
	return &Coded{code, text}
}

// Fetch makes one call and reads its JSON answer.
func Fetch[T any](c *Program, call func(*client.Client) (*http.Response, error)) (answer T, err error) {
	r, err := c.Send(call)
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

// PrintJSON prints an answer of the service as it came, indented.
func (c *Program) PrintJSON(v any) error {
	encoder := json.NewEncoder(c.Out)
	encoder.SetIndent("", "  ")
	encoder.SetEscapeHTML(false)
	return encoder.Encode(v)
}

// CSV tells whether a table is printed as CSV, of which one answer has only one.
func (c *Program) CSV() bool { return c.Output == "csv" }

// JSON tells whether answers are printed as they came.
func (c *Program) JSON() bool { return c.Output == "json" }
