package people

import (
	"errors"
	"fmt"
	"net/http"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// LoginCommand makes the command login: sign in; the password is asked for, or read from standard input.
func LoginCommand(c *Program) *cobra.Command {
	var printed, byToken bool
	cmd := &cobra.Command{
		Use:   "login NAME",
		Short: "Sign in; the password is asked for, or read from standard input",
		Long: `Sign in for 90 days. The token is kept in a file of your own; with --print it
is printed instead, for MANTILLA_TOKEN. The password is asked for at a terminal
and otherwise read from standard input.

Who signs in by a provider makes a token in the console (in the menu with one's name) and
gives that instead: mantilla login --token.`,
		Args: talk.Args(cobra.MaximumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			if byToken {
				return c.takeToken(cmd)
			}
			if len(given) == 0 {
				return talk.Usage("accepts 1 arg, the name to sign in with; see mantilla login --help")
			}
			password, err := c.AskSecret(cmd, "Password: ")
			if err != nil {
				return err
			}
			host, _ := os.Hostname()
			sign := func(code *string) (api.Token, error) {
				return talk.Fetch[api.Token](c.Program, func(a *client.Client) (*http.Response, error) {
					return a.MakeToken(cmd.Context(), api.SignIn{Name: given[0], Password: password, Code: code, Label: &host})
				})
			}
			token, err := sign(nil)
			if err != nil && strings.Contains(err.Error(), "has a second factor") {
				code, asked := c.AskSecret(cmd, "Code: ")
				if asked != nil {
					return asked
				}
				token, err = sign(&code)
			}
			var refused *talk.Coded
			if errors.As(err, &refused) {
				refused.Text = strings.TrimSuffix(refused.Text, "; use mantilla login NAME")
			}
			if err != nil {
				return err
			}
			if printed {
				_, err = fmt.Fprintln(c.Out, token.Token)
				return err
			}
			all, err := talk.ReadTokens()
			if err == nil {
				all[c.Service] = token.Token
				err = all.Write()
			}
			if err != nil {
				return fmt.Errorf("keeping the token: %w", err)
			}
			fmt.Fprintf(c.Out, "Signed in as %s, %s, until %s.\n", token.Who.Title, token.Who.Role, c.At(token.Ends))
			return nil
		},
	}
	cmd.Flags().BoolVar(&printed, "print", false, "print the token and keep nothing")
	cmd.Flags().BoolVar(&byToken, "token", false, "ask for a token, or read it from standard input, and keep that")
	return cmd
}

// takeToken keeps a token that was made elsewhere, once the service knows whose it is.
func (c *Program) takeToken(cmd *cobra.Command) error {
	token, err := c.AskSecret(cmd, "Token: ")
	if err != nil {
		return err
	}
	all, err := talk.ReadTokens()
	if err != nil {
		return fmt.Errorf("reading the kept tokens: %w", err)
	}
	before := all[c.Service]
	all[c.Service] = token
	if err := all.Write(); err != nil {
		return fmt.Errorf("keeping the token: %w", err)
	}
	who, err := talk.Fetch[api.Who](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.GetSession(cmd.Context()) })
	if err != nil { // it is no token, and the one before stays
		if all[c.Service] = before; before == "" {
			delete(all, c.Service)
		}
		return errors.Join(err, all.Write())
	}
	fmt.Fprintf(c.Out, "Signed in as %s, %s.\n", who.Title, who.Role)
	return nil
}

// LogoutCommand makes the command logout: sign out; the kept token becomes worthless.
func LogoutCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "logout",
		Short: "Sign out; the kept token becomes worthless",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			r, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.SignOut(cmd.Context()) })
			if err == nil {
				r.Body.Close()
			}
			all, readErr := talk.ReadTokens()
			if readErr == nil {
				delete(all, c.Service)
				readErr = all.Write()
			}
			if err := errors.Join(err, readErr); err != nil {
				return err
			}
			fmt.Fprintln(c.Out, "Signed out.")
			return nil
		},
	}
}

// WhoCommand makes the command who: tell who is signed in.
func WhoCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "who",
		Short: "Tell who is signed in",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			who, err := talk.Fetch[api.Who](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.GetSession(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(who)
			}
			fmt.Fprintf(c.Out, "%s (%s), %s\n", who.Title, who.Name, who.Role)
			if len(who.Groups) > 0 {
				fmt.Fprintf(c.Out, "Groups  %s\n", strings.Join(who.Groups, ", "))
			}
			if len(who.Units) > 0 {
				fmt.Fprintf(c.Out, "Units   only %s with everything below\n", strings.Join(who.Units, ", "))
			}
			return nil
		},
	}
}

// ZoneCommand makes the command zone: show or set the time zone in which moments are said to you.
func ZoneCommand(c *Program) *cobra.Command {
	var none bool
	cmd := &cobra.Command{
		Use:   "zone [ZONE]",
		Short: "Show or set the time zone in which moments are said to you",
		Long: `Show or set the IANA time zone in which moments are said to you: when something
ran, was kept or is due. What is computed, such as the day of a row, stays in the
organisation's zone, so that a figure is the same for everybody.`,
		Example: "  mantilla zone Europe/Lisbon\n  mantilla zone --none",
		Args:    talk.Args(cobra.MaximumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			call := func(a *client.Client) (*http.Response, error) { return a.GetSession(cmd.Context()) }
			if none || len(given) > 0 {
				zone := strings.Join(given, "")
				if none && zone != "" {
					return talk.Usage("name a zone, or --none for the organisation's")
				}
				call = func(a *client.Client) (*http.Response, error) {
					return a.SetZone(cmd.Context(), api.SetZoneJSONRequestBody{Zone: zone})
				}
			}
			who, err := talk.Fetch[api.Who](c.Program, call)
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(who)
			}
			whose := "the organisation's"
			if who.OwnZone {
				whose = "your own"
			}
			fmt.Fprintf(c.Out, "%s, %s\n", who.Zone, whose)
			return nil
		},
	}
	cmd.Flags().BoolVar(&none, "none", false, "the organisation's zone again")
	return cmd
}

// PasswordCommand makes the command password: change your password, which signs you out everywhere.
func PasswordCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "password",
		Short: "Change your password, which signs you out everywhere",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			old, err := c.AskSecret(cmd, "Present password: ")
			if err != nil {
				return err
			}
			fresh, err := c.AskSecret(cmd, "New password: ")
			if err != nil {
				return err
			}
			r, err := c.Send(func(a *client.Client) (*http.Response, error) {
				return a.ChangePassword(cmd.Context(), api.NewPassword{Old: old, Password: fresh})
			})
			if err != nil {
				return err
			}
			fmt.Fprintln(c.Out, "The password is changed; sign in again.")
			return r.Body.Close()
		},
	}
}
