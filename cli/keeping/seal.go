package keeping

import (
	"crypto/ed25519"
	"encoding/base64"
	"fmt"
	"io"
	"net/http"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
	"mantilla/seal"
)

// ProofCommands makes the commands seal export, seal check and seal keys.
func ProofCommands(c *Program) []*cobra.Command {
	return []*cobra.Command{exportCommand(c), checkCommand(c), keysCommand(c)}
}

func exportCommand(c *Program) *cobra.Command {
	var to string
	cmd := &cobra.Command{
		Use:   "export RESULT",
		Short: "Take the proof of a result away: its rows with all that shows them unchanged, signed",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			r, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.ProveResult(cmd.Context(), given[0]) })
			if err != nil {
				return err
			}
			defer r.Body.Close()
			if to == "" {
				to = given[0] + " proof.zip"
			}
			if to == "-" {
				_, err := io.Copy(c.Out, r.Body)
				return err
			}
			if _, err := talk.WriteWhole(to, r.Body); err != nil {
				return fmt.Errorf("writing %s: %w", to, err)
			}
			fmt.Fprintf(c.Err, "%s is written; anybody checks it with: mantilla seal check '%s'\n", to, to)
			return nil
		},
	}
	cmd.Flags().StringVar(&to, "to", "", "file to write, or - for standard output")
	return cmd
}

func checkCommand(c *Program) *cobra.Command {
	var key string
	cmd := &cobra.Command{
		Use:   "check FILE",
		Short: "Check the proof of a result, without any service",
		Long: `Check that nothing in the proof of a result was changed: each file by its digest,
the rows by the seal, and the signature over all of it. No service is called.

With --key the signature must be by one of the keys in a file, one a line, as
mantilla seal keys prints them. Keep that file apart from the proofs.`,
		Example: `  mantilla seal keys > keys.txt
  mantilla seal check 'R-000012 proof.zip' --key keys.txt`,
		Args: talk.Args(cobra.ExactArgs(1)),
		RunE: func(_ *cobra.Command, given []string) error {
			keys, err := readKeys(key)
			if err != nil {
				return err
			}
			found, err := checkFile(given[0], keys)
			if err != nil {
				return err
			}
			return c.tellFound(given[0], found, len(keys) > 0)
		},
	}
	cmd.Flags().StringVar(&key, "key", "", "file of the keys that the service is known to sign with")
	return cmd
}

func checkFile(name string, keys []ed25519.PublicKey) (seal.Found, error) {
	f, err := os.Open(name)
	if err != nil {
		return seal.Found{}, &talk.Coded{Code: talk.ExitNotFound, Text: err.Error()}
	}
	defer f.Close()
	about, err := f.Stat()
	if err != nil {
		return seal.Found{}, err
	}
	found, err := seal.Check(f, about.Size(), keys)
	if err != nil {
		return found, fmt.Errorf("%s: %w", name, err)
	}
	return found, nil
}

// readKeys reads a file of keys; none where there is no file.
func readKeys(file string) (keys []ed25519.PublicKey, err error) {
	if file == "" {
		return nil, nil
	}
	text, err := talk.ReadText(file)
	if err != nil {
		return nil, err
	}
	for i, line := range strings.Split(string(text), "\n") {
		fields := strings.Fields(line)
		if len(fields) == 0 || strings.HasPrefix(fields[0], "#") {
			continue
		}
		key, err := base64.StdEncoding.DecodeString(fields[min(1, len(fields)-1)])
		if err != nil || len(key) != ed25519.PublicKeySize {
			return nil, talk.Usage("--key: line %d of %s is no key; each is an id and the key in base64", i+1, file)
		}
		keys = append(keys, key)
	}
	if len(keys) == 0 {
		return nil, talk.Usage("--key: there is no key in %s", file)
	}
	return keys, nil
}

func (c *Program) tellFound(name string, f seal.Found, pinned bool) error {
	if c.JSON() {
		if err := c.PrintJSON(f); err != nil {
			return err
		}
	} else {
		x := f.Index
		fmt.Fprintf(c.Out, "%s  %s\n%s\nSeal    %s\nRows    %d\n", x.Result, x.Title, x.Sentence, x.Seal, f.Rows)
		for _, says := range f.Stays {
			fmt.Fprintln(c.Out, "       ", says)
		}
		fmt.Fprintf(c.Out, "Signed  by %s with the key %s, %s\n", x.From, f.Key, x.Made.Format("2 January 2006 15:04 MST"))
		for _, s := range f.Index.Signs {
			fmt.Fprintln(c.Out, "Signed off by", s)
		}
		for _, fault := range f.Faults {
			fmt.Fprintln(c.Out, "✗", fault)
		}
	}
	if !f.Good() {
		return &talk.Coded{Code: talk.ExitOther, Text: name + " is not what was signed and sealed"}
	}
	if !c.JSON() {
		fmt.Fprintln(c.Out, "Nothing was changed.")
		if !pinned {
			fmt.Fprintln(c.Err, "· whether the key is the service's own is not checked: compare it with mantilla seal keys, or "+
				"give --key")
		}
	}
	return nil
}

func keysCommand(c *Program) *cobra.Command {
	var renew bool
	cmd := &cobra.Command{
		Use:   "keys",
		Short: "The keys that the service signs proofs with, the present one first",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			if renew {
				if _, err := talk.Fetch[api.SigningKey](c.Program,
					func(a *client.Client) (*http.Response, error) { return a.MakeKey(cmd.Context()) }); err != nil {
					return err
				}
			}
			keys, err := talk.Fetch[[]api.SigningKey](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.ListKeys(cmd.Context()) })
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(keys)
			}
			for _, k := range keys {
				fmt.Fprintf(c.Out, "%s %s since %s\n", k.Id, base64.StdEncoding.EncodeToString(k.Public), c.At(k.MadeAt))
			}
			return nil
		},
	}
	cmd.Flags().BoolVar(&renew, "new", false, "make a new key first; what was signed before stays good")
	return cmd
}
