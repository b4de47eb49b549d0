package shelf

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"net/url"
	"path"
	"slices"
	"strings"

	"mantilla/core/content"
	"mantilla/core/search"
	"mantilla/library/access"
	"mantilla/model"
)

// Bounds of what is kept.
const (
	MostBytes    = 20 << 20 // of a document
	mostVersions = 200
	longestText  = 1000 // characters of what is said of it
	longestName  = 200
)

// sees tells whether a person sees a document or link.
func (a *Access) sees(r *model.Resource) bool {
	if r.Report == "" {
		return a.Opens(opening(r.ID))
	}
	_, err := a.catalog.Report(r.Report)
	return err == nil
}

// List returns what the person sees: beside a report, where one is named, and of that what a
// search finds, the nearest first.
func (a *Access) List(report, sought string) []model.Resource {
	all, index := a.room.kept()
	hits := index.Find(sought)
	slices.SortStableFunc(hits, func(a, b search.Hit) int { return cmp.Compare(a.Score, b.Score) })
	out := []model.Resource{}
	for _, h := range hits {
		if r := all[h.Doc]; (report == "" || r.Report == report) && a.sees(&r) {
			out = append(out, r)
		}
	}
	return out
}

func (a *Access) seen(id string) (*model.Resource, error) {
	r := a.room.find(id)
	if r == nil || !a.sees(r) {
		var known []string
		for _, other := range a.List("", "") {
			known = append(known, other.ID)
		}
		return nil, model.NoSuch("document or link", id, known)
	}
	return r, nil
}

// Resource returns a document or link with its versions, and to whom it is open for those
// who keep the catalog.
func (a *Access) Resource(ctx context.Context, id string) (r model.Resource, versions []model.ResourceVersion,
	open []model.Opening, err error) {
	found, err := a.seen(id)
	if err != nil {
		return r, nil, nil, err
	}
	if a.Has(access.KeepCatalog) {
		open = a.room.people.Openings(opening(id))
	}
	versions, err = a.room.records.Versions(ctx, id)
	return *found, versions, open, err
}

// Put keeps what is said of a document or link, and to whom one on a shelf is open; nil
// leaves that as it is.
func (a *Access) Put(ctx context.Context, r model.Resource, open []model.Opening) (model.Resource, error) {
	if err := a.May(access.KeepCatalog); err != nil {
		return r, err
	}
	r.Title, r.About, r.Category = strings.TrimSpace(r.Title), strings.TrimSpace(r.About), strings.TrimSpace(r.Category)
	if err := a.check(&r); err != nil {
		return r, err
	}
	if err := a.room.people.CheckOpenings(ctx, open); err != nil {
		return r, err
	}
	if present := a.room.find(r.ID); present != nil && (present.Address == "") != (r.Address == "") && r.Revision > 0 {
		return r, model.Refuse("address", "a document does not become a link, nor a link a document; make another")
	}
	if err := a.room.records.PutResource(ctx, r); err != nil {
		return r, fmt.Errorf("%s: %w", r.ID, err)
	}
	if open != nil {
		if err := a.room.people.SetOpenings(ctx, opening(r.ID), open); err != nil {
			return r, err
		}
	}
	if err := a.room.Reload(ctx); err != nil {
		return r, err
	}
	a.room.log.InfoContext(ctx, "document or link kept", "id", r.ID, "by", a.Person().Name)
	return *a.room.find(r.ID), nil
}

func (a *Access) check(r *model.Resource) error {
	for i, c := range r.ID {
		if c >= 'a' && c <= 'z' || i > 0 && (c == '-' || c >= '0' && c <= '9') {
			continue
		}
		return model.Refuse("id", "%q is no id; use small letters, digits and -, a letter first", r.ID)
	}
	switch {
	case r.ID == "" || len(r.ID) > longestName:
		return model.Refuse("id", "an id has 1 to %d letters", longestName)
	case r.Title == "" || len([]rune(r.Title)) > longestName:
		return model.Refuse("title", "a title has 1 to %d characters", longestName)
	case r.Category == "" || len([]rune(r.Category)) > longestName:
		return model.Refuse("category", "say on which shelf it stands, in 1 to %d characters", longestName)
	case len([]rune(r.About)) > longestText:
		return model.Refuse("about", "what is said of it has more than %d characters", longestText)
	}
	if r.Report != "" {
		if _, err := a.catalog.Report(r.Report); err != nil {
			return model.Refuse("report", "%w", err)
		}
	}
	if r.Address == "" {
		return nil
	}
	u, err := url.Parse(r.Address)
	if err != nil || u.Host == "" || u.Scheme != "https" && u.Scheme != "http" || len(r.Address) > 2000 || u.User != nil {
		return model.Refuse("address", "%q is no address; it begins with https:// or http:// and names no account", r.Address)
	}
	return nil
}

