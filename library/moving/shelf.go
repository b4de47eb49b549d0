package moving

import (
	"context"
	"fmt"
	"path"

	"mantilla/core/content"
	"mantilla/model"
	"mantilla/store/moving"
)

// resource is a document or link beside a report as it travels; a document's latest file
// lies in the folder documents.
type resource struct {
	ID       string `yaml:"id"`
	Title    string `yaml:"title"`
	About    string `yaml:"about,omitempty"`
	Category string `yaml:"category"`
	Report   string `yaml:"report"`
	Address  string `yaml:"address,omitempty"`
	File     string `yaml:"file,omitempty"` // its name
	SHA256   string `yaml:"sha256,omitempty"`
}

func (r resource) path() string { return path.Join("documents", r.ID, r.File) }

// resources gathers what is kept beside the bundle's reports.
func (m *maker) resources(ctx context.Context) error {
	var out []resource
	for _, report := range m.reports {
		for _, r := range m.a.shelf.List(report, "") {
			own := resource{r.ID, r.Title, r.About, r.Category, r.Report, r.Address, r.Latest.Name, r.Latest.SHA256}
			if r.Latest.Number > 0 {
				_, data, err := m.a.shelf.File(ctx, r.ID, 0)
				if err != nil {
					return err
				}
				m.Files[own.path()] = data
			}
			out = append(out, own)
		}
	}
	if len(out) == 0 {
		return nil
	}
	return m.Put("documents.yaml", out)
}

// resources takes in what there is not here; a document that has another latest version
// gets the bundle's as its next.
func (t *taking) resources(ctx context.Context) error {
	list, err := read[resource](t, "documents.yaml")
	if err != nil {
		return err
	}
	for _, r := range list {
		if err := t.resource(ctx, r); err != nil {
			return err
		}
	}
	return nil
}

func (t *taking) resource(ctx context.Context, r resource) error {
	if t.here[r.Report] == nil {
		t.add("document", r.ID, r.Title, Blocked, "there is no report "+r.Report)
		return nil
	}
	loaded := moving.Resource{Resource: model.Resource{ID: r.ID, Title: r.Title, About: r.About, Category: r.Category,
		Report: r.Report, Address: r.Address}}
	if r.File != "" {
		media, err := content.Media(r.File, t.of.Files[r.path()])
		if err != nil {
			t.add("document", r.ID, r.Title, Blocked, err.Error())
			return nil
		}
		loaded.Data = t.of.Files[r.path()]
		loaded.Latest = model.ResourceVersion{Name: r.File, Type: media, SHA256: moving.DigestOf(loaded.Data),
			Bytes: int64(len(loaded.Data)), At: t.a.room.org.Now(), By: t.a.Person().Name, Note: "taken in from " + t.of.From}
	}
	here, _, _, err := t.a.shelf.Resource(ctx, r.ID)
	switch {
	case err != nil:
		loaded.New = true
		t.add("document", r.ID, r.Title, New)
	case here.Report != r.Report:
		t.add("document", r.ID, r.Title, Left, fmt.Sprintf("here it is kept beside %q", here.Report))
		return nil
	case here.Latest.SHA256 == loaded.Latest.SHA256 && here.Address == r.Address:
		t.add("document", r.ID, r.Title, Same)
		return nil
	case r.File == "" || here.Address != "":
		t.add("document", r.ID, r.Title, Left, "here it leads elsewhere")
		return nil
	default:
		t.add("document", r.ID, r.Title, Changed, fmt.Sprintf("it becomes version %d", here.Latest.Number+1))
	}
	t.load.Resources = append(t.load.Resources, loaded)
	return nil
}
