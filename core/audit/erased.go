package audit

import (
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"regexp"
)

// Erased is what was taken out of a line with somebody: of the fields that named them only their digests
// are left, without the salt, so that nobody can try names; of the others there is the salt that is theirs.
type Erased struct {
	Digests map[string]string `json:"digests"`
	Salts   map[string]string `json:"salts"`
}

// Out is what stands in a field out of which somebody was taken; where it was their name alone, that is
// an alias.
const Out = "(taken out)"

var alias = regexp.MustCompile(`^gone-[a-z0-9]{8}$`)

// NewSalt is a salt for a line.
func NewSalt() string {
	text := make([]byte, 16)
	_, _ = rand.Read(text) // which never fails
	return hex.EncodeToString(text)
}

// field is a field of a line that may name somebody.
type field struct {
	name string
	text *string
}

func (l *Line) naming() []field {
	return []field{{"person", &l.Person}, {"address", &l.Address}, {"id", &l.ID}, {"part", &l.Part},
		{"before", &l.Before}, {"after", &l.After}, {"why", &l.Why}}
}

// committed is the digest of a field with its salt, or what is left of it.
func (l *Line) committed(name, text string) string {
	salt := digest(l.Salt, name)
	if l.Erased != nil {
		if left, is := l.Erased.Digests[name]; is {
			return left
		}
		salt = l.Erased.Salts[name]
	}
	return digest(salt, text)
}

func digest(salt, text string) string {
	sum := sha256.Sum256([]byte(salt + ":" + text))
	return hex.EncodeToString(sum[:])
}

// Without is a line with somebody taken out, who is called by an alias from now on; changed is false
// where it does not name them.
func (l Line) Without(name, title, called string) (out Line, changed bool) {
	gone := Erased{Digests: map[string]string{}, Salts: map[string]string{}}
	out = l
	theirs := l.Person == name
	for _, f := range out.naming() {
		before := l.committed(f.name, *f.text)
		switch {
		case f.name == "person" && theirs, f.name == "id" && *f.text == name:
			*f.text = called
		case f.name == "address" && theirs && *f.text != "", f.name != "person" && f.name != "id" && names(*f.text, name,
			title):
			*f.text = Out
		case l.Erased != nil && l.Erased.Digests[f.name] != "":
		case l.Erased != nil:
			gone.Salts[f.name] = l.Erased.Salts[f.name]
			continue
		default:
			gone.Salts[f.name] = digest(l.Salt, f.name)
			continue
		}
		gone.Digests[f.name] = before
	}
	had := 0
	if l.Erased != nil {
		had = len(l.Erased.Digests)
	}
	if len(gone.Digests) == had {
		return l, false
	}
	out.Salt, out.Erased = "", &gone
	return out, true
}

// names tells whether a text has a name or a title as words of its own.
func names(text, name, title string) bool {
	for _, sought := range []string{name, title} {
		word := `(?i)(^|[^\pL\pN])` + regexp.QuoteMeta(sought) + `($|[^\pL\pN])`
		if sought != "" && regexp.MustCompile(word).MatchString(text) {
			return true
		}
	}
	return false
}

// erasedWell tells whether what was taken out says nothing else instead.
func (l *Line) erasedWell() bool {
	if l.Erased == nil {
		return true
	}
	for _, f := range l.naming() {
		if _, is := l.Erased.Digests[f.name]; is && *f.text != Out && !alias.MatchString(*f.text) {
			return false
		}
	}
	return true
}
