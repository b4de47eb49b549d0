package manuscript_test

import (
	"fmt"

	"mantilla/core/manuscript"
)

const written = `# what came in
report: lots
title: Lots   # as people call them
source: coop
parameters:
  - {use: unit}
`

// A copy of a report is its text under another name, with the author's comments and spaces.
func ExampleRenamed() {
	copied := manuscript.Renamed(written, "own-lots", "Our lots")
	fmt.Print(copied)
	fmt.Println(manuscript.Head([]byte(copied)))
	fmt.Println(manuscript.Uses([]byte(copied)), manuscript.SourceOf([]byte(copied)))
	// Output:
	// # what came in
	// report: own-lots
	// title: 'Our lots'   # as people call them
	// source: coop
	// parameters:
	//   - {use: unit}
	// own-lots Our lots
	// [unit] coop
}
