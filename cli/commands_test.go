// Package cli_test tries the command line as people do, every command of it, against a
// service on the demo data.
package cli_test

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"unicode"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"mantilla/cli"
	"mantilla/demo/demotest"
)

// outcome is how a command ended.
type outcome struct {
	code     int
	out, err string
}

// person is somebody who types commands.
type person struct{ service, token string }

// as is a person of the demo at the command line of a service.
func as(t *testing.T, s *demotest.Service, name string) person {
	t.Helper()
	token, _ := s.As(t, name)
	return person{s.URL, token}
}

// types has the person type a command.
func (p person) types(t *testing.T, words ...string) outcome {
	t.Helper()
	t.Setenv("MANTILLA_SERVICE", p.service)
	t.Setenv("MANTILLA_TOKEN", p.token)
	t.Setenv("XDG_CONFIG_HOME", t.TempDir()) // where no session is kept
	var out, err bytes.Buffer
	root := cli.Root("test")
	root.SetOut(&out)
	root.SetErr(&err)
	root.SetIn(strings.NewReader(""))
	root.SetArgs(words)
	code := cli.Execute(context.Background(), root)
	return outcome{code, out.String(), err.String()}
}

// commands are all that can be run, with the words of their path.
func commands() (all []*cobra.Command) {
	var walk func(c *cobra.Command)
	walk = func(c *cobra.Command) {
		if c.HasParent() && (c.Args != nil || c.Run != nil || c.RunE != nil) && c.Name() != "help" {
			all = append(all, c)
		}
		for _, below := range c.Commands() {
			walk(below)
		}
	}
	walk(cli.Root("test"))
	return all
}

// path is what is typed for a command, without the name of the program.
func path(c *cobra.Command) []string { return strings.Fields(c.CommandPath())[1:] }

// placeholders are the words that a command needs, as its help names them.
func placeholders(c *cobra.Command) (needed []string) {
	for _, word := range strings.Fields(c.Use)[1:] {
		switch {
		case word == "|": // another way to say it
			return needed
		case strings.HasPrefix(word, "["), strings.HasPrefix(word, "-"):
		default:
			needed = append(needed, strings.TrimSuffix(word, "..."))
		}
	}
	return needed
}

// TestEveryCommandSaysWhatItIsFor looks at the help of every command and option.
func TestEveryCommandSaysWhatItIsFor(t *testing.T) {
	all := commands()
	if len(all) < 120 {
		t.Fatalf("only %d commands were found", len(all))
	}
	for _, c := range all {
		short := []rune(c.Short)
		if len(short) < 10 || !unicode.IsUpper(short[0]) || strings.HasSuffix(c.Short, ".") {
			t.Errorf("%s says %q", c.CommandPath(), c.Short)
		}
		c.Flags().VisitAll(func(f *pflag.Flag) {
			if len(f.Usage) < 4 || strings.HasSuffix(f.Usage, ".") {
				t.Errorf("%s --%s says %q", c.CommandPath(), f.Name, f.Usage)
			}
		})
		if len(placeholders(c)) > 0 && c.Args == nil && c.RunE != nil && !strings.Contains(c.Use, "|") {
			t.Errorf("%s does not say how many words it takes", c.CommandPath())
		}
	}
}

// missing is a word for each placeholder that names nothing there is.
func missing(t *testing.T, placeholder string) string {
	t.Helper()
	first, _, _ := strings.Cut(placeholder, "|")
	switch first {
	case "RESULT":
		return "R-999999"
	case "RUN":
		return "R-999998"
	case "NUMBER", "NOTE", "TILE", "MARK":
		return "99999"
	case "STATEMENT":
		return "S-99999"
	case "DRAFT":
		return "D-99999"
	case "PARCEL":
		return "P-999999"
	case "FILE", "DIR":
		return filepath.Join(t.TempDir(), "nothing-here")
	case "MOMENT":
		return "2026-10-01T08:00:00Z"
	case "RULE":
		return "FREQ=NEVER"
	case "source":
		return "source"
	case "TEXT", "WORDS":
		return "a word"
	}
	return "no-such-" + strings.ToLower(first)
}

// inside are words that belong inside the program and help nobody.
var inside = regexp.MustCompile(`(?i)panic|goroutine|<nil>|EOF|sql:|unmarshal|status code|\b50[0-9]\b|\{"|%!|` +
	`runtime error`)

// TestWhatIsNotThereIsTold has every command asked for things that there are not: it says so,
// and which, in words.
func TestWhatIsNotThereIsTold(t *testing.T) {
	s := demotest.Start(t)
	adda := as(t, s, "adda")
	for _, c := range commands() {
		needed := placeholders(c)
		switch name := strings.Join(path(c), " "); {
		case len(needed) == 0, name == "login", strings.HasPrefix(name, "completion"),
			name == "groups put", name == "definition files get", name == "backup take",
			name == "audit export", name == "token": // which make what is not there
			continue
		}
		words := path(c)
		for _, n := range needed {
			words = append(words, missing(t, n))
		}
		if c.Flags().Lookup("yes") != nil {
			words = append(words, "--yes")
		}
		got := adda.types(t, words...)
		if got.code != 2 && got.code != 3 {
			t.Errorf("mantilla %s: exit code %d\n%s%s", strings.Join(words, " "), got.code, got.out, got.err)
		}
		if inside.MatchString(got.err) || len(strings.TrimPrefix(got.err, "mantilla: ")) < 12 {
			t.Errorf("mantilla %s says %q", strings.Join(words, " "), got.err)
		}
	}
}

