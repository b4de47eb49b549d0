package moving

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
	"mantilla/core/definition"
	"mantilla/core/manuscript"
)

// FilesCommand makes the command definition files: the catalog as files, for version control.
func FilesCommand(c *Program) *cobra.Command {
	cmd := &cobra.Command{Use: "files", Short: "Keep the definitions of the catalog as files, for version control"}
	get := &cobra.Command{
		Use:   "get DIR",
		Short: "Write every definition and the shared parameters into a folder",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE:  func(cmd *cobra.Command, given []string) error { return c.getFiles(cmd.Context(), given[0]) },
	}
	var dry bool
	var note string
	put := &cobra.Command{
		Use:   "put DIR",
		Short: "Take into the catalog what is another in a folder: all that changed, or nothing",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			return c.putFiles(cmd.Context(), given[0], dry, note)
		},
	}
	put.Flags().BoolVar(&dry, "dry", false, "only tell what would change")
	put.Flags().StringVar(&note, "note", "", "why; it stands beside the versions")
	check := &cobra.Command{
		Use:   "check DIR",
		Short: "Check every definition in a folder without a service, but for SQL",
		Args:  talk.Args(cobra.ExactArgs(1)),
		RunE:  func(_ *cobra.Command, given []string) error { return c.checkFiles(given[0]) },
	}
	cmd.AddCommand(get, put, check)
	return cmd
}

// sharedFile is where the shared parameters stand in a folder.
const sharedFile = "parameters.yaml"

func (c *Program) getFiles(ctx context.Context, dir string) error {
	catalog, err := talk.Fetch[api.Catalog](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.GetCatalog(ctx, &api.GetCatalogParams{})
	})
	if err != nil {
		return err
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	write := func(name string, call func(*client.Client) (*http.Response, error)) error {
		r, err := c.Send(call)
		if err != nil {
			return err
		}
		defer r.Body.Close()
		_, err = talk.WriteWhole(filepath.Join(dir, name), r.Body)
		return err
	}
	if err := write(sharedFile, func(a *client.Client) (*http.Response, error) { return a.GetShared(ctx) }); err != nil {
		return err
	}
	written := 0
	for _, r := range catalog.Reports {
		if r.Broken != nil {
			fmt.Fprintf(c.Err, "%s cannot be read by the service and is left out\n", r.Id)
			continue
		}
		err := write(r.Id+".yaml", func(a *client.Client) (*http.Response, error) { return a.GetDefinition(ctx, r.Id) })
		if err != nil {
			return err
		}
		written++
	}
	fmt.Fprintf(c.Out, "%s has %d definitions and the shared parameters.\n", dir, written)
	return nil
}

// file is a definition in a folder.
type file struct {
	path, id string
	text     []byte
}

// readFiles reads the definitions of a folder, by name, and its shared parameters, nil
// where there are none.
func readFiles(dir string) (files []file, shared []byte, err error) {
	paths, err := filepath.Glob(filepath.Join(dir, "*.yaml"))
	if err != nil || len(paths) == 0 {
		return nil, nil, &talk.Coded{Code: talk.ExitInput, Text: fmt.Sprintf("there are no definitions (*.yaml) in %s", dir)}
	}
	for _, path := range paths {
		text, err := os.ReadFile(path)
		if err != nil {
			return nil, nil, err
		}
		if filepath.Base(path) == sharedFile {
			shared = text
			continue
		}
		id, _ := manuscript.Head(text)
		if id == "" {
			id = strings.TrimSuffix(filepath.Base(path), ".yaml") // what is wrong is told when it is checked
		}
		files = append(files, file{path, id, text})
	}
	return files, shared, nil
}

