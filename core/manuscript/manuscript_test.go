package manuscript

import (
	"testing"

	"go.yaml.in/yaml/v3"
)

// Another name takes the place of the old one, whatever form that was written in, and of nothing else.
func TestRenamed(t *testing.T) {
	for name, c := range map[string]struct{ text, want string }{
		"in the midst of others": {"about: x\nreport: a\ntitle: A\nsource: coop\n",
			"about: x\nreport: b\ntitle: 'It''s B'\nsource: coop\n"},
		"with comments": {"report: a # id\ntitle: A   # the title\n",
			"report: b # id\ntitle: 'It''s B'   # the title\n"},
		"in quotes with signs": {"title: \"A # 1\" # one\nreport: 'a'\n", "title: 'It''s B' # one\nreport: b\n"},
		"with quotes in the comment": {"title: 'It''s # A' # it's\nreport: a\n",
			"title: 'It''s B' # it's\nreport: b\n"},
		"with quotes within quotes": {"title: \"A \\\" # 1\" # \"one\"\nreport: a\n",
			"title: 'It''s B' # \"one\"\nreport: b\n"},
		"with another's lines": {"title: A\r\nreport: a\r\n", "title: 'It''s B'\r\nreport: b\r\n"},
		"in a folded text": {"report: a\ntitle: >-\n  All\n  of it\n\n  # not said\nsource: coop\n",
			"report: b\ntitle: 'It''s B'\n  # not said\nsource: coop\n"},
		"in a plain text of two lines": {"report: a\ntitle: All\n  of it\nsource: coop\n",
			"report: b\ntitle: 'It''s B'\nsource: coop\n"},
		"where it stands within": {"report: a\ndatasets:\n  title: x\n  report: a\n",
			"report: b\ndatasets:\n  title: x\n  report: a\n"},
		"where nothing can be read": {"report: [\ntitle: A", "report: b\ntitle: 'It''s B'"},
		"without a title":           {"report: a\n", "report: b\n"},
		"nothing":                   {"", ""},
	} {
		t.Run(name, func(t *testing.T) {
			got := Renamed(c.text, "b", "It's B")
			if got != c.want {
				t.Fatalf("it is\n%s and not\n%s", got, c.want)
			}
			var read any
			if err := yaml.Unmarshal([]byte(got), &read); err != nil {
				t.Errorf("it cannot be read: %v", err)
			}
		})
	}
	if got := Renamed("title: A # 1\nreport: a\n", "b", ""); got != "title: A # 1\nreport: b\n" {
		t.Errorf("a title that is to stay became\n%s", got)
	}
	if got := Rebased("source: \"coop\"  # ours\nreport: a\n", "shop"); got != "source: shop  # ours\nreport: a\n" {
		t.Errorf("another source became\n%s", got)
	}
}

// What cannot be read has no head, no source and no shared parameters; nothing fails.
func TestHeadOfWhatCannotBeRead(t *testing.T) {
	for _, text := range []string{"", "report", "report: [", "- report: a", "  report: a",
		"report: {a: b}", "parameters: 3"} {
		if id, title := Head([]byte(text)); id != "" || title != "" {
			t.Errorf("%q has the head %q, %q", text, id, title)
		}
		if SourceOf([]byte(text)) != "" || Uses([]byte(text)) != nil {
			t.Errorf("%q has a source or parameters", text)
		}
	}
	text := []byte("title: 'A: b'\nnonsense\nreport: a # one\nsource: \"coop\"\n")
	if id, title := Head(text); id != "a" || title != "A: b" || SourceOf(text) != "coop" {
		t.Errorf("the head is %q, %q", id, title)
	}
}
