package main

import (
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"sync"
	"time"

	"mantilla/demo"
)

// crowd is everybody who uses the service.
type crowd struct {
	address string
	books   *books
	tokens  map[string]string // by people
	client  *http.Client

	mu      sync.Mutex
	results []string // that there are, of reports that everybody opens
	refused []string // what should have been done
}

// as is a caller for somebody.
func (c *crowd) as(name string) *caller {
	return &caller{base: "http://" + c.address + "/api", token: c.tokens[name], client: c.client, books: c.books,
		reader: name == "rhea"}
}

// let lets everybody in.
func (c *crowd) let(ctx context.Context, names ...string) error {
	c.tokens = map[string]string{}
	for _, name := range names {
		r, err := c.as("").until(ctx, http.StatusCreated, "POST", "/tokens",
			map[string]string{"name": name, "password": demo.Password})
		var in struct{ Token string }
		if err == nil {
			err = r.into(&in)
		}
		if err != nil {
			return fmt.Errorf("%s signs in: %w", name, err)
		}
		c.tokens[name] = in.Token
	}
	return nil
}

func (c *crowd) result() string {
	c.mu.Lock()
	defer c.mu.Unlock()
	if len(c.results) == 0 {
		return ""
	}
	return c.results[rand.IntN(len(c.results))]
}

func (c *crowd) wrong(err error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.refused = append(c.refused, err.Error())
}

// read opens results one after the other, with figures and values of their columns.
func (c *crowd) read(ctx context.Context) {
	as := c.as("rhea")
	ways := []string{"", "/views/*", "/views/lots?limit=50&group=grade", "/views/lots/figure?of=net_kg&group=grade",
		"/views/lots/values?of=district", "/views/lots/find?text=L26", "/columns", "/seal"}
	for ctx.Err() == nil {
		pause(ctx, time.Duration(100+rand.IntN(400))*time.Millisecond)
		result := c.result()
		if result == "" || rand.IntN(10) == 0 {
			_, _ = as.call(ctx, "GET", "/results", nil) // a reader looks again by themselves
			continue
		}
		_, _ = as.call(ctx, "GET", "/results/"+result+ways[rand.IntN(len(ways))], nil)
	}
}

// run asks for runs, again with the same key until the service takes one on, and waits for their ends.
func (c *crowd) run(ctx context.Context, who int) {
	as := c.as([]string{"runa", "dora"}[who%2])
	for n := 0; ctx.Err() == nil; n++ {
		key := fmt.Sprintf("soak-%d-%d", who, n)
		r, err := as.until(ctx, http.StatusCreated, "POST", "/runs", map[string]any{"report": "intake-lots",
			"values": map[string]string{"received": fmt.Sprintf("2026-0%d", 1+rand.IntN(9))}}, "Idempotency-Key", key)
		var run struct{ ID, State, Result string }
		if err == nil {
			err = r.into(&run)
		}
		if err != nil {
			if ctx.Err() == nil {
				c.wrong(err)
			}
			continue
		}
		c.books.promised(as.token+key, run.ID)
		for ctx.Err() == nil && (run.State == "waiting" || run.State == "running") {
			pause(ctx, 200*time.Millisecond)
			if r, err := as.until(ctx, http.StatusOK, "GET", "/runs/"+run.ID, nil); err == nil {
				_ = r.into(&run)
			} else if ctx.Err() == nil {
				c.wrong(err)
				break
			}
		}
		if run.Result != "" && who%2 == 0 {
			c.mu.Lock()
			c.results = append(c.results, run.Result)
			c.mu.Unlock()
		}
		pause(ctx, time.Duration(rand.IntN(1000))*time.Millisecond)
	}
}

// take takes files away, and every other time goes before the file is there.
func (c *crowd) take(ctx context.Context) {
	as := c.as("runa")
	for n := 0; ctx.Err() == nil; n++ {
		pause(ctx, time.Duration(200+rand.IntN(800))*time.Millisecond)
		result := c.result()
		if result == "" {
			continue
		}
		path := "/results/" + result + "/views/lots/file?format=" + []string{"csv", "xlsx", "pdf"}[n%3]
		if n%2 == 0 {
			_, _ = as.call(ctx, "GET", path, nil) // whoever takes files away tries again by themselves
			continue
		}
		request, err := http.NewRequestWithContext(ctx, "GET", as.base+path, nil)
		if err != nil {
			continue
		}
		request.Header.Set("Authorization", "Bearer "+as.token)
		if answer, err := as.client.Do(request); err == nil {
			_, _ = io.CopyN(io.Discard, answer.Body, 1000)
			answer.Body.Close()
		}
	}
}

// send sends results by mail.
func (c *crowd) send(ctx context.Context, who int) {
	as := c.as("runa")
	for n := 0; ctx.Err() == nil; n++ {
		pause(ctx, time.Duration(500+rand.IntN(1000))*time.Millisecond)
		result := c.result()
		if result == "" {
			continue
		}
		subject := fmt.Sprintf("soak %d %d", who, n)
		r, err := as.call(ctx, "POST", "/results/"+result+"/send", map[string]any{"to": []string{"a@example.org"},
			"subject": subject, "takes": []map[string]string{{"format": "csv"}}})
		if err == nil && r.status < 300 {
			c.books.toSend(subject)
		}
	}
}

// edit keeps criteria.
func (c *crowd) edit(ctx context.Context, who int) {
	as := c.as("runa")
	for n := 0; ctx.Err() == nil; n++ {
		pause(ctx, time.Duration(200+rand.IntN(600))*time.Millisecond)
		name := fmt.Sprintf("soak %d %d", who, n)
		r, err := as.call(ctx, "POST", "/reports/intake-lots/criteria", map[string]any{"name": name, "shared": "",
			"values": map[string]string{"received": "2026-08"}})
		var kept struct{ ID string }
		if err == nil && r.status < 300 && r.into(&kept) == nil {
			c.books.edited(kept.ID, name, true)
		}
	}
}

// dawdle begins to ask and never ends, and asks without listening.
func (c *crowd) dawdle(ctx context.Context) {
	for ctx.Err() == nil {
		conn, err := net.DialTimeout("tcp", c.address, time.Second)
		if err != nil {
			pause(ctx, 200*time.Millisecond)
			continue
		}
		request := "GET /api/results HTTP/1.1\r\nHost: x\r\nAuthorization: Bearer " + c.tokens["rhea"] + "\r\n"
		if rand.IntN(2) == 0 {
			request += "\r\n" // and does not read the answer
		}
		for _, piece := range []byte(request) {
			if _, err := conn.Write([]byte{piece}); err != nil {
				break
			}
			pause(ctx, 5*time.Millisecond)
		}
		pause(ctx, 2*time.Second)
		conn.Close()
	}
}
