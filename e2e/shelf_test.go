package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"

	"mantilla/demo/demotest"
)

// TestDocumentsBesideReports keeps a document beside a report, refuses one that is a web page
// in disguise, and has a reader find it at the report and by the catalog's search.
func TestDocumentsBesideReports(t *testing.T) {
	t.Parallel()
	s := demotest.Start(t)
	b := openBrowser(t)
	page, guide := filepath.Join(t.TempDir(), "guide.pdf"), filepath.Join(t.TempDir(), "Guide to ages.txt")
	for file, text := range map[string]string{page: "<html>", guide: "An age is told on the day of the run."} {
		if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	b.signIn(s, "lila")
	b.open(s.URL + "/office?desk=shelf")
	b.shows("How the weighing desk works")
	b.shot("documents")
	b.press("New document or link")
	b.until(`document.querySelector('[role=dialog] input[required]')`)
	b.fill("[role=dialog] input[required]", "How ages are told")
	b.value(`([...document.querySelectorAll('[role=dialog] label')].find(e => e.textContent.startsWith('Shelf')).` +
		`click(), '')`)
	b.keys("Keepers")
	b.value(`([...document.querySelectorAll('[role=dialog] label')].find(e => e.textContent.startsWith('Beside')).` +
		`click(), '')`)
	b.keys("Keepers by age")
	b.choose("Keepers by age")
	b.gives("[role=dialog] input[type=file]", page)
	b.press("Keep")
	b.shows("guide.pdf is not what its name says")
	b.shot("refused-document")
	b.gives("[role=dialog] input[type=file]", guide)
	b.press("Keep")
	b.shows("Guide to ages.txt")

	rhea := openBrowser(t)
	rhea.signIn(s, "rhea")
	rhea.open(s.URL + "/reports/keepers-by-age")
	rhea.until(`document.querySelector('a[download="Guide to ages.txt"]')`)
	rhea.shot("report-documents")
	rhea.open(s.URL + "/catalog?search=diastase")
	rhea.shows("Limits of the grades")
	rhea.shot("found-document")
}

// gives hands a file to a field that takes one.
func (b *browser) gives(css, file string) {
	b.t.Helper()
	b.do(chromedp.SetUploadFiles(chromedp.CSS(css), []string{file}))
}
