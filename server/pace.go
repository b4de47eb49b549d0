package server

import (
	"math"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"

	"golang.org/x/time/rate"

	"mantilla/model"
	"mantilla/server/answer"
)

// burst is for how many seconds of its rate somebody may ask at once: a page of the console asks
// for much together.
const burst = 6

// paces bound how many requests a person goes on making, or a machine that nobody signed in from, so
// that nobody's program keeps the others from being answered.
type paces struct {
	rate rate.Limit

	mu  sync.Mutex
	all map[string]*rate.Limiter
}

// newPaces makes them for so many requests a second; nil for any number.
func newPaces(perSecond float64) *paces {
	if perSecond == 0 {
		return nil
	}
	return &paces{rate: rate.Limit(perSecond), all: map[string]*rate.Limiter{}}
}

// wait is how long somebody has to wait before they are answered again; 0 for not at all.
func (p *paces) wait(who string) time.Duration {
	if p == nil {
		return 0
	}
	p.mu.Lock()
	const most = 10_000
	if len(p.all) >= most { // those who were quiet begin anew
		clear(p.all)
	}
	l, ok := p.all[who]
	if !ok {
		l = rate.NewLimiter(p.rate, int(burst*p.rate)+1)
		p.all[who] = l
	}
	p.mu.Unlock()
	r := l.Reserve()
	wait := r.Delay()
	if wait > 0 {
		r.Cancel()
	}
	return wait
}

// paced refuses who makes calls too often, with when to ask again. What the console is made of is not
// counted: a whole house may open it at once, from one address.
func (s *service) paced(w http.ResponseWriter, r *http.Request) error {
	if !strings.HasPrefix(r.URL.Path, "/api/") {
		return nil
	}
	c := answer.CallOf(r.Context())
	who := "address " + c.From
	if c.Who != nil {
		who = "person " + c.Who.Person().Name
	}
	if wait := s.paces.wait(who); wait > 0 {
		seconds := int(math.Ceil(wait.Seconds()))
		w.Header().Set("Retry-After", strconv.Itoa(seconds))
		return model.TooMuch("more is asked than %v times a second; ask again in %d s", s.paces.rate, seconds)
	}
	return nil
}
