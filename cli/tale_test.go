package cli_test

import (
	"bytes"
	"sync"
)

// tale is what was printed so far, while more is printed.
type tale struct {
	mu   sync.Mutex
	text bytes.Buffer
}

// Write adds something.
func (t *tale) Write(p []byte) (int, error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	return t.text.Write(p)
}

// String is what was printed.
func (t *tale) String() string {
	t.mu.Lock()
	defer t.mu.Unlock()
	return t.text.String()
}
