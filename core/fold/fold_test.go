package fold

import "testing"

func TestText(t *testing.T) {
	for text, want := range map[string]string{"Éa": "ea", "ASH": "ash", "Müll": "mull", "Østby": "ostby", "": ""} {
		if got := Text(text); got != want {
			t.Errorf("%q: got %q, want %q", text, got, want)
		}
	}
}
