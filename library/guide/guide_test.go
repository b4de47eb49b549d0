package guide_test

import (
	"bytes"
	"strings"
	"testing"

	"mantilla/library/guide"
)

// TestPagesAreFound finds pages by words in them, also such that are written wrong, and gives each whole.
func TestPagesAreFound(t *testing.T) {
	for sought, first := range map[string]string{"": "desk", "timetable": "timetable", "spredsheet": "results",
		"address book": "sending", "criteria": "report", "try without sending": "controls"} {
		found := guide.Pages(sought)
		if len(found) == 0 || found[0].ID != first {
			t.Errorf("%q finds %v", sought, found)
		}
	}
	if found := guide.Pages("zeppelin"); len(found) > 0 {
		t.Errorf("found %v", found)
	}
	for _, p := range guide.Pages("") {
		if p.Title == "" || !strings.HasSuffix(p.Line, ".") || !strings.Contains(p.HTML(), "<p>") ||
			strings.Contains(p.HTML(), p.Line) {
			t.Errorf("%+v", p)
		}
		picture, err := guide.Picture(p.ID)
		if p.Picture != (err == nil) || p.Picture && !bytes.HasPrefix(picture, []byte("\x89PNG")) {
			t.Errorf("the picture of %s: %v", p.ID, err)
		}
	}
	if _, err := guide.Of("deks"); err == nil || !strings.Contains(err.Error(), "did you mean desk?") {
		t.Errorf("a page that is not there: %v", err)
	}
}
