package paper

import (
	"bytes"
	"errors"
	"slices"
	"testing"

	"mantilla/core/ask"
)

// TestTagsOfATable looks at what of a page belongs to what: every text is read but
// the running head and foot, cells row by row from left to right.
func TestTagsOfATable(t *testing.T) {
	all := pages(t, rows(t, 200, 0, ask.Changes{}), Setting{})
	if len(all) < 3 {
		t.Fatalf("%d pages", len(all))
	}
	for n, p := range all {
		row, unread := 0, 0
		for _, item := range p.Items {
			switch {
			case item.Kind != Text:
				if item.Tag != 0 {
					t.Errorf("page %d: a rule or a ground is read", n+1)
				}
			case item.Tag == 0:
				unread++
			default:
				if tag := p.Tags[item.Tag-1]; tag.Role == Cell || tag.Role == HeadCell {
					if tag.Row < row {
						t.Errorf("page %d: row %d comes after row %d", n+1, tag.Row, row)
					}
					row = tag.Row
				}
			}
		}
		if unread != 4 || row < 10 {
			t.Errorf("page %d: %d texts are read to nobody, %d rows are", n+1, unread, row)
		}
	}
}

// TestStructureIsBounded reads pages beyond the bound as one paragraph each.
func TestStructureIsBounded(t *testing.T) {
	s := newStructure()
	s.most = 20
	tags := []Tag{{Role: Heading}, {Role: HeadCell, Row: 1}, {Role: Cell, Row: 2}, {Role: Cell, Row: 2}}
	kinds := func() (out []string) {
		for _, e := range s.elements {
			out = append(out, e.kind)
		}
		return out
	}
	for range 4 {
		r := s.begin(tags)
		for i := range tags {
			r.mark(i)
		}
	}
	page := []string{"Sect", "H2", "Table", "TR", "TH", "TR", "TD", "TD"}
	if want := slices.Concat([]string{"Document"}, page, page[:0], page, []string{"P", "P"}); !slices.Equal(kinds(),
		want) {
		t.Errorf("got %v", kinds())
	}
	if last := s.elements[len(s.elements)-1]; last.mark != 0 || !slices.Equal(last.more, []int{1, 2, 3}) ||
		last.page != 3 {
		t.Errorf("the last page: %+v", last)
	}
}

// TestAFileThatIsNoneIsRefused gives what adds the structure other bytes than a
// file, and one in pieces.
func TestAFileThatIsNoneIsRefused(t *testing.T) {
	for _, text := range []string{"", "startxref\nx", "startxref\n0\n", "xref\n0 3\nstartxref\n0\n"} {
		if _, err := (&follow{to: &bytes.Buffer{}, structure: newStructure()}).Write([]byte(text)); err == nil {
			t.Errorf("%q was taken", text)
		}
	}
	f := &follow{to: &bytes.Buffer{}, structure: newStructure(), written: true}
	if _, err := f.Write(nil); !errors.Is(err, errPieces) {
		t.Errorf("got %v", err)
	}
}
