package sheet

import (
	"fmt"
	"net/url"
	"strings"

	"mantilla/core/frame"
)

// A path leads to a group: the plain values of the levels with slashes between
// them, escaped as in an address; none stands for no value, blank for the empty
// text, and rest for the groups beyond a limit. The path of all rows is empty.
const (
	none  = "~"
	blank = "~empty"
	rest  = "~rest"
)

// Path writes the path of a group by its values.
func Path(values []frame.Value) string {
	parts := make([]string, len(values))
	for i, v := range values {
		parts[i] = segment(v)
	}
	return strings.Join(parts, "/")
}

func segment(v frame.Value) string {
	text := v.String()
	switch {
	case v.Null:
		return none
	case text == "":
		return blank
	}
	return strings.ReplaceAll(url.PathEscape(text), "~", "%7E")
}

// childrenOf returns the groups below a group by the last part of their paths.
func (f *figures) childrenOf(level, group int) map[string]int {
	l := &f.groups.Levels[level+1]
	out := map[string]int{}
	for child := f.groups.Levels[level].Children[group]; child < f.groups.Levels[level].Children[group+1]; child++ {
		out[segment(l.Keys.Value(l.Field, child))] = child
	}
	return out
}

// leadsTo tells whether a part of a path is a group's: as [Path] writes it, or
// as people do, the value without escapes or the name of a period.
func leadsTo(part string, v frame.Value) bool {
	if part == segment(v) {
		return true
	}
	return !v.Null && part != "" && (part == v.String() || part == plainValue(v))
}

// find follows a path to a group.
func (f *figures) find(path string) (level, group int, err error) {
	if path == "" {
		return 0, 0, nil
	}
	for part := range strings.SplitSeq(path, "/") {
		if level+1 >= len(f.groups.Levels) {
			return 0, 0, fmt.Errorf("the path %q has more parts than there are levels of groups", path)
		}
		from, to := f.groups.Levels[level].Children[group], f.groups.Levels[level].Children[group+1]
		level++
		l, found := &f.groups.Levels[level], false
		for child := from; child < to; child++ {
			if leadsTo(part, l.Keys.Value(l.Field, child)) {
				group, found = child, true
				break
			}
		}
		if !found {
			return 0, 0, fmt.Errorf("there is no group %q at %q", part, path)
		}
	}
	return level, group, nil
}
