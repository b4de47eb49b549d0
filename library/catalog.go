package library

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/nearest"
	"mantilla/core/param"
	"mantilla/core/report"
	"mantilla/source"
	"mantilla/store"
)

// Entry is a report as the catalog lists it.
type Entry struct {
	*report.Definition
	Used *store.Use // its last good run, nil when there was none
}

// Category is a category of the catalog with how many reports stand in it.
type Category struct {
	Name  string
	Count int
}

// Catalog lists the reports that meet a search, in a category when one is
// named, and counts those that meet the search in each category. A search
// forgives typing: every word of it must be near a word of the report. Without
// one, reports stand by category and title; with one, the best come first.
func (l *Library) Catalog(ctx context.Context, search, category string) (entries []Entry, categories []Category, err error) {
	uses, err := l.store.Uses(ctx)
	if err != nil {
		return nil, nil, fmt.Errorf("reading the catalog: %w", err)
	}
	counts, scores := map[string]int{}, map[string]int{}
	l.mu.RLock()
	for id, d := range l.catalog {
		score, ok := likeness(d, search)
		if _, known := counts[d.Category]; !known {
			counts[d.Category] = 0
		}
		if !ok {
			continue
		}
		counts[d.Category]++
		if category != "" && frame.Fold(category) != frame.Fold(d.Category) {
			continue
		}
		e := Entry{Definition: d}
		if u, ok := uses[id]; ok {
			e.Used = &u
		}
		entries, scores[id] = append(entries, e), score
	}
	l.mu.RUnlock()
	slices.SortFunc(entries, func(a, b Entry) int {
		return cmp.Or(cmp.Compare(scores[a.ID], scores[b.ID]), strings.Compare(a.Category, b.Category),
			depths[a.Depth]-depths[b.Depth], strings.Compare(a.Title, b.Title))
	})
	for name, n := range counts {
		categories = append(categories, Category{name, n})
	}
	slices.SortFunc(categories, func(a, b Category) int { return strings.Compare(a.Name, b.Name) })
	return entries, categories, nil
}

var depths = map[string]int{"overview": 0, "breakdown": 1, "lines": 2}

// likeness scores how well a report meets a search, less being better; ok is
// false when some word is near none of the report's.
func likeness(d *report.Definition, search string) (score int, ok bool) {
	title := strings.Fields(frame.Fold(d.Title + " " + strings.ReplaceAll(d.ID, "-", " ")))
	rest := strings.Fields(frame.Fold(d.Category + " " + d.Depth + " " + d.About))
	for _, word := range strings.Fields(frame.Fold(search)) {
		best := min(closest(word, title), 2+closest(word, rest))
		if best > 2+1+nearest.Slips(word) {
			return 0, false
		}
		score += best
	}
	return score, true
}

func closest(word string, among []string) int {
	best := 1000
	for _, w := range among {
		d := nearest.Distance(word, strings.Trim(w, ".,;:()"))
		if d > 1 && d-1 > nearest.Slips(word) {
			continue // not a slip of the finger but another word
		}
		best = min(best, d)
	}
	return best
}

// Report returns the present version of a report.
func (l *Library) Report(id string) (*report.Definition, error) {
	l.mu.RLock()
	defer l.mu.RUnlock()
	if d, ok := l.catalog[id]; ok {
		return d, nil
	}
	return nil, missing("report", id, keysOf(l.catalog))
}

// Versions returns the versions that a report had, the newest first.
func (l *Library) Versions(ctx context.Context, id string) ([]store.Version, error) {
	return l.store.Versions(ctx, id)
}

// version returns any version of a report that the catalog ever held.
func (l *Library) version(ctx context.Context, id, version string) (*report.Definition, error) {
	l.mu.RLock()
	d := l.versions[id+"/"+version]
	l.mu.RUnlock()
	if d != nil {
		return d, nil
	}
	text, err := l.store.ReportText(ctx, id, version)
	if err != nil {
		return nil, fmt.Errorf("version %.12s of report %s: %w", version, id, err)
	}
	d, faults := report.Parse([]byte(text), l.defaults())
	if faults != nil {
		return nil, fmt.Errorf("version %.12s of report %s: %w", version, id, faults)
	}
	l.mu.Lock()
	l.versions[id+"/"+version] = d
	l.mu.Unlock()
	return d, nil
}

// CheckReport reads a definition and checks it against its source. When it is
// not right, the error is a [report.Faults] that lists all that is wrong.
func (l *Library) CheckReport(ctx context.Context, text []byte) (*report.Definition, error) {
	d, faults := report.Parse(text, l.defaults())
	if faults != nil {
		return nil, faults
	}
	src, err := l.source(d.Source)
	if err != nil {
		return nil, report.Faults{{Line: 1, Column: 1, Message: err.Error()}}
	}
	if err := l.checkSource(ctx, d, src); err != nil {
		return nil, err
	}
	return d, nil
}

// checkSource looks whether lists exist, defaults resolve and the source
// understands every query, both with no values and with all defaults.
func (l *Library) checkSource(ctx context.Context, d *report.Definition, src source.Source) error {
	var faults report.Faults
	for _, p := range d.Parameters {
		if p.From == "" {
			continue
		}
		if _, err := src.Entries(ctx, p.From, source.Wish{Limit: 1}); err != nil {
			faults = append(faults, at(d, p.ID, fmt.Sprintf("parameter %s: %v", p.ID, err)))
		}
	}
	if faults != nil {
		return faults
	}
	values, wrong, err := param.Resolve(ctx, d.Parameters, nil, l.setting(src))
	if err != nil {
		return err
	}
	for _, f := range wrong {
		if p := d.Parameter(f.Parameter); p != nil && p.Default == "" {
			continue // a required parameter without a default is for the person to fill in
		}
		faults = append(faults, at(d, f.Parameter, fmt.Sprintf("the default of parameter %s: %s", f.Parameter, f.Message)))
	}
	if faults != nil {
		return faults
	}
	queries, err := d.PlanAll(values)
	if err != nil {
		return err
	}
	for _, q := range queries {
		if err := src.Prepare(ctx, q); errors.Is(err, source.ErrMissing) || errors.Is(err, source.ErrLocked) {
			return err
		} else if err != nil {
			faults = append(faults, report.Fault{Line: q.Dataset.From.Line, Column: q.Dataset.From.Col,
				Message: fmt.Sprintf("dataset %s: the source does not accept its SQL: %v", q.Dataset.ID, err)})
		}
	}
	if faults != nil {
		return faults
	}
	return nil
}

// at places a fault at a parameter's first line.
func at(d *report.Definition, parameter, message string) report.Fault {
	return report.Fault{Line: max(d.ParameterLine(parameter), 1), Column: 1, Message: message}
}

// PutReport checks a definition and makes it the present version of its
// report. Was is the version seen before; see [store.Store.PutReport].
func (l *Library) PutReport(ctx context.Context, text []byte, was string) (*report.Definition, error) {
	d, err := l.CheckReport(ctx, text)
	if err != nil {
		return nil, err
	}
	kept := store.Report{ID: d.ID, Title: d.Title, Category: d.Category, Version: d.Version, Text: d.Text}
	if err := l.store.PutReport(ctx, kept, was, l.settings.Now()); err != nil {
		return nil, fmt.Errorf("report %s: %w", d.ID, err)
	}
	l.remember(d)
	l.log.Info("report taken into the catalog", "report", d.ID, "version", d.Version[:12])
	return d, nil
}
