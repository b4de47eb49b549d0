package source

import (
	"errors"
	"fmt"
	"net/url"
	"path/filepath"
	"slices"
	"strings"
	"time"

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
	From      *FileFrom    `yaml:"from"`    // where files come from by themselves; otherwise people bring them alone
	Columns   []FileColumn `yaml:"columns"`
}

// FileFrom is where the files of a table come from by themselves: a folder in which the newest
// counts, an address that is asked now and then, or a list of another source, so that files are
// joined with it.
type FileFrom struct {
	Folder  string `yaml:"folder"`  // below [Inbox]
	Files   string `yaml:"files"`   // a pattern of names there, such as budget-*.csv; otherwise all
	Address string `yaml:"address"` // by HTTPS
	Source  string `yaml:"source"`
	List    string `yaml:"list"`   // of the source
	Every   string `yaml:"every"`  // how often that is asked: 30m; otherwise an address 1h, a list 1m
	Secret  string `yaml:"secret"` // the name of a secret that is sent as a bearer token
	CA      string `yaml:"ca"`     // certificates that are trusted, where the system's are not enough
}

// Inbox is the directory, within that of the data, whose folders are watched.
const Inbox = "inbox"

// String says where that is.
func (f *FileFrom) String() string {
	switch {
	case f.Address != "":
		return f.Address
	case f.List != "":
		return "the list " + f.List + " of " + f.Source
	}
	return filepath.Join(Inbox, f.Folder, f.Files)
}

// Pause is how long it is not asked again; a folder is looked into all the time.
func (f *FileFrom) Pause() time.Duration {
	d, err := time.ParseDuration(f.Every)
	switch {
	case f.Folder != "":
		return 0
	case err == nil:
		return d
	case f.List != "":
		return time.Minute
	}
	return time.Hour
}

// mostOften is how often an address or a list may be asked.
const mostOften = time.Minute

func (f *FileFrom) check() error {
	switch {
	case f.ways() != 1:
		return errors.New("needs either a folder, an address, or a list of another source")
	case (f.Source == "") != (f.List == ""):
		return errors.New("needs the source and its list: {source: ID, list: ID}")
	case f.Folder != "" && !filepath.IsLocal(f.Folder):
		return fmt.Errorf("has the folder %s, which must lie within %s of the data directory", f.Folder, Inbox)
	case f.Folder != "" && f.Every != "":
		return errors.New("has every; a folder is looked into all the time")
	case f.Address == "" && f.Secret+f.CA != "":
		return errors.New("has secret or ca, which are of addresses")
	case f.Folder == "" && f.Files != "":
		return errors.New("has files, which is of folders")
	}
	if d, err := time.ParseDuration(f.Every); f.Every != "" && (err != nil || d < mostOften) {
		return fmt.Errorf("has every: %q; write a time such as 30m, of at least %s", f.Every, mostOften)
	}
	if _, err := filepath.Match(f.Files, ""); err != nil {
		return fmt.Errorf("has files: %q, which is no pattern of names", f.Files)
	}
	if f.Address == "" {
		return nil
	}
	if u, err := url.Parse(f.Address); err != nil || u.Scheme != "https" || u.Host == "" || u.User != nil {
		return fmt.Errorf("has the address %q; it begins with https:// and has no password: use secret", f.Address)
	}
	return nil
}

// ways is how many places are named.
func (f *FileFrom) ways() (n int) {
	for _, place := range []string{f.Folder, f.Address, f.Source + f.List} {
		if place != "" {
			n++
		}
	}
	return n
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
	if t.From != nil {
		if err := t.From.check(); err != nil {
			return fmt.Errorf("has the table %s whose from %w", id, err)
		}
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
