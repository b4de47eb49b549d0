package grid

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"strconv"
	"strings"
)

// jsonLines is a file with a JSON object on each line; what any of them has is a column.
type jsonLines struct {
	data  []byte
	heads []Column
	at    map[string]int
}

func openLines(data []byte) (columnar, error) {
	l := &jsonLines{data: bytes.TrimPrefix(data, bom), at: map[string]int{}}
	return l, l.lines(func(_ Place, members []member) error {
		for _, m := range members {
			if _, known := l.at[m.name]; !known {
				l.at[m.name] = len(l.heads)
				l.heads = append(l.heads, Column{Heading: m.name})
			}
		}
		return nil
	})
}

func (l *jsonLines) columns() []Column { return l.heads }

func (l *jsonLines) each(visit func(place Place, row []string) error) error {
	row := make([]string, len(l.heads))
	return l.lines(func(place Place, members []member) error {
		clear(row)
		for _, m := range members {
			row[l.at[m.name]] = m.cell
		}
		return visit(place, row)
	})
}

// member is a name of an object with its value as a cell.
type member struct{ name, cell string }

// lines hands on each line that has anything.
func (l *jsonLines) lines(visit func(place Place, members []member) error) error {
	n := 0
	for line := range bytes.Lines(l.data) {
		n++
		if line = bytes.TrimSpace(line); len(line) == 0 {
			continue
		}
		place := Place{Word: "line", N: n}
		members, err := membersOf(line)
		if err != nil {
			return fmt.Errorf("%v: it is no JSON object: %w", place, err)
		}
		if err := visit(place, members); err != nil {
			return err
		}
	}
	return nil
}

// membersOf are the members of an object in their order.
func membersOf(line []byte) (out []member, err error) {
	in := json.NewDecoder(bytes.NewReader(line))
	in.UseNumber()
	if open, err := in.Token(); err != nil || open != json.Delim('{') {
		return nil, fmt.Errorf("it begins with %.20q", line)
	}
	for in.More() {
		name, err := in.Token()
		if err != nil {
			return nil, err
		}
		var value json.RawMessage
		if err := in.Decode(&value); err != nil {
			return nil, err
		}
		cell, err := cellOf(value)
		if err != nil {
			return nil, err
		}
		out = append(out, member{name.(string), cell}) // names are strings where More tells of one
	}
	if _, err := in.Token(); err != nil {
		return nil, err
	}
	if _, err := in.Token(); err != io.EOF {
		return nil, fmt.Errorf("something follows the object")
	}
	return out, nil
}

// cellOf is a value as a cell: a text as it is, nothing for null, a list or an object as JSON.
func cellOf(value json.RawMessage) (string, error) {
	switch value[0] {
	case '"':
		var text string
		err := json.Unmarshal(value, &text)
		return text, err
	case 'n':
		return "", nil
	case '{', '[', 't', 'f':
		return string(value), nil
	}
	if number := string(value); !strings.ContainsAny(number, "eE") {
		return number, nil
	}
	n, err := strconv.ParseFloat(string(value), 64)
	return strconv.FormatFloat(n, 'f', -1, 64), err
}