// checkFiles tells the faults of all files at once.
func (c *Program) checkFiles(dir string) error {
	files, text, err := readFiles(dir)
	if err != nil {
		return err
	}
	var wrong []string
	shared, faults := definition.ParseShared(text)
	for _, f := range faults {
		wrong = append(wrong, fmt.Sprintf("%s: %v", filepath.Join(dir, sharedFile), f))
	}
	for _, f := range files {
		_, faults := definition.Parse(f.text, definition.Defaults{Currency: "EUR", Shared: shared})
		for _, fault := range faults {
			wrong = append(wrong, fmt.Sprintf("%s: %v", f.path, fault))
		}
	}
	if len(wrong) > 0 {
		return &talk.Coded{Code: talk.ExitInput, Text: "the definitions are not right\n" + strings.Join(wrong, "\n")}
	}
	fmt.Fprintf(c.Out, "%d definitions are right, as far as can be told without their sources.\n", len(files))
	return nil
}

// putFiles checks everything that is another than in the catalog before it changes
// anything.
func (c *Program) putFiles(ctx context.Context, dir string, dry bool, note string) error {
	files, _, err := readFiles(dir)
	if err != nil {
		return err
	}
	var changed []file
	versions := map[string]string{}
	var wrong []string
	for _, f := range files {
		found, err := talk.Fetch[api.Findings](c.Program, func(a *client.Client) (*http.Response, error) {
			return a.FindFaultsWithBody(ctx, &api.FindFaultsParams{}, talk.YAMLType, bytes.NewReader(f.text))
		})
		if err != nil {
			return err
		}
		for _, fault := range found.Faults {
			wrong = append(wrong, fmt.Sprintf("%s: line %d, column %d: %s", f.path, fault.Line, fault.Column, fault.Message))
		}
		if len(found.Faults) > 0 || found.Changes != nil && len(*found.Changes) == 0 {
			continue
		}
		changed = append(changed, f)
		c.tellChange(f, found)
		if found.Changes != nil {
			r, err := talk.Fetch[api.Report](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.GetReport(ctx, f.id) })
			if err != nil {
				return err
			}
			versions[f.id] = r.Version
		}
	}
	if len(wrong) > 0 {
		return &talk.Coded{Code: talk.ExitInput, Text: "nothing was changed, since some definitions are not right\n" +
			strings.Join(wrong, "\n")}
	}
	if dry || len(changed) == 0 {
		fmt.Fprintf(c.Out, "%d of %d definitions are another than in the catalog.\n", len(changed), len(files))
		return nil
	}
	return c.putChanged(ctx, changed, versions, note)
}

func (c *Program) tellChange(f file, found api.Findings) {
	if found.Changes == nil {
		fmt.Fprintf(c.Out, "new      %s\n", f.id)
	} else {
		fmt.Fprintf(c.Out, "changed  %s: %s\n", f.id, strings.Join(*found.Changes, "; "))
	}
	for _, e := range found.Effects {
		if len(e.Unfit) > 0 {
			fmt.Fprintf(c.Out, "         %s %s of %s would no longer fit: %s\n", e.Kind, e.Name, talk.Deref(e.Owner),
				strings.Join(e.Unfit, "; "))
		}
	}
}

func (c *Program) putChanged(ctx context.Context, changed []file, versions map[string]string, note string) error {
	var done []string
	for _, f := range changed {
		params := &api.PutDefinitionParams{}
		if was, ok := versions[f.id]; ok {
			params.IfMatch = &was
		}
		if note != "" {
			params.Note = &note
		}
		_, err := talk.Fetch[api.Report](c.Program, func(a *client.Client) (*http.Response, error) {
			return a.PutDefinitionWithBody(ctx, f.id, params, talk.YAMLType, bytes.NewReader(f.text))
		})
		if err != nil {
			return fmt.Errorf("%s was not taken in; before it, %s: %w", f.path, before(done), err)
		}
		done = append(done, f.id)
	}
	fmt.Fprintf(c.Out, "%d definitions are in the catalog.\n", len(done))
	return nil
}

func before(done []string) string {
	if len(done) == 0 {
		return "nothing was"
	}
	slices.Sort(done)
	return strings.Join(done, ", ")
}
