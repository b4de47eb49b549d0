// Package revision tells how two versions of a report differ: in words, part by part,
// and as text.
package revision

import (
	"fmt"
	"reflect"
	"slices"
	"strings"

	"github.com/aymanbagabas/go-udiff"

	"mantilla/core/param"
	"mantilla/core/report"
)

// Text compares two texts line by line, in the unified form; "" where they are alike.
func Text(was, is string) string {
	return udiff.Unified("was", "is", was, is)
}

// Words tells what is another in a version than in the one before it, in the order of
// a definition; none where nothing that means anything changed.
func Words(was, is *report.Definition) []string {
	var w words
	w.head(was, is)
	w.parameters(was, is)
	each(&w, "dataset", datasetsOf(was), datasetsOf(is), func(id string, was, is *report.Dataset) {
		w.dataset(id, was, is)
	})
	each(&w, "view", viewsOf(was), viewsOf(is), w.view)
	w.order("views", ids(viewsOf(was)), ids(viewsOf(is)))
	w.texts("the page", was.Page, is.Page)
	if !reflect.DeepEqual(was.Notes, is.Notes) {
		w.say("the notes")
	}
	if !reflect.DeepEqual(was.Imports, is.Imports) {
		w.say("the import files")
	}
	w.checks(was, is)
	if was.Limits != is.Limits {
		w.say("the limits of a run")
	}
	return w.list
}

// words gathers what changed.
type words struct{ list []string }

func (w *words) add(format string, args ...any) {
	w.list = append(w.list, fmt.Sprintf(format, args...))
}

func (w *words) say(what string) { w.add("%s changed", what) }

// text tells of a text that is another.
func (w *words) text(what, was, is string) {
	switch {
	case was == is:
	case was == "":
		w.add("%s is now %q", what, is)
	case is == "":
		w.add("%s is gone; it was %q", what, was)
	case len(was) > 60 || len(is) > 60:
		w.say(what)
	default:
		w.add("%s was %q and is %q", what, was, is)
	}
}

func (w *words) texts(what string, was, is []string) {
	if !slices.Equal(was, is) {
		w.text(what, strings.Join(was, ", "), strings.Join(is, ", "))
	}
}

// flag tells of something that holds now, or no longer.
func (w *words) flag(what, now string, was, is bool) {
	switch {
	case is && !was:
		w.add("%s %s now", what, now)
	case was && !is:
		w.add("%s no longer %s", what, now)
	}
}

// order tells that the same things stand in another order.
func (w *words) order(what string, was, is []string) {
	both := func(list, other []string) (out []string) {
		for _, id := range list {
			if slices.Contains(other, id) {
				out = append(out, id)
			}
		}
		return out
	}
	if !slices.Equal(both(was, is), both(is, was)) {
		w.add("the %s stand in another order", what)
	}
}

// named is a part of a definition with its id.
type named[T any] struct {
	id string
	of *T
}

func ids[T any](list []named[T]) (out []string) {
	for _, n := range list {
		out = append(out, n.id)
	}
	return out
}

// each tells what came, what went, and what of the rest changed. A part that went and
// one that came with the same content elsewhere was renamed.
func each[T any](w *words, what string, was, is []named[T], compare func(id string, was, is *T)) {
	find := func(list []named[T], id string) *T {
		for _, n := range list {
			if n.id == id {
				return n.of
			}
		}
		return nil
	}
	for _, n := range was {
		if find(is, n.id) == nil {
			w.add("%s %s is gone", what, n.id)
		}
	}
	for _, n := range is {
		before := find(was, n.id)
		if before == nil {
			w.add("%s %s is new", what, n.id)
			continue
		}
		compare(n.id, before, n.of)
	}
}

func (w *words) head(was, is *report.Definition) {
	w.text("the title", was.Title, is.Title)
	w.text("the category", was.Category, is.Category)
	w.text("the depth", was.Depth, is.Depth)
	w.flag("the report", "asks what it is read for", was.AsksPurpose, is.AsksPurpose)
	w.text("who may follow links to it", was.Follow, is.Follow)
	w.texts("the companions", was.Companions, is.Companions)
	w.text("what it is about", was.About, is.About)
	w.text("the guide", was.Guide, is.Guide)
	w.text("the source", was.Source, is.Source)
}

func parametersOf(d *report.Definition) (out []named[param.Parameter]) {
	for i := range d.Parameters {
		out = append(out, named[param.Parameter]{d.Parameters[i].ID, &d.Parameters[i]})
	}
	return out
}

func datasetsOf(d *report.Definition) (out []named[report.Dataset]) {
	for i := range d.Datasets {
		out = append(out, named[report.Dataset]{d.Datasets[i].ID, &d.Datasets[i]})
	}
	return out
}

func columnsOf(d *report.Dataset) (out []named[report.Column]) {
	for i := range d.Columns {
		out = append(out, named[report.Column]{d.Columns[i].ID, &d.Columns[i]})
	}
	return out
}

func viewsOf(d *report.Definition) (out []named[report.View]) {
	for i := range d.Views {
		out = append(out, named[report.View]{d.Views[i].ID, &d.Views[i]})
	}
	return out
}
