// Package docs holds the pages that explain the console to those who use it, with their pictures, for the
// service to hand out.
package docs

import "embed"

// Using are the pages: using/ID.md, of which the first line is the title and the second says what the
// place is for.
//
//go:embed using/*.md
var Using embed.FS

// Pictures are those of pages, by the page's id: screenshots/ID.png.
//
//go:embed screenshots/desk.png screenshots/catalog.png screenshots/report.png screenshots/control.png
//go:embed screenshots/timetable.png screenshots/sending.png screenshots/office.png
var Pictures embed.FS
