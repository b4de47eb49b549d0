package main

import (
	"fmt"
	"slices"
	"sync"
	"time"
)

// books have what the service promised, and how it answered.
type books struct {
	mu      sync.Mutex
	runs    map[string]string // by what they were asked for with: the run
	twice   []string          // what was asked for once and is there twice
	edits   map[string][]string
	letters map[string]bool // subjects of what was to be sent
	answers map[int]int     // how often each status
	wrong   []string        // answers that should not be
	cut     int             // calls that were not answered
	took    []time.Duration // of readers' calls that were
}

func newBooks() *books {
	return &books{runs: map[string]string{}, edits: map[string][]string{}, letters: map[string]bool{},
		answers: map[int]int{}}
}

// answered notes an answer. Beyond what a caller can mend, only 503 with the time to come back is right.
func (b *books) answered(what string, status int, retry string, took time.Duration, reader bool, said []byte) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.answers[status]++
	if reader && status == 200 {
		b.took = append(b.took, took)
	}
	if status >= 500 && (status != 503 || retry == "") || status == 429 && retry == "" {
		b.wrong = append(b.wrong, fmt.Sprintf("%s: %d %.300s", what, status, said))
	}
}

func (b *books) unanswered() {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.cut++
}

// promised notes a run that the service took on: the same for the same key, however often it is asked for.
func (b *books) promised(key, run string) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if had, is := b.runs[key]; is && had != run {
		b.twice = append(b.twice, fmt.Sprintf("%s is %s and %s", key, had, run))
	}
	b.runs[key] = run
}

// edited notes a value that was kept, or may have been.
func (b *books) edited(id, value string, sure bool) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if sure {
		b.edits[id] = nil // what was before is gone
	}
	b.edits[id] = append(b.edits[id], value)
}

func (b *books) toSend(subject string) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.letters[subject] = true
}

// share is how long the slowest of so many in a hundred took at most.
func (b *books) share(percent int) time.Duration {
	b.mu.Lock()
	defer b.mu.Unlock()
	if len(b.took) == 0 {
		return 0
	}
	slices.Sort(b.took)
	return b.took[min(len(b.took)-1, len(b.took)*percent/100)]
}
