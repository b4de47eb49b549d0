package ready

import (
	"fmt"
	"net/url"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/nearest"
	"mantilla/core/period"
)

// A path leads to a group: the plain values of the levels with slashes between
// them, escaped as in an address; none stands for no value, blank for the empty
// text, and rest for the groups beyond a limit. The path of all rows is empty.
const (
	None  = "~"
	Blank = "~empty"
	Rest  = "~rest"
)

// Path writes the path of a group by its values.
func Path(values []frame.Value) string {
	parts := make([]string, len(values))
	for i, v := range values {
		parts[i] = Segment(v)
	}
	return strings.Join(parts, "/")
}

// Segment writes the part of a path that stands for a value.
func Segment(v frame.Value) string {
	text := v.String()
	switch {
	case v.Null:
		return None
	case text == "":
		return Blank
	}
	return strings.ReplaceAll(url.PathEscape(text), "~", "%7E")
}

// ChildrenOf returns the groups below a group by the last part of their paths.
func (f *Figures) ChildrenOf(level, group int) map[string]int {
	l := &f.Groups.Levels[level+1]
	out := map[string]int{}
	for child := f.Groups.Levels[level].Children[group]; child < f.Groups.Levels[level].Children[group+1]; child++ {
		out[Segment(l.Keys.Value(l.Field, child))] = child
	}
	return out
}

// written tells whether a part of a path is a group's as [Path] writes it.
func written(part string, v frame.Value) bool { return part == Segment(v) }

// leadsTo tells whether it is as people write it: the value without escapes, or the name of a
// period. What is written as a path leads elsewhere first: ~ is no value, and may be a text.
func leadsTo(part string, v frame.Value) bool {
	return !v.Null && part != "" && (part == v.String() || part == plainValue(v))
}

// Find follows a path to a group.
func (f *Figures) Find(path string) (level, group int, err error) {
	if path == "" {
		return 0, 0, nil
	}
	for part := range strings.SplitSeq(path, "/") {
		if level+1 >= len(f.Groups.Levels) {
			return 0, 0, fmt.Errorf("the path %q has more parts than there are levels of groups", path)
		}
		from, to := f.Groups.Levels[level].Children[group], f.Groups.Levels[level].Children[group+1]
		level++
		l, found := &f.Groups.Levels[level], false
		for _, leads := range []func(string, frame.Value) bool{written, leadsTo} {
			for child := from; child < to && !found; child++ {
				if leads(part, l.Keys.Value(l.Field, child)) {
					group, found = child, true
				}
			}
		}
		if !found {
			var there []string
			for child := from; child < to; child++ {
				if v := l.Keys.Value(l.Field, child); !v.Null {
					there = append(there, plainValue(v))
				}
			}
			return 0, 0, fmt.Errorf("there is no group %q; %s", part, someOf(part, there))
		}
	}
	return level, group, nil
}

// mostOffered is how many groups are named to who typed one that is not there.
const mostOffered = 12

// someOf offers what was probably meant, or the first of what there is.
func someOf(typed string, there []string) string {
	if len(there) > mostOffered && len(nearest.Names(typed, there, 2)) == 0 {
		return fmt.Sprintf("there are %s and %d more", strings.Join(there[:mostOffered], ", "), len(there)-mostOffered)
	}
	return Offer(typed, there)
}

// Keys returns the values of a group and those above it, outermost first.
func (f *Figures) Keys(level, group int) []frame.Value {
	out := make([]frame.Value, level)
	for ; level > 0; level-- {
		l := &f.Groups.Levels[level]
		out[level-1] = l.Keys.Value(l.Field, group)
		group = int(l.Parent[group])
	}
	return out
}

// FilterOf writes the filter that selects a group's rows.
func FilterOf(l Level, v frame.Value) string {
	if v.Null {
		return ask.Wrapped(l.Text) + "="
	}
	column, value := l.Named(v)
	return ask.Wrapped(column) + "=" + value
}

// valueIn writes a value as filters read it.
func valueIn(v frame.Value) string {
	if v.Grain != "" {
		return plainValue(v)
	}
	return ask.Quoted(v.String())
}

// plainValue writes a value as it is typed: a period as 2026-09.
func plainValue(v frame.Value) string {
	if u, ok := period.UnitNamed(v.Grain); ok && v.Grain != "" {
		return period.Period{Unit: u, Range: period.Range{First: period.Day(v.Int())}}.String()
	}
	return v.String()
}

// Path writes the path of a group: the values of its parents and its own.
func (f *Figures) Path(level, group int) string {
	path := ""
	for ; level > 0; level-- {
		l := &f.Groups.Levels[level]
		path = Segment(l.Keys.Value(l.Field, group)) + path
		if group = int(l.Parent[group]); level > 1 {
			path = "/" + path
		}
	}
	return path
}
