// Package content tells which files may be kept for people to fetch: of kinds that carry no
// program, and whose content is what their names say.
package content

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"path"
	"strings"
	"unicode/utf8"

	"mantilla/core/nearest"
)

// kind is a kind of file that may be kept.
type kind struct {
	media string
	right func(data []byte) error
}

// kinds are those that may be kept, by the endings of names.
var kinds = map[string]kind{
	"pdf":  {"application/pdf", begins("%PDF-")},
	"png":  {"image/png", begins("\x89PNG\r\n\x1a\n")},
	"jpg":  {"image/jpeg", begins("\xff\xd8\xff")},
	"jpeg": {"image/jpeg", begins("\xff\xd8\xff")},
	"txt":  {"text/plain; charset=utf-8", plainText},
	"md":   {"text/markdown; charset=utf-8", plainText},
	"csv":  {"text/csv; charset=utf-8", plainText},
	"xlsx": {"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", packed("xl/workbook.xml")},
	"docx": {"application/vnd.openxmlformats-officedocument.wordprocessingml.document", packed("word/document.xml")},
	"pptx": {"application/vnd.openxmlformats-officedocument.presentationml.presentation", packed("ppt/presentation.xml")},
	"odt":  {"application/vnd.oasis.opendocument.text", open("application/vnd.oasis.opendocument.text")},
	"ods":  {"application/vnd.oasis.opendocument.spreadsheet", open("application/vnd.oasis.opendocument.spreadsheet")},
	"odp":  {"application/vnd.oasis.opendocument.presentation", open("application/vnd.oasis.opendocument.presentation")},
}

// endings are those of files that may be kept, as they are told.
var endings = []string{"pdf", "png", "jpg", "txt", "md", "csv", "xlsx", "docx", "pptx", "odt", "ods", "odp"}

// Media returns the media type that a file is handed out as. It fails where the file is of
// no kind that may be kept, or is not what its name says.
func Media(name string, data []byte) (string, error) {
	ending := strings.ToLower(strings.TrimPrefix(path.Ext(name), "."))
	k, ok := kinds[ending]
	switch {
	case !ok:
		return "", fmt.Errorf("%q is no kind of file that is kept here; use %s", name, nearest.Or(endings))
	case len(data) == 0:
		return "", fmt.Errorf("%s is empty", name)
	}
	if err := k.right(data); err != nil {
		return "", fmt.Errorf("%s is not what its name says: %w", name, err)
	}
	return k.media, nil
}

func begins(with string) func([]byte) error {
	return func(data []byte) error {
		if !bytes.HasPrefix(data, []byte(with)) {
			return fmt.Errorf("it does not begin as such a file does")
		}
		return nil
	}
}

// markup are words by which a browser would take a text for a page.
var markup = []string{"<!doctype", "<html", "<head", "<body", "<script", "<svg", "<iframe", "<object", "<?xml"}

// plainText is UTF-8 that no browser takes for a page.
func plainText(data []byte) error {
	if !utf8.Valid(data) || bytes.IndexByte(data, 0) >= 0 {
		return fmt.Errorf("it is no text in UTF-8")
	}
	lower := bytes.ToLower(data)
	for _, word := range markup {
		if bytes.Contains(lower, []byte(word)) {
			return fmt.Errorf("it has %s in it, as a web page does", word)
		}
	}
	return nil
}

// mostPacked bounds the files within a packed one.
const mostPacked = 10_000

// packed is an office document that has a part, and no program.
func packed(part string) func([]byte) error {
	return func(data []byte) error {
		names, err := namesIn(data)
		if err != nil {
			return err
		}
		found := false
		for _, name := range names {
			if strings.HasSuffix(strings.ToLower(name), "vbaproject.bin") {
				return fmt.Errorf("it carries a program (%s)", name)
			}
			found = found || name == part
		}
		if !found {
			return fmt.Errorf("it has no %s", part)
		}
		return nil
	}
}

func namesIn(data []byte) (names []string, err error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, fmt.Errorf("it cannot be unpacked: %w", err)
	}
	if len(z.File) > mostPacked {
		return nil, fmt.Errorf("it has more than %d parts", mostPacked)
	}
	for _, f := range z.File {
		names = append(names, f.Name)
	}
	return names, nil
}

// open is an open document of a media type, without scripts (OASIS ODF 1.3, part 2, 3.3).
func open(media string) func([]byte) error {
	return func(data []byte) error {
		names, err := namesIn(data)
		if err != nil {
			return err
		}
		for _, name := range names {
			if strings.HasPrefix(name, "Basic/") || strings.HasPrefix(name, "Scripts/") {
				return fmt.Errorf("it carries a program (%s)", name)
			}
		}
		z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
		if err != nil || len(z.File) == 0 || z.File[0].Name != "mimetype" {
			return fmt.Errorf("it does not say what it is")
		}
		f, err := z.File[0].Open()
		if err != nil {
			return err
		}
		defer f.Close()
		said, err := io.ReadAll(io.LimitReader(f, 200))
		if err != nil || string(said) != media {
			return fmt.Errorf("it says that it is %q", said)
		}
		return nil
	}
}
