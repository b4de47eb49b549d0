package sqlite

import (
	"strings"
	"testing"

	"mantilla/source"
)

func TestLargeListsAreDeclaredSoundly(t *testing.T) {
	for list, want := range map[string]string{
		"large: true, parent: p":                        "as a tree, which is read whole",
		"search: 'name = :text'":                        "which is of lists that are large: true",
		"large: true, search: name = 1":                 "does not speak of :text",
		"large: true, search: 'name = :text', scope: s": "",
	} {
		_, err := source.ParseConfig([]byte("source: s\nkind: sqlite\nfile: x.db\nlists:\n" +
			"  l: {from: t, code: c, label: n, " + list + "}\n"))
		if want == "" && err != nil || want != "" && (err == nil || !strings.Contains(err.Error(), want)) {
			t.Errorf("%s is answered by %v", list, err)
		}
	}
}
