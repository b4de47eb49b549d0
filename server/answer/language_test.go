package answer

import "testing"

func TestNumbersAreAsTheBrowserAsksForThem(t *testing.T) {
	for accepted, want := range map[string]string{
		"de-DE,de;q=0.9,en;q=0.8": "dot", "en-GB": "comma", "fr": "space", "de-CH": "apostrophe", "cs": "space",
		"": "", "no language": "", "hi-IN": "",
	} {
		if got := NumbersOf(accepted); got != want {
			t.Errorf("%q has numbers written as %q, not %q", accepted, got, want)
		}
	}
}
