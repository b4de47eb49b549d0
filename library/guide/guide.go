// Package guide has the pages that explain the console to those who use it, and finds in them.
package guide

import (
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"
	"sync"

	"github.com/russross/blackfriday/v2"

	"mantilla/core/search"
	"mantilla/docs"
	"mantilla/model"
)

// Page explains one place of the console.
type Page struct {
	ID      string
	Title   string
	Line    string // what the place is for
	Text    string // of all of it, as Markdown
	Picture bool
}

// HTML is the text below the title and the line, as HTML of our own.
func (p Page) HTML() string {
	return string(blackfriday.Run([]byte(p.below())))
}

func (p Page) below() string {
	_, below, _ := strings.Cut(p.Text, p.Line)
	return strings.TrimSpace(below)
}

// order is how the pages follow each other.
var order = []string{"desk", "catalog", "report", "results", "controls", "timetable", "sending", "office"}

// read reads the pages that the program was built with, and their words.
var read = sync.OnceValues(func() (pages []Page, index *search.Index) {
	var fields [][]search.Field
	for _, id := range order {
		text, err := docs.Using.ReadFile("using/" + id + ".md")
		if err != nil {
			panic(fmt.Errorf("the program was built without a page of its guide: %w", err))
		}
		title, rest, _ := strings.Cut(strings.TrimPrefix(string(text), "# "), "\n")
		line, _, _ := strings.Cut(rest, "\n")
		p := Page{ID: id, Title: title, Line: line, Text: string(text)}
		_, err = fs.Stat(docs.Pictures, picture(id))
		p.Picture = err == nil
		pages = append(pages, p)
		fields = append(fields, []search.Field{{Text: title, Weight: 1}, {Text: line, Weight: 3},
			{Text: strings.NewReplacer("*", " ", "`", " ").Replace(p.below()), Weight: 5}})
	}
	return pages, search.New(fields)
})

// pictured are the pages whose picture has another name.
var pictured = map[string]string{"controls": "control"}

func picture(id string) string {
	if name, ok := pictured[id]; ok {
		id = name
	}
	return path.Join("screenshots", id+".png")
}

// Pages are those in which a text is found, the best first; all of them in their order where none is sought.
func Pages(sought string) []Page {
	pages, index := read()
	if strings.TrimSpace(sought) == "" {
		return pages
	}
	hits := index.Find(sought)
	slices.SortStableFunc(hits, func(a, b search.Hit) int { return a.Score - b.Score })
	var out []Page
	for _, hit := range hits {
		out = append(out, pages[hit.Doc])
	}
	return out
}

// Of returns one page.
func Of(id string) (Page, error) {
	pages, _ := read()
	for _, p := range pages {
		if p.ID == id {
			return p, nil
		}
	}
	return Page{}, model.NoSuch("page of the guide", id, order)
}

// Picture is the picture of a page, as PNG.
func Picture(id string) ([]byte, error) {
	p, err := Of(id)
	if err == nil && !p.Picture {
		err = model.NoSuch("picture of the page", id, nil)
	}
	if err != nil {
		return nil, err
	}
	return docs.Pictures.ReadFile(picture(id))
}
