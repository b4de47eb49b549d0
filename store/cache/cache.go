// Package cache keeps costly values in memory up to a budget of bytes and
// forgets those that were not used for longest. A value that several ask for
// at once is made once.
package cache

import (
	"container/list"
	"context"
	"errors"
	"strings"
	"sync"

	"mantilla/core/rescue"
)

// Sized is a value that knows about how much memory it takes.
type Sized interface{ Bytes() int }

// Cache is safe for several goroutines.
type Cache struct {
	mu      sync.Mutex
	budget  int
	used    int
	entries map[string]*list.Element
	recent  *list.List // front is the most recently used
}

type entry struct {
	key   string
	value Sized
	err   error
	bytes int
	ready chan struct{}
}

// New makes a cache that holds values of at most budget bytes together.
func New(budget int) *Cache {
	return &Cache{budget: budget, entries: map[string]*list.Element{}, recent: list.New()}
}

// Get returns the value kept under the key, or makes and keeps it. A value
// that alone is larger than the budget is returned but not kept, and neither
// is a failure.
//
// A panic while a value is made is a failure too. Who waits for a value that
// another began, and gave up because its own context ended, makes it instead.
func (c *Cache) Get(key string, produce func() (Sized, error)) (Sized, error) {
	for {
		value, mine, err := c.get(key, produce)
		if mine || err == nil || !(errors.Is(err, context.Canceled) || errors.Is(err, context.DeadlineExceeded)) {
			return value, err
		}
	}
}

// get is one try; mine tells that this caller made the value.
func (c *Cache) get(key string, produce func() (Sized, error)) (value Sized, mine bool, err error) {
	c.mu.Lock()
	if at, ok := c.entries[key]; ok {
		c.recent.MoveToFront(at)
		c.mu.Unlock()
		e := at.Value.(*entry)
		<-e.ready
		return e.value, false, e.err
	}
	e := &entry{key: key, ready: make(chan struct{})}
	at := c.recent.PushFront(e)
	c.entries[key] = at
	c.mu.Unlock()

	e.err = rescue.Call(func() (err error) {
		e.value, err = produce()
		return err
	})

	c.mu.Lock()
	defer c.mu.Unlock()
	defer close(e.ready) // who waits finds either the value or no entry
	if c.entries[key] != at {
		return e.value, true, e.err // forgotten meanwhile
	}
	if e.err != nil {
		c.drop(at)
		return e.value, true, e.err
	}
	e.bytes = e.value.Bytes()
	c.used += e.bytes
	for last := c.recent.Back(); c.used > c.budget && last != nil; {
		before := last.Prev()
		if last.Value.(*entry).bytes > 0 {
			c.drop(last)
		}
		last = before
	}
	return e.value, true, nil
}

func (c *Cache) drop(at *list.Element) {
	e := c.recent.Remove(at).(*entry)
	delete(c.entries, e.key)
	c.used -= e.bytes
}

// Forget drops every value whose key begins with the prefix.
func (c *Cache) Forget(prefix string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	for key, at := range c.entries {
		if strings.HasPrefix(key, prefix) {
			c.drop(at)
		}
	}
}

// Used returns how many bytes the kept values take.
func (c *Cache) Used() int {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.used
}
