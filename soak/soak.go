package main

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"net"
	"net/http"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"mantilla/deliver/mailbox"
	"mantilla/demo"
)

// soak is one time that the service is used hard.
type soak struct {
	dir      string
	keeper   *keeper
	wire     *wire
	box      *mailbox.Box
	crowd    *crowd
	books    *books
	ahead    int64 // how far the clock is set forth, in seconds
	happened map[string]int
	copies   []backedUp
	length   time.Duration
	calm     time.Duration // that the service needed to do what it had promised
}

// run uses the service for so long, and tells what was found. The error says everything that was not right.
func run(ctx context.Context, dir string, length time.Duration) (found string, err error) {
	s, err := begun(ctx, dir)
	if err != nil {
		return "", err
	}
	s.length = length
	defer s.keeper.end()
	defer s.box.Close()
	defer s.wire.listen.Close()
	using, stop := context.WithTimeout(ctx, length)
	defer stop()
	var people sync.WaitGroup
	for _, c := range []struct {
		many int
		do   func(ctx context.Context, who int)
	}{
		{100, func(ctx context.Context, _ int) { s.crowd.read(ctx) }},
		{20, s.crowd.run},
		{4, func(ctx context.Context, _ int) { s.crowd.take(ctx) }},
		{3, s.crowd.send},
		{3, s.crowd.edit},
		{10, func(ctx context.Context, _ int) { s.crowd.dawdle(ctx) }},
		{1, s.measure},
	} {
		for who := range c.many {
			people.Go(func() { c.do(using, who) })
		}
	}
	err = s.goWrong(using, length)
	people.Wait()
	if err == nil {
		err = s.check(ctx)
	}
	return s.told(), err
}

// begun has everything ready: the demo's data, a mail server with a wire to it, and the service.
func begun(ctx context.Context, dir string) (*soak, error) {
	if err := demo.WriteData(ctx, dir); err != nil {
		return nil, err
	}
	free, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	address := free.Addr().String()
	if err := free.Close(); err != nil {
		return nil, err
	}
	s := &soak{dir: dir, books: newBooks(), happened: map[string]int{}}
	if s.box, err = mailbox.Open(filepath.Join(dir, "soak-mail"), "127.0.0.1:0", time.Now); err != nil {
		return nil, err
	}
	if s.wire, err = newWire(s.box.Address()); err != nil {
		return nil, err
	}
	s.keeper = &keeper{dir: dir, address: address, mail: s.wire.listen.Addr().String()}
	s.crowd = &crowd{address: address, books: s.books, client: &http.Client{Timeout: 30 * time.Second,
		Transport: &http.Transport{MaxIdleConnsPerHost: 200}}}
	if err := s.keeper.start(ctx); err != nil {
		return nil, err
	}
	if err := s.crowd.let(ctx, "rhea", "runa", "dora", "adda"); err != nil {
		return nil, err
	}
	_, err = s.crowd.as("runa").until(ctx, http.StatusOK, "PUT", "/controls/soak", map[string]any{"title": "Soak",
		"shared": "everyone", "steps": []map[string]any{{"report": "stock-lines"}}, "outputs": []string{}, "rows": 0,
		"seconds": 0, "hours": "", "empty": "keep", "keepDays": 0,
		"timetable": map[string]any{"rule": "FREQ=DAILY", "at": "06:00", "missed": "all"}})
	return s, err
}

// measure follows what the service takes.
func (s *soak) measure(ctx context.Context, _ int) {
	for ctx.Err() == nil {
		s.keeper.measure()
		pause(ctx, 250*time.Millisecond)
	}
}

// check waits until the service has done what it promised, and holds it against the books.
func (s *soak) check(ctx context.Context) error {
	as := s.crowd.as("runa")
	begun := time.Now()
	if err := s.hasten(ctx, as); err != nil {
		return err
	}
	if err := s.settled(ctx, as); err != nil {
		return err
	}
	s.calm = time.Since(begun)
	var wrong []error
	add := func(format string, args ...any) { wrong = append(wrong, fmt.Errorf(format, args...)) }
	for _, text := range slices.Concat(s.books.wrong, s.crowd.refused, s.books.twice) {
		add("%s", text)
	}
	seen := map[string]string{}
	for key, run := range s.books.runs {
		if other, is := seen[run]; is {
			add("%s and %s are both %s", key, other, run)
		}
		seen[run] = key
		who := as
		if strings.HasPrefix(key, s.crowd.tokens["dora"]) {
			who = s.crowd.as("dora")
		}
		r, err := who.until(ctx, http.StatusOK, "GET", "/runs/"+run, nil)
		var is struct{ State, Reason string }
		if err = errors.Join(err, r.into(&is)); err != nil {
			add("%s was promised: %w", run, err)
		} else if is.State != "done" && is.Reason == "" {
			add("%s is %s and does not say why", run, is.State)
		}
	}
	for id, names := range s.books.edits {
		r, err := as.until(ctx, http.StatusOK, "GET", "/criteria/"+id, nil)
		if err != nil || !strings.Contains(string(r.body), `"`+names[0]+`"`) {
			add("%s were kept as %q and are %s, %v", id, names, r.body, err)
		}
	}
	return errors.Join(append(wrong, s.lettersRight(), s.momentsRight(ctx, as), s.flat(),
		s.copiesRight(ctx))...)
}

