package controls

import (
	"context"
	"fmt"
	"strings"

	"mantilla/core/shown"
)

// Said is what a control comes to, in words: each part of it, and all of it in a sentence.
type Said struct {
	What string // Intake lots and Stock lines, for each district
	How  string // a spreadsheet of each; results are kept for 30 days
	To   string // to whoever stands for the district
	When string // the last working day of the month, at 18:00
	All  string
}

// Say tells what a control comes to, also one that is not whole yet.
func (a *Access) Say(ctx context.Context, c Control) Said {
	s := Said{What: a.sayWhat(c), How: sayHow(c), To: sayTo(c), When: a.sayWhen(ctx, c)}
	s.All = "Runs " + s.What
	if c.Timetable != nil {
		s.All += " " + s.When
	}
	if c.Send != nil {
		s.All += ", and sends " + files(c.Outputs) + " " + s.To
	}
	s.All += "."
	if c.Timetable == nil {
		s.All += " It runs when somebody asks."
	}
	return s
}

func (a *Access) sayWhat(c Control) string {
	var titles []string
	for _, step := range c.Steps {
		switch d, err := a.catalog.Report(step.Report); {
		case err == nil:
			titles = append(titles, d.Title)
		case step.Report != "":
			titles = append(titles, step.Report)
		}
	}
	if len(titles) == 0 {
		return "no report yet"
	}
	what := listed(titles)
	if c.Split != nil && c.Split.Units != "" {
		what += " for each " + c.Split.Units
	}
	return what
}

func sayHow(c Control) string {
	said := []string{"keeps the results"}
	if len(c.Outputs) > 0 && !(len(c.Outputs) == 1 && c.Outputs[0] == "kept") {
		said[0] = "writes " + files(c.Outputs)
	}
	if c.Keep > 0 {
		said = append(said, fmt.Sprintf("results are kept for %d days", c.Keep))
	}
	if c.Hours != "" {
		said = append(said, "starts within "+c.Hours)
	}
	if c.Rows > 0 {
		said = append(said, fmt.Sprintf("at most %s rows", shown.Grouped(fmt.Sprint(c.Rows))))
	}
	if c.Time > 0 {
		said = append(said, fmt.Sprintf("at most %s", c.Time))
	}
	switch c.Empty {
	case "fail":
		said = append(said, "an empty result counts as failed")
	case "note":
		said = append(said, "an empty result is noted")
	}
	if c.Restate {
		said = append(said, "compares with what was signed off")
	}
	return strings.Join(said, "; ")
}

func sayTo(c Control) string {
	if c.Send == nil {
		return "to nobody"
	}
	var to []string
	if c.Split != nil && c.Split.Units != "" {
		to = append(to, "whoever stands for the "+c.Split.Units)
	}
	if c.Split != nil && c.Split.Column != "" {
		to = append(to, "the people of each "+c.Split.Column)
	}
	for _, lines := range [][]string{c.Send.To, c.Send.Copy, c.Send.Blind} {
		to = append(to, lines...)
	}
	if c.Send.Folder != "" {
		to = append(to, "the folder "+c.Send.Folder)
	}
	if c.Send.Webhook != "" {
		to = append(to, "an address on the web")
	}
	if len(to) == 0 {
		return "to nobody yet"
	}
	said := "to " + listed(to)
	switch c.Send.When {
	case "":
	case "rows":
		said += ", when there are rows"
	default:
		said += ", when " + c.Send.When
	}
	return said
}

func (a *Access) sayWhen(ctx context.Context, c Control) string {
	if c.Timetable == nil {
		return "when somebody runs it"
	}
	says, next, err := a.NextDates(ctx, *c.Timetable, 1)
	if err != nil {
		return "at times that cannot be read yet"
	}
	said := fmt.Sprintf("%s at %02d:%02d", says, c.Timetable.At/60, c.Timetable.At%60)
	if !strings.HasPrefix(said, "every") {
		said = "on " + said
	}
	if c.Paused {
		return said + ", once its timetable goes on"
	}
	if len(next) > 0 {
		said += ", next " + next[0].In(a.Zone()).Format("Mon 2 Jan 2006")
	}
	return said
}

// spoken are the formats that people call by another name than their own.
var spoken = map[string]string{"xlsx": "a spreadsheet", "pdf": "a PDF", "csv": "a CSV file", "html": "a web page",
	"text": "a plain text", "json": "a JSON file", "parquet": "a Parquet file", "import": "an import-ready file"}

// files are formats as people speak of their files.
func files(outputs []string) string {
	var said []string
	for _, o := range outputs {
		if o == "kept" {
			continue
		}
		if of, ok := spoken[o]; ok {
			said = append(said, of)
		} else {
			said = append(said, "a file of "+o)
		}
	}
	if len(said) == 0 {
		return "a message"
	}
	return listed(said)
}

// listed joins things as a sentence has them.
func listed(all []string) string {
	if len(all) < 2 {
		return strings.Join(all, "")
	}
	return strings.Join(all[:len(all)-1], ", ") + " and " + all[len(all)-1]
}
