package content_test

import (
	"archive/zip"
	"bytes"
	"strings"
	"testing"

	"mantilla/core/content"
)

// pack makes a ZIP of files with their names and contents in turn.
func pack(t *testing.T, files ...string) string {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for i := 0; i < len(files); i += 2 {
		f, err := z.Create(files[i])
		if err == nil {
			_, err = f.Write([]byte(files[i+1]))
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return out.String()
}

func TestMedia(t *testing.T) {
	workbook := pack(t, "[Content_Types].xml", "x", "xl/workbook.xml", "x")
	text := "application/vnd.oasis.opendocument.text"
	for _, c := range []struct{ name, data, want string }{
		{"guide.pdf", "%PDF-1.7\n", "application/pdf"},
		{"Guide.PDF", "%PDF-1.7\n", "application/pdf"},
		{"map.png", "\x89PNG\r\n\x1a\nx", "image/png"},
		{"notes.txt", "Wax is < 1 % of it, & more.", "text/plain; charset=utf-8"},
		{"grades.csv", "grade;from\nSelect;18\n", "text/csv; charset=utf-8"},
		{"plan.xlsx", workbook, "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"},
		{"letter.odt", pack(t, "mimetype", text, "content.xml", "x"), text},
	} {
		if got, err := content.Media(c.name, []byte(c.data)); err != nil || got != c.want {
			t.Errorf("%s is %q, %v", c.name, got, err)
		}
	}
	for _, c := range []struct{ name, data, fault string }{
		{"page.html", "<p>", "is no kind of file that is kept here; use pdf"},
		{"run.exe", "MZ", "is no kind of file"},
		{"noending", "x", "is no kind of file"},
		{"drawing.svg", "<svg>", "is no kind of file"},
		{"empty.pdf", "", "is empty"},
		{"guide.pdf", "<html><script>", "is not what its name says"},
		{"notes.txt", "  \n<!DOCTYPE html><title>x", "as a web page does"},
		{"grades.csv", "a;b\n<ScRiPt>alert(1)</script>", "as a web page does"},
		{"notes.md", "caf\xe9", "it is no text in UTF-8"},
		{"notes.txt", "a\x00b", "it is no text in UTF-8"},
		{"plan.xlsx", "PK\x03\x04cut short", "it cannot be unpacked"},
		{"plan.xlsx", pack(t, "xl/workbook.xml", "x", "xl/vbaProject.bin", "x"), "it carries a program"},
		{"letter.docx", workbook, "it has no word/document.xml"},
		{"letter.odt", pack(t, "mimetype", "text/html", "content.xml", "x"), `it says that it is "text/html"`},
		{"letter.odt", pack(t, "mimetype", text, "Basic/Standard/m.xml", "x"), "it carries a program"},
	} {
		if _, err := content.Media(c.name, []byte(c.data)); err == nil || !strings.Contains(err.Error(), c.fault) {
			t.Errorf("%s %.20q gives %v", c.name, c.data, err)
		}
	}
}