// settled waits until nothing goes on any more.
func (s *soak) settled(ctx context.Context, as *caller) error {
	for begun := time.Now(); ; pause(ctx, 200*time.Millisecond) {
		open := 0
		for _, list := range []string{"/runs?state=waiting", "/runs?state=running", "/parcels?state=waiting"} {
			r, err := as.until(ctx, http.StatusOK, "GET", list, nil)
			var all []any
			if err = errors.Join(err, r.into(&all)); err != nil {
				return fmt.Errorf("%s: %w", list, err)
			}
			open += len(all)
		}
		if open == 0 {
			return nil
		}
		if time.Since(begun) > 90*time.Second {
			return fmt.Errorf("%d runs and parcels do not come to an end", open)
		}
	}
}

// hasten sets the clock forth to when everything is tried again that went wrong, and has one more letter
// sent, so that the queue is looked at.
func (s *soak) hasten(ctx context.Context, as *caller) error {
	if err := s.setClock(25 * 3600); err != nil {
		return err
	}
	pause(ctx, 200*time.Millisecond)
	if s.crowd.result() == "" {
		return nil
	}
	_, err := as.until(ctx, http.StatusCreated, "POST", "/results/"+s.crowd.result()+"/send",
		map[string]any{"to": []string{"a@example.org"}, "subject": "the last", "takes": []any{}})
	return err
}

// lettersRight holds the letters against what was to be sent: each once.
func (s *soak) lettersRight() error {
	times := map[string]int{}
	for _, l := range s.box.Letters() {
		times[l.Subject]++
	}
	var wrong []error
	for subject := range s.books.letters {
		if times[subject] == 0 {
			wrong = append(wrong, fmt.Errorf("the letter %q was taken on and did not come", subject))
		}
	}
	for subject, n := range times {
		if n > 1 && strings.HasPrefix(subject, "soak ") {
			wrong = append(wrong, fmt.Errorf("the letter %q came %d times", subject, n))
		}
	}
	return errors.Join(wrong...)
}

// momentsRight looks that every moment of the timetable was due once.
func (s *soak) momentsRight(ctx context.Context, as *caller) error {
	r, err := as.until(ctx, http.StatusOK, "GET", "/controls/soak/runs?limit=1000", nil)
	var runs []struct{ ID, Moment string }
	if err = errors.Join(err, r.into(&runs)); err != nil {
		return err
	}
	seen := map[string]string{}
	for _, x := range runs {
		if other, is := seen[x.Moment]; is && x.Moment != "" {
			return fmt.Errorf("the moment %s was due twice: %s and %s", x.Moment, other, x.ID)
		}
		seen[x.Moment] = x.ID
	}
	const looked = 35 * time.Second // at the timetable at the latest
	if s.length > 2*looked && s.happened["the clock is set forth"] > 0 && len(seen) == 0 {
		return errors.New("no moment was due, although the clock was set forth by a day")
	}
	return nil
}

// flat looks that the service takes no more as it goes on, beyond what its cache may hold: once it was warm,
// and for as long as that can be told.
func (s *soak) flat() error {
	const warm, enough = 40, 80 // measurements, four of them a second
	if n := len(s.keeper.sizes); n > 0 && (s.keeper.sizes[n-1].memory > 2<<30 || s.keeper.sizes[n-1].files > 1000) {
		last := s.keeper.sizes[n-1]
		return fmt.Errorf("it takes %d MB and has %d files open", last.memory>>20, last.files)
	}
	if len(s.keeper.sizes) < warm+enough {
		return nil
	}
	all := s.keeper.sizes[warm:]
	half := len(all) / 2
	middle := func(part []size, of func(size) int64) int64 {
		var values []int64
		for _, x := range part {
			values = append(values, of(x))
		}
		slices.Sort(values)
		return values[len(values)/2]
	}
	memory := func(x size) int64 { return x.memory }
	files := func(x size) int64 { return int64(x.files) }
	const cache = 128 << 20
	was, is := middle(all[:half], memory), middle(all[half:], memory)
	if is > was+was/4+cache {
		return fmt.Errorf("it takes %d MB where it took %d MB", is>>20, was>>20)
	}
	if was, is := middle(all[:half], files), middle(all[half:], files); is > was+was/4+100 {
		return fmt.Errorf("it has %d files open where it had %d", is, was)
	}
	return nil
}

// told says what happened and what was measured.
func (s *soak) told() string {
	var out strings.Builder
	for _, name := range slices.Sorted(maps.Keys(s.happened)) {
		fmt.Fprintf(&out, "%-26s %d times\n", name, s.happened[name])
	}
	b := s.books
	for _, status := range slices.Sorted(maps.Keys(b.answers)) {
		fmt.Fprintf(&out, "answers with %d           %d\n", status, b.answers[status])
	}
	fmt.Fprintf(&out, "calls without an answer    %d, while the power was gone\n", b.cut)
	for _, took := range s.keeper.back {
		fmt.Fprintf(&out, "back after a power cut     in %v\n", took.Round(time.Millisecond))
	}
	fmt.Fprintf(&out, "promised                   %d runs, %d letters, %d criteria\n", len(b.runs), len(b.letters),
		len(b.edits))
	fmt.Fprintf(&out, "back-ups under load        %d, restored and proven\n", len(s.copies))
	fmt.Fprintf(&out, "letters that came again    %d, known by their ids\n", s.box.Again())
	fmt.Fprintf(&out, "readers waited             %v at the median, %v at the 99th of a hundred, of %d\n",
		b.share(50).Round(time.Millisecond), b.share(99).Round(time.Millisecond), len(b.took))
	fmt.Fprintf(&out, "all was done               %v after\n", s.calm.Round(time.Millisecond))
	if n := len(s.keeper.sizes); n > 0 {
		last := s.keeper.sizes[n-1]
		fmt.Fprintf(&out, "the service takes          %d MB, %d files\n", last.memory>>20, last.files)
	}
	return out.String()
}
