package lookup

import (
	"context"
	"errors"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"mantilla/core/fold"
	"mantilla/core/param"
	"mantilla/core/report"
	"mantilla/source"
)

// Book holds the lists of one source. It is safe for several goroutines.
type Book struct {
	config *source.Config
	source source.Source
	mu     sync.Mutex
	lists  map[string]*slot
}

// slot holds the newest reading of one list.
type slot struct {
	reading sync.Mutex
	list    *list
}

// New makes a book of the lists that the source declares.
func New(config *source.Config, s source.Source) *Book {
	return &Book{config: config, source: s, lists: map[string]*slot{}}
}

// list is one list, ready to be searched.
type list struct {
	fingerprint string
	asked       atomic.Int64 // when the source was asked last, in nanoseconds since 1970
	items       []source.Item
	folded      []string // codes, labels and further fields, in lines
	byCode      map[string]int
	byName      map[string][]int // folded codes and labels
	below       map[string][]int
}

// get returns a list as the source has it now.
func (b *Book) get(ctx context.Context, id string) (*list, error) {
	if _, err := b.config.Declared(id); err != nil {
		return nil, err
	}
	b.mu.Lock()
	s := b.lists[id]
	if s == nil {
		s = &slot{list: &list{}}
		b.lists[id] = s
	}
	b.mu.Unlock()
	if kept := s.rested(b.source.Rest()); kept != nil {
		return kept, nil
	}
	state, err := b.source.Fingerprint(ctx)
	if errors.Is(err, source.ErrSilent) && s.known() != nil {
		return s.known(), nil // forms go on; a run will tell that the source does not answer
	}
	if err != nil {
		return nil, err
	}
	s.reading.Lock()
	defer s.reading.Unlock()
	if s.list.fingerprint == state {
		s.list.asked.Store(time.Now().UnixNano())
		return s.list, nil
	}
	items, err := b.source.List(ctx, id)
	if err != nil {
		return nil, err
	}
	s.list = &list{fingerprint: state, items: items}
	s.list.index()
	s.list.asked.Store(time.Now().UnixNano())
	return s.list, nil
}

// known is the list as it was read last; nil before.
func (s *slot) known() *list {
	s.reading.Lock()
	defer s.reading.Unlock()
	if s.list.fingerprint == "" {
		return nil
	}
	return s.list
}

// rested is the list, where the source was asked less than so long ago; nil otherwise.
func (s *slot) rested(rest time.Duration) *list {
	if l := s.known(); l != nil && rest > 0 && time.Since(time.Unix(0, l.asked.Load())) < rest {
		return l
	}
	return nil
}

func (l *list) index() {
	l.folded = make([]string, len(l.items))
	l.byCode, l.byName, l.below = make(map[string]int, len(l.items)), make(map[string][]int, 2*len(l.items)),
		map[string][]int{}
	for i, item := range l.items {
		code, label := fold.Text(item.Code), fold.Text(item.Label)
		l.folded[i] = code + "\n" + label
		for _, f := range item.Find {
			l.folded[i] += "\n" + fold.Text(f)
		}
		l.byCode[item.Code] = i
		l.byName[code] = append(l.byName[code], i)
		if label != code {
			l.byName[label] = append(l.byName[label], i)
		}
		if item.Parent != "" {
			l.below[item.Parent] = append(l.below[item.Parent], i)
		}
	}
}

// Warm reads every list, so that the first to ask does not wait, and tries those that are large.
func (b *Book) Warm(ctx context.Context) error {
	for _, id := range b.config.ListNames() {
		if b.config.Lists[id].Large {
			if _, err := b.source.Find(ctx, id, source.Sought{Words: []string{"a"}, Limit: 1}); err != nil {
				return err
			}
			continue
		}
		if _, err := b.get(ctx, id); err != nil {
			return err
		}
	}
	return nil
}

// Reach expands the units that a person is limited to, written as [report.BoundsOf] says, by all below them.
func (b *Book) Reach(ctx context.Context, units []string) (report.Reach, error) {
	if b.config.Units == "" {
		return report.Reach{Limited: true, Units: []string{}}, nil
	}
	l, err := b.get(ctx, b.config.Units)
	if err != nil {
		return report.Reach{}, err
	}
	return report.Reach{Limited: true, Units: l.within(report.BoundsOf(units))}, nil
}

// within are the units that lie within bounds, sorted.
func (l *list) within(bounds []report.Bound) []string {
	var in, out []string
	for _, b := range bounds {
		under := l.under([]string{b.Unit})
		if b.Kind != "" {
			under = slices.DeleteFunc(under, func(code string) bool {
				at, known := l.byCode[code]
				return !known || l.items[at].Kind != b.Kind
			})
		}
		if b.Except {
			out = append(out, under...)
		} else {
			in = append(in, under...)
		}
	}
	slices.Sort(in)
	return slices.DeleteFunc(slices.Compact(in), func(code string) bool { return slices.Contains(out, code) })
}

// Units returns the units of a kind that are in use, in the source's order.
func (b *Book) Units(ctx context.Context, kind string) (units []param.Entry, kinds []string, err error) {
	if b.config.Units == "" {
		return nil, nil, nil
	}
	l, err := b.get(ctx, b.config.Units)
	if err != nil {
		return nil, nil, err
	}
	for _, i := range l.items {
		if i.Kind != "" && !slices.Contains(kinds, i.Kind) {
			kinds = append(kinds, i.Kind)
		}
		if i.Kind == kind && i.Current {
			units = append(units, i.Entry)
		}
	}
	return units, kinds, nil
}

// under returns the codes and those of all entries below, sorted.
func (l *list) under(codes []string) []string {
	seen := map[string]bool{}
	var add func(code string)
	add = func(code string) {
		if seen[code] {
			return
		}
		seen[code] = true
		for _, i := range l.below[code] {
			add(l.items[i].Code)
		}
	}
	for _, c := range codes {
		add(c)
	}
	out := make([]string, 0, len(seen))
	for c := range seen {
		out = append(out, c)
	}
	slices.Sort(out)
	return out
}
