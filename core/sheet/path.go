package sheet

import (
	"fmt"
	"net/url"
	"strings"

	"mantilla/core/frame"
)

// A path leads to a group: the plain values of the levels with slashes between
// them, escaped as in an address; none stands for no value, and rest for the
// groups beyond a limit.
const (
	none = "~"
	rest = "~rest"
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
	if v.Null {
		return none
	}
	return strings.ReplaceAll(url.PathEscape(v.String()), "~", "%7E")
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
			if segment(l.Keys.Value(l.Field, child)) == part {
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
