package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"time"
)

// caller makes calls as a person, and has the books know of every answer.
type caller struct {
	base, token string
	client      *http.Client
	books       *books
	reader      bool // whose waiting is measured
}

// reply is an answer as it was heard.
type reply struct {
	status int
	retry  time.Duration
	body   []byte
}

func (r reply) into(v any) error { return json.Unmarshal(r.body, v) }

// call makes a call. An error says that it was not answered.
func (c *caller) call(ctx context.Context, method, path string, body any, header ...string) (r reply, err error) {
	var text []byte
	if body != nil {
		if text, err = json.Marshal(body); err != nil {
			return r, err
		}
	}
	request, err := http.NewRequestWithContext(ctx, method, c.base+path, bytes.NewReader(text))
	if err != nil {
		return r, err
	}
	request.Header.Set("Content-Type", "application/json")
	if c.token != "" {
		request.Header.Set("Authorization", "Bearer "+c.token)
	}
	for i := 0; i+1 < len(header); i += 2 {
		request.Header.Set(header[i], header[i+1])
	}
	begun := time.Now()
	answer, err := c.client.Do(request)
	if err == nil {
		defer answer.Body.Close()
		r.status = answer.StatusCode
		r.body, err = io.ReadAll(answer.Body)
	}
	if err != nil {
		if ctx.Err() == nil {
			c.books.unanswered()
		}
		return r, err
	}
	retry := answer.Header.Get("Retry-After")
	seconds, _ := strconv.Atoi(retry)
	r.retry = time.Duration(seconds) * time.Second
	c.books.answered(method+" "+path, r.status, retry, time.Since(begun), c.reader, r.body)
	return r, nil
}

// until makes a call again until it is answered with a status, as a careful program does. It gives up where
// the answer is one that asking again cannot mend.
func (c *caller) until(ctx context.Context, status int, method, path string, body any, header ...string) (reply,
	error) {
	for {
		r, err := c.call(ctx, method, path, body, header...)
		switch {
		case err == nil && r.status == status:
			return r, nil
		case ctx.Err() != nil:
			return r, ctx.Err()
		case err == nil && r.status != http.StatusServiceUnavailable && r.status != http.StatusTooManyRequests:
			return r, fmt.Errorf("%s %s: %d %.300s", method, path, r.status, r.body)
		}
		pause(ctx, min(max(r.retry, 100*time.Millisecond), time.Second))
	}
}

func pause(ctx context.Context, d time.Duration) {
	select {
	case <-ctx.Done():
	case <-time.After(d):
	}
}
