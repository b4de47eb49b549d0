package source

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/nearest"
)

// FileTable is a table that is read from files which people bring: how these are written,
// and the columns that are taken from them.
type FileTable struct {
	Title     string       `yaml:"title"`
	Sheet     string       `yaml:"sheet"`     // of a workbook; otherwise the first that has the headings
	Separator string       `yaml:"separator"` // comma, semicolon, tab or bar
	Encoding  string       `yaml:"encoding"`
	Decimal   string       `yaml:"decimal"` // point or comma
	Dates     string       `yaml:"dates"`   // iso, dmy or mdy
	Faults    string       `yaml:"faults"`  // refuse, which is meant where it is silent, or skip the lines
	Groups    []string     `yaml:"groups"`  // whose members may bring files, beside who keeps the catalog
	Columns   []FileColumn `yaml:"columns"`
}

// FileColumn is a column of such a table.
type FileColumn struct {
	Name     string `yaml:"name"`
	Heading  string `yaml:"heading"` // in the file; otherwise its name
	Type     string `yaml:"type"`    // text, integer, decimal, date, timestamp or flag
	Scale    int32  `yaml:"scale"`   // most places of a decimal
	Required bool   `yaml:"required"`
	Key      bool   `yaml:"key"` // no two lines have the same
}

// Head is what stands above the column in a file.
func (c FileColumn) Head() string {
	if c.Heading != "" {
		return c.Heading
	}
	return c.Name
}

// FileTypes are what the columns of files hold.
var FileTypes = []string{"text", "integer", "decimal", "date", "timestamp", "flag"}

// MostFileScale is how many places a number of a file may have: it is held to 15 digits.
const MostFileScale = 9

// CheckFiles says what the declaration of a source of files lacks; the words follow the
// source's name.
func CheckFiles(c *Config) error {
	switch {
	case c.File != "":
		return errors.New("has the key file, and is of files that people bring; leave it out")
	case c.Server != nil:
		return errors.New("has a server, and is of files; leave the key server out")
	case len(c.Tables) == 0:
		return errors.New("lacks the key tables: {NAME: {columns: [...]}}")
	}
	for id, t := range c.Tables {
		if err := t.check(id); err != nil {
			return err
		}
	}
	return nil
}

func (t FileTable) check(id string) error {
	if !plainName(id) {
		return fmt.Errorf("has the table %q; a name has small letters, digits and _", id)
	}
	if t.Faults != "" && t.Faults != "refuse" && t.Faults != "skip" {
		return fmt.Errorf("has the table %s with faults: %s; use refuse or skip", id, t.Faults)
	}
	if len(t.Columns) == 0 {
		return fmt.Errorf("has the table %s without columns", id)
	}
	seen := map[string]bool{}
	for _, c := range t.Columns {
		switch {
		case !plainName(c.Name):
			return fmt.Errorf("has the column %q in %s; a name has small letters, digits and _", c.Name, id)
		case seen[c.Name]:
			return fmt.Errorf("has the column %s twice in %s", c.Name, id)
		case !slices.Contains(FileTypes, c.Type):
			return fmt.Errorf("has the column %s in %s of the type %q; use %s", c.Name, id, c.Type, nearest.Or(FileTypes))
		case c.Scale < 0 || c.Scale > MostFileScale || c.Scale > 0 && c.Type != "decimal":
			return fmt.Errorf("has the column %s in %s with the scale %d; a decimal has 0 to %d places", c.Name, id, c.Scale,
				MostFileScale)
		}
		seen[c.Name] = true
	}
	return nil
}

func plainName(text string) bool {
	return text != "" && !strings.ContainsFunc(text, func(r rune) bool {
		return (r < 'a' || r > 'z') && (r < '0' || r > '9') && r != '_'
	}) && (text[0] < '0' || text[0] > '9')
}
