package render

import (
	"context"
	"runtime"
	"strings"
	"unicode"
	"unicode/utf8"

	"mantilla/core/frame"
)

// reserved are names that a system keeps for its devices.
var reserved = map[string]bool{"con": true, "prn": true, "aux": true, "nul": true, "com1": true, "com2": true,
	"com3": true, "com4": true, "lpt1": true, "lpt2": true, "lpt3": true}

// SafeName makes a text a file name that every common system takes: without
// the signs that any of them forbids, not one of their own names, and not
// longer than they allow with an ending.
func SafeName(text string) string {
	var b strings.Builder
	space := false
	for _, r := range text {
		switch {
		case unicode.IsSpace(r) || strings.ContainsRune(`<>:"/\|?*`, r) || !unicode.IsPrint(r):
			space = true
			continue
		case space && b.Len() > 0:
			b.WriteByte(' ')
		}
		space = false
		b.WriteRune(r)
	}
	name := strings.Trim(b.String(), ". ")
	for len(name) > 180 {
		_, n := utf8.DecodeLastRuneInString(name)
		name = strings.TrimRight(name[:len(name)-n], ". ")
	}
	if name == "" || reserved[strings.ToLower(name)] {
		return "report " + name
	}
	return name
}

// FileName fills a pattern such as "{report} {result} {part}" with what it
// speaks of, and makes it a file name. What is not known stays out.
func FileName(pattern string, fields map[string]string, ending string) string {
	var pairs []string
	for name, text := range fields {
		pairs = append(pairs, "{"+name+"}", text)
	}
	filled := strings.NewReplacer(pairs...).Replace(pattern)
	for {
		from := strings.IndexByte(filled, '{')
		to := strings.IndexByte(filled, '}')
		if from < 0 || to < from {
			break
		}
		filled = filled[:from] + filled[to+1:]
	}
	return SafeName(filled) + "." + ending
}

// inOrder makes something of each batch of rows on all cores, and hands it on
// in the order of the batches, until one of them fails.
func inOrder[T any](ctx context.Context, each func(ctx context.Context, visit func(*frame.Batch) error) error,
	of func(*frame.Batch) (T, error),
	use func(T) error) error {
	type made struct {
		value T
		err   error
	}
	var waiting []chan made
	settle := func() error {
		m := <-waiting[0]
		waiting = waiting[1:]
		if m.err != nil {
			return m.err
		}
		return use(m.value)
	}
	err := each(ctx, func(b *frame.Batch) error {
		next := make(chan made, 1) // nobody waits for what is no longer wanted
		go func() {
			value, err := of(b)
			next <- made{value, err}
		}()
		if waiting = append(waiting, next); len(waiting) > runtime.GOMAXPROCS(0) {
			return settle()
		}
		return nil
	})
	for err == nil && len(waiting) > 0 {
		err = settle()
	}
	return err
}
