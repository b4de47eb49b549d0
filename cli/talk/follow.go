package talk

import (
	"bufio"
	"encoding/json"
	"io"
	"strings"
)

// Follow reads server-sent events and hands on what each one holds.
func Follow[T any](events io.Reader, changed func(T)) error {
	lines := bufio.NewScanner(events)
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		data, ok := strings.CutPrefix(lines.Text(), "data: ")
		if !ok {
			continue
		}
		var now T
		if err := json.Unmarshal([]byte(data), &now); err != nil {
			return err
		}
		changed(now)
	}
	return lines.Err()
}
