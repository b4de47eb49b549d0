package demo

import (
	"context"
	"errors"
	"fmt"

	"go.yaml.in/yaml/v3"

	"mantilla/library"
	"mantilla/model"
)

// loadShelf takes in the documents and links that are not there yet.
func loadShelf(ctx context.Context, a *library.Access) error {
	text, err := catalog.ReadFile("catalog/shelf/shelf.yaml")
	if err != nil {
		return err
	}
	var all []struct {
		ID, Title, Category, Report, About, Address, File string
	}
	if err := yaml.Unmarshal(text, &all); err != nil {
		return fmt.Errorf("catalog/shelf/shelf.yaml: %w", err)
	}
	for _, r := range all {
		_, err := a.Shelf.Put(ctx, model.Resource{ID: r.ID, Title: r.Title, Category: r.Category, Report: r.Report,
			About: r.About, Address: r.Address}, []model.Opening{{Kind: "everyone"}})
		if errors.Is(err, model.ErrTaken) {
			continue
		}
		if err == nil && r.File != "" {
			var data []byte
			if data, err = catalog.ReadFile("catalog/shelf/" + r.File); err == nil {
				_, err = a.Shelf.AddVersion(ctx, r.ID, r.File, "", data)
			}
		}
		if err != nil {
			return fmt.Errorf("document %s: %w", r.ID, err)
		}
	}
	return nil
}
