package talk

import (
	"bufio"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"
)

// AskSecret asks for a password without showing it, or reads a line.
func (c *Program) AskSecret(cmd *cobra.Command, prompt string) (string, error) {
	if file, ok := cmd.InOrStdin().(*os.File); ok && term.IsTerminal(int(file.Fd())) {
		fmt.Fprint(c.Err, prompt)
		secret, err := term.ReadPassword(int(file.Fd()))
		fmt.Fprintln(c.Err)
		return string(secret), err
	}
	if c.in == nil {
		c.in = bufio.NewReader(cmd.InOrStdin())
	}
	line, err := c.in.ReadString('\n')
	if err != nil && line == "" {
		return "", Usage("no password is given; write it to standard input")
	}
	return strings.TrimRight(line, "\r\n"), nil
}

// AtTerminal tells whether a person can be asked.
func (c *Program) AtTerminal(cmd *cobra.Command) bool {
	in, ok := cmd.InOrStdin().(*os.File)
	return ok && term.IsTerminal(int(in.Fd())) && WidthOf(c.Err) > 0 && !c.JSON()
}

// Say is where what goes with a table is said: not among lines of CSV.
func (c *Program) Say() io.Writer {
	if c.CSV() {
		return c.Err
	}
	return c.Out
}

// Confirmed asks at a terminal before something is gone for good, or goes into the trash;
// elsewhere --yes must say so.
func (c *Program) Confirmed(cmd *cobra.Command, what, becomes string, yes bool) error {
	if yes {
		return nil
	}
	file, ok := cmd.InOrStdin().(*os.File)
	if !ok || !term.IsTerminal(int(file.Fd())) {
		return Usage("%s %s; repeat with --yes to delete it", what, becomes)
	}
	fmt.Fprintf(c.Err, "%s %s. Delete it? [y/N] ", what, becomes)
	line, err := bufio.NewReader(file).ReadString('\n')
	if answer := strings.ToLower(strings.TrimSpace(line)); err != nil || answer != "y" && answer != "yes" {
		return &Coded{ExitOther, "nothing was deleted"}
	}
	return nil
}