// TestTooFewAndTooManyWords are refused before the service is asked.
func TestTooFewAndTooManyWords(t *testing.T) {
	nowhere := person{service: "http://127.0.0.1:1", token: "t"}
	for _, c := range commands() {
		needed := placeholders(c)
		if len(needed) > 0 && c.RunE != nil && !strings.Contains(c.Use, "|") {
			if got := nowhere.types(t, path(c)...); got.code != 2 {
				t.Errorf("mantilla %s without its words: exit code %d, %s", strings.Join(path(c), " "), got.code, got.err)
			}
		}
		words := append(path(c), "--no-such-option")
		if got := nowhere.types(t, words...); got.code != 2 || !strings.Contains(got.err, "no-such-option") {
			t.Errorf("mantilla %s: exit code %d, %s", strings.Join(words, " "), got.code, got.err)
		}
	}
}

// lists are the commands that take no words: they list, or tell, something.
func lists() (all [][]string) {
	for _, c := range commands() {
		words := path(c)
		if len(placeholders(c)) > 0 || c.RunE == nil || slices.Contains([]string{"login", "logout", "password", "completion",
			"second"},
			words[0]) {
			continue
		}
		all = append(all, words)
	}
	return all
}

// TestWithoutAServiceOrASession tells which of both is missing by the exit code.
func TestWithoutAServiceOrASession(t *testing.T) {
	s := demotest.Start(t)
	free := []string{"functions", "seal keys", "definition", "bundle", "draft begin", "timetable dates"}
	for _, words := range lists() {
		name := strings.Join(words, " ")
		if slices.Contains(free, name) || !runnableAlone(name) {
			continue
		}
		if got := (person{service: "http://127.0.0.1:1", token: "t"}).types(t, words...); got.code != 6 ||
			!strings.Contains(got.err, "127.0.0.1:1") {
			t.Errorf("mantilla %s without a service: exit code %d, %s", name, got.code, got.err)
		}
		if got := (person{service: s.URL}).types(t, words...); got.code != 7 || !strings.Contains(got.err, "sign") {
			t.Errorf("mantilla %s by nobody: exit code %d, %s", name, got.code, got.err)
		}
	}
}

// runnableAlone leaves out what only has others below it, and prints its help.
func runnableAlone(name string) bool {
	words := strings.Fields(name)
	c, _, err := cli.Root("test").Find(words)
	return err == nil && (!c.HasSubCommands() || c.Args != nil)
}

// TestListsAreForProgramsToo reads what every list prints for programs.
func TestListsAreForProgramsToo(t *testing.T) {
	s := demotest.Start(t)
	adda := as(t, s, "adda")
	s.Run(t, "intake-by-origin", nil)
	asTables := 0
	for _, words := range lists() {
		name := strings.Join(words, " ")
		if !runnableAlone(name) {
			continue
		}
		if got := adda.types(t, append(words, "--output", "json")...); got.code == 0 && !json.Valid([]byte(got.out)) {
			t.Errorf("mantilla %s --output json prints\n%s", name, got.out)
		} else if got.code != 0 && got.code != 2 {
			t.Errorf("mantilla %s --output json: exit code %d, %s", name, got.code, got.err)
		}
		got := adda.types(t, append(words, "--output", "csv")...)
		if got.code == 2 {
			continue // it is no table, and says so
		}
		lines, err := csv.NewReader(strings.NewReader(got.out)).ReadAll()
		if got.code != 0 || err != nil {
			t.Errorf("mantilla %s --output csv: exit code %d, %v\n%s%s", name, got.code, err, got.out, got.err)
		}
		if len(lines) > 0 {
			asTables++
		}
	}
	if asTables < 20 {
		t.Errorf("only %d lists are tables", asTables)
	}
	got := adda.types(t, "catalog", "--output", "xml")
	if got.code != 2 || !strings.Contains(got.err, "human, json or csv") {
		t.Errorf("another form: %+v", got)
	}
}

// TestHelpIsForPeople reads the help of the program, which names what people look for first.
func TestHelpIsForPeople(t *testing.T) {
	got := person{}.types(t, "--help")
	for _, want := range []string{"Reports:", "Runs and results:", "For librarians:", "Exit codes: 0 done",
		"mantilla catalog honey"} {
		if !strings.Contains(got.out, want) {
			t.Errorf("the help lacks %q", want)
		}
	}
	if got := (person{}).types(t, "descrbe", "intake-lots"); got.code != 2 || !strings.Contains(got.err, "describe") {
		t.Errorf("a slip: %+v", got)
	}
	if got := (person{}).types(t, "source", "lok"); got.code != 2 || !strings.Contains(got.err, "look") {
		t.Errorf("a slip below: %+v", got)
	}
}