// AddVersion keeps a version of a document. Its content must be what its name says, of a kind
// that carries no program.
func (a *Access) AddVersion(ctx context.Context, id, name, note string, data []byte) (model.ResourceVersion, error) {
	v := model.ResourceVersion{Name: path.Base(strings.ReplaceAll(name, `\`, "/")), Note: strings.TrimSpace(note),
		Bytes: int64(len(data)), At: a.room.org.Now(), By: a.Person().Name}
	if err := a.May(access.KeepCatalog); err != nil {
		return v, err
	}
	r := a.room.find(id)
	switch {
	case r == nil:
		return v, model.NoSuch("document", id, nil)
	case r.Address != "":
		return v, model.Refuse("resource", "%s is a link and has no file", r.Title)
	case len(data) > MostBytes:
		return v, model.Refuse("file", "%s has %d bytes; at most %d are kept", v.Name, len(data), MostBytes)
	case len([]rune(v.Name)) > longestName:
		return v, model.Refuse("name", "the file's name has more than %d characters", longestName)
	case len([]rune(v.Note)) > longestText:
		return v, model.Refuse("note", "the note has more than %d characters", longestText)
	case r.Latest.Number >= mostVersions:
		return v, model.Refuse("resource", "%s has %d versions; make a new document", r.Title, mostVersions)
	}
	var err error
	if v.Type, err = content.Media(v.Name, data); err != nil {
		return v, model.Refuse("file", "%w", err)
	}
	sum := sha256.Sum256(data)
	v.SHA256 = hex.EncodeToString(sum[:])
	if v.SHA256 == r.Latest.SHA256 && v.Name == r.Latest.Name {
		return v, model.Refuse("file", "%s is the latest version already", v.Name)
	}
	if v.Number, err = a.room.records.AddVersion(ctx, id, v, data); err != nil {
		return v, err
	}
	a.room.log.InfoContext(ctx, "version of a document kept", "id", id, "version", v.Number, "by", v.By)
	return v, a.room.Reload(ctx)
}

// File returns the bytes of a version of a document; 0 is the latest.
func (a *Access) File(ctx context.Context, id string, number int) (v model.ResourceVersion, data []byte, err error) {
	r, err := a.seen(id)
	if err != nil {
		return v, nil, err
	}
	if number == 0 {
		number = r.Latest.Number
	}
	versions, err := a.room.records.Versions(ctx, id)
	if err != nil {
		return v, nil, err
	}
	at := slices.IndexFunc(versions, func(v model.ResourceVersion) bool { return v.Number == number })
	if at < 0 {
		return v, nil, model.NoSuch("version", fmt.Sprint(number), nil)
	}
	v = versions[at]
	if data, err = a.room.records.Data(ctx, id, number); err != nil {
		return v, nil, err
	}
	if sum := sha256.Sum256(data); hex.EncodeToString(sum[:]) != v.SHA256 {
		return v, nil, fmt.Errorf("version %d of %s %w", number, id, model.ErrBroken)
	}
	return v, data, nil
}

// Delete deletes a document or link with all its versions.
func (a *Access) Delete(ctx context.Context, id string) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	r := a.room.find(id)
	if r == nil {
		return model.NoSuch("document or link", id, nil)
	}
	thrown := a.Throws(model.ThrownDocument, id, r.Title)
	thrown.Report = r.Report
	remove := func() error { return a.room.records.DeleteResource(ctx, thrown) }
	if r.Address == "" && r.Latest.Number == 0 { // its file was refused: it never was anything
		remove = func() error { return a.room.records.ForgetResource(ctx, id) }
	}
	if err := remove(); err != nil {
		return err
	}
	return a.room.changed(ctx)
}

// PutBack brings a document or link back that was deleted, with all its versions.
func (a *Access) PutBack(ctx context.Context, id string) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	if err := a.room.records.PutBack(ctx, model.ThrownDocument, id); err != nil {
		return err
	}
	return a.room.changed(ctx)
}

// changed reads anew what is kept, and to whom it is open.
func (room *Room) changed(ctx context.Context) error {
	if err := room.people.Reopen(ctx); err != nil {
		return err
	}
	return room.Reload(ctx)
}
