package cli

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"net/http"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"mantilla/api"
	"mantilla/api/client"
)

// tokens are kept in a file that only the person can read, one for each
// service.
type tokens map[string]string

func tokenFile() (string, error) {
	dir, err := os.UserConfigDir()
	return filepath.Join(dir, "mantilla", "tokens.json"), err
}

func readTokens() (tokens, error) {
	all := tokens{}
	path, err := tokenFile()
	if err != nil {
		return all, err
	}
	text, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		return all, nil
	}
	if err == nil {
		err = json.Unmarshal(text, &all)
	}
	return all, err
}

func (all tokens) write() error {
	path, err := tokenFile()
	if err != nil {
		return err
	}
	text, err := json.MarshalIndent(all, "", "  ")
	if err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return err
	}
	return os.WriteFile(path, text, 0o600)
}

// signed adds the person's token to a request: that of MANTILLA_TOKEN, or the
// one that login kept.
func (c *program) signed(_ context.Context, r *http.Request) error {
	token := os.Getenv("MANTILLA_TOKEN")
	if token == "" {
		all, err := readTokens()
		if err != nil {
			return fmt.Errorf("reading the kept tokens: %w", err)
		}
		token = all[c.service]
	}
	if token != "" {
		r.Header.Set("Authorization", "Bearer "+token)
	}
	return nil
}

func loginCommand(c *program) *cobra.Command {
	var printed bool
	cmd := &cobra.Command{
		Use:   "login NAME",
		Short: "Sign in; the password is asked for, or read from standard input",
		Long: `Sign in for 90 days. The token is kept in a file of your own; with --print it
is printed instead, for MANTILLA_TOKEN. The password is asked for at a terminal
and otherwise read from standard input.`,
		Args: args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			password, err := c.askSecret(cmd, "Password: ")
			if err != nil {
				return err
			}
			host, _ := os.Hostname()
			token, err := fetch[api.Token](c, func(a *client.Client) (*http.Response, error) {
				return a.MakeToken(cmd.Context(), api.SignIn{Name: given[0], Password: password, Label: &host})
			})
			var refused *coded
			if errors.As(err, &refused) {
				refused.text = strings.TrimSuffix(refused.text, "; use mantilla login NAME")
			}
			if err != nil {
				return err
			}
			if printed {
				_, err = fmt.Fprintln(c.out, token.Token)
				return err
			}
			all, err := readTokens()
			if err == nil {
				all[c.service] = token.Token
				err = all.write()
			}
			if err != nil {
				return fmt.Errorf("keeping the token: %w", err)
			}
			fmt.Fprintf(c.out, "Signed in as %s, %s, until %s.\n", token.Who.Title, token.Who.Role, c.at(token.Ends))
			return nil
		},
	}
	cmd.Flags().BoolVar(&printed, "print", false, "print the token and keep nothing")
	return cmd
}

// askSecret asks for a password without showing it, or reads a line.
func (c *program) askSecret(cmd *cobra.Command, prompt string) (string, error) {
	if file, ok := cmd.InOrStdin().(*os.File); ok && term.IsTerminal(int(file.Fd())) {
		fmt.Fprint(c.err, prompt)
		secret, err := term.ReadPassword(int(file.Fd()))
		fmt.Fprintln(c.err)
		return string(secret), err
	}
	lines := bufio.NewReader(cmd.InOrStdin())
	line, err := lines.ReadString('\n')
	if err != nil && line == "" {
		return "", usage("no password is given; write it to standard input")
	}
	return strings.TrimRight(line, "\r\n"), nil
}

func logoutCommand(c *program) *cobra.Command {
	return &cobra.Command{
		Use:   "logout",
		Short: "Sign out; the kept token becomes worthless",
		Args:  args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			r, err := c.send(func(a *client.Client) (*http.Response, error) { return a.SignOut(cmd.Context()) })
			if err == nil {
				r.Body.Close()
			}
			all, readErr := readTokens()
			if readErr == nil {
				delete(all, c.service)
				readErr = all.write()
			}
			if err := errors.Join(err, readErr); err != nil {
				return err
			}
			fmt.Fprintln(c.out, "Signed out.")
			return nil
		},
	}
}

func whoCommand(c *program) *cobra.Command {
	return &cobra.Command{
		Use:   "who",
		Short: "Tell who is signed in",
		Args:  args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			who, err := fetch[api.Who](c, func(a *client.Client) (*http.Response, error) { return a.GetSession(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.json() {
				return c.printJSON(who)
			}
			fmt.Fprintf(c.out, "%s (%s), %s\n", who.Title, who.Name, who.Role)
			if len(who.Groups) > 0 {
				fmt.Fprintf(c.out, "Groups  %s\n", strings.Join(who.Groups, ", "))
			}
			if len(who.Units) > 0 {
				fmt.Fprintf(c.out, "Units   only %s with everything below\n", strings.Join(who.Units, ", "))
			}
			return nil
		},
	}
}

func zoneCommand(c *program) *cobra.Command {
	var none bool
	cmd := &cobra.Command{
		Use:   "zone [ZONE]",
		Short: "Show or set the time zone in which moments are said to you",
		Long: `Show or set the IANA time zone in which moments are said to you: when something
ran, was kept or is due. What is computed, such as the day of a row, stays in the
organisation's zone, so that a figure is the same for everybody.`,
		Example: "  mantilla zone Europe/Lisbon\n  mantilla zone --none",
		Args:    args(cobra.MaximumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			call := func(a *client.Client) (*http.Response, error) { return a.GetSession(cmd.Context()) }
			if none || len(given) > 0 {
				zone := strings.Join(given, "")
				if none && zone != "" {
					return usage("name a zone, or --none for the organisation's")
				}
				call = func(a *client.Client) (*http.Response, error) {
					return a.SetZone(cmd.Context(), api.SetZoneJSONRequestBody{Zone: zone})
				}
			}
			who, err := fetch[api.Who](c, call)
			if err != nil {
				return err
			}
			whose := "the organisation's"
			if who.OwnZone {
				whose = "your own"
			}
			fmt.Fprintf(c.out, "%s, %s\n", who.Zone, whose)
			return nil
		},
	}
	cmd.Flags().BoolVar(&none, "none", false, "the organisation's zone again")
	return cmd
}

func passwordCommand(c *program) *cobra.Command {
	return &cobra.Command{
		Use:   "password",
		Short: "Change your password, which signs you out everywhere",
		Args:  args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			old, err := c.askSecret(cmd, "Present password: ")
			if err != nil {
				return err
			}
			fresh, err := c.askSecret(cmd, "New password: ")
			if err != nil {
				return err
			}
			r, err := c.send(func(a *client.Client) (*http.Response, error) {
				return a.ChangePassword(cmd.Context(), api.NewPassword{Old: old, Password: fresh})
			})
			if err != nil {
				return err
			}
			fmt.Fprintln(c.out, "The password is changed; sign in again.")
			return r.Body.Close()
		},
	}
}
