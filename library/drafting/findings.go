package drafting

import (
	"context"
	"errors"

	"mantilla/core/definition"
	"mantilla/core/report"
	"mantilla/library/catalog"
)

// Findings are all that can be said of a definition in one round.
type Findings struct {
	Definition  *report.Definition // nil where something is wrong with it
	Faults      definition.Faults
	Warnings    []string
	Effects     []Effect             // on what depends on the report in the catalog
	Differences *catalog.Differences // from the report in the catalog; nil where there is none
}

// Find looks at a definition, and asks its source about it where that is wanted.
func (a *Access) Find(ctx context.Context, text []byte, ask bool) (f Findings, err error) {
	f.Effects = []Effect{}
	if ask {
		f.Definition, err = a.catalog.CheckReport(ctx, text)
		if errors.As(err, &f.Faults) {
			return f, nil
		}
	} else {
		var read *report.Definition
		if read, f.Faults, err = a.catalog.ReadReport(text); len(f.Faults) == 0 {
			f.Definition = read
		}
	}
	if err != nil || f.Definition == nil {
		return f, err
	}
	if f.Warnings, err = a.catalog.Warnings(ctx, f.Definition); err != nil || !ask {
		return f, err
	}
	if f.Effects, err = a.effects(ctx, f.Definition); err != nil {
		return f, err
	}
	if d, ok := a.catalog.ComparePresent(f.Definition); ok {
		f.Differences = &d
	}
	return f, nil
}
