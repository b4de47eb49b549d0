package access

import (
	"strings"
	"sync"
	"time"
)

// doors guard signing in. Failures are counted by who tries: an address with a
// name, an address whatever the name, and a name whatever the address. After
// some failures each next try has to wait, longer each time. Accounts that there
// are and that there are not are treated alike, and a stranger's failures hold up
// the owner of an account, who comes from elsewhere, for a minute at most.
type doors struct {
	mu    *sync.Mutex // guards known
	known map[string]*tries
}

// tries are the failures of one key.
type tries struct {
	failures int
	last     time.Time
}

// door is one way in which failures are counted: how many are free, and how
// long one waits at most.
type door struct {
	key  string
	free int
	most time.Duration
}

const (
	forgetTries = 2 * time.Hour
	mostTries   = 100_000 // keys; beyond, those that are old are forgotten
)

func newDoors() doors { return doors{&sync.Mutex{}, map[string]*tries{}} }

func doorsOf(name, address string) []door {
	name = strings.ToLower(name)
	return []door{
		{"both " + address + " " + name, 5, 15 * time.Minute},
		{"address " + address, 30, 15 * time.Minute},
		{"name " + name, 50, time.Minute},
	}
}

// wait returns how long the next try has to wait; zero when it need not.
func (d *doors) wait(name, address string, now time.Time) (longest time.Duration) {
	d.mu.Lock()
	defer d.mu.Unlock()
	for _, door := range doorsOf(name, address) {
		t := d.known[door.key]
		if t == nil || t.failures < door.free {
			continue
		}
		pause := min(time.Second<<min(t.failures-door.free, 20), door.most)
		longest = max(longest, t.last.Add(pause).Sub(now))
	}
	return longest
}

// tried records a try.
func (d *doors) tried(name, address string, good bool, now time.Time) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if len(d.known) > mostTries {
		d.forget(now)
	}
	for i, door := range doorsOf(name, address) {
		switch t := d.known[door.key]; {
		case good && i != 1: // a good account does not pay for the tries at others
			delete(d.known, door.key)
		case good:
		case t == nil || now.Sub(t.last) > forgetTries:
			d.known[door.key] = &tries{1, now}
		default:
			t.failures, t.last = t.failures+1, now
		}
	}
}

// forget drops what is old, or everything where nothing is.
func (d *doors) forget(now time.Time) {
	for key, t := range d.known {
		if now.Sub(t.last) > forgetTries {
			delete(d.known, key)
		}
	}
	if len(d.known) > mostTries {
		clear(d.known)
	}
}
