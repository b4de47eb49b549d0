// Package apart has the queries of a run read by a process of its own, a worker, so that a query
// which takes all memory ends that process and not the service. Rows come back as Arrow batches.
package apart

import (
	"bytes"
	"context"
	"encoding/gob"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"github.com/apache/arrow-go/v18/arrow/ipc"

	"mantilla/core/query"
	"mantilla/model"
	"mantilla/source"
)

// Worker is how sources are read apart.
type Worker struct {
	Command []string // the program that runs [Serve], with its arguments
	Memory  int64    // bytes that it may hold
}

// Of is a source whose sessions are those of workers; all else it does itself.
func (w Worker) Of(s source.Source, c *source.Config, at source.Place) source.Source {
	return &apart{Source: s, worker: w, config: c, at: at}
}

type apart struct {
	source.Source
	worker Worker
	config *source.Config
	at     source.Place
}

// session is one that a worker has. It is asked by one goroutine.
type session struct {
	id          string // of the source
	memory      int64
	command     *exec.Cmd
	said        bytes.Buffer // what the worker wrote of itself
	telling     sync.Mutex   // held while something is asked
	asks        io.WriteCloser
	answers     *gob.Decoder
	fingerprint string
	ended       bool
	toolarge    atomic.Bool
	watched     chan struct{} // closed when its memory is no longer watched
}

// longestEnd is how long a worker may take to end after it was told to.
const longestEnd = 5 * time.Second

// Begin starts a worker, which ends with the context or when the session is closed.
func (a *apart) Begin(ctx context.Context) (source.Session, error) {
	begin := beginning{Declaration: a.config.Text, Dir: a.at.Dir}
	if a.config.Server != nil && a.config.Server.Password != "" {
		password, err := a.at.Secrets(a.config.Server.Password)
		if err != nil {
			return nil, fmt.Errorf("source %s: %w", a.config.ID, err)
		}
		begin.Password = password
	}
	if a.config.Keeps != nil && a.config.Keeps.Password != "" {
		password, err := a.at.Secrets(a.config.Keeps.Password)
		if err != nil {
			return nil, fmt.Errorf("source %s: %w", a.config.ID, err)
		}
		begin.Keeps = password
	}
	v := &session{id: a.config.ID, memory: a.worker.Memory, watched: make(chan struct{})}
	v.command = exec.CommandContext(ctx, a.worker.Command[0], a.worker.Command[1:]...)
	v.command.Cancel = func() error { return v.command.Process.Signal(syscall.SIGTERM) } // it stops its query
	v.command.WaitDelay = longestEnd
	v.command.Stderr = &v.said
	v.command.Env = append(os.Environ(), fmt.Sprintf("GOMEMLIMIT=%d", a.worker.Memory/10*8))
	out, err := v.command.StdoutPipe()
	if err == nil {
		v.asks, err = v.command.StdinPipe()
	}
	if err == nil {
		err = v.command.Start()
	}
	if err != nil {
		return nil, fmt.Errorf("source %s: starting what reads it: %w", v.id, err)
	}
	v.answers = gob.NewDecoder(out)
	go v.watch()
	said, err := v.ask(ctx, request{Begin: &begin}, nil)
	if err != nil {
		return nil, errors.Join(err, v.Close())
	}
	v.fingerprint = said.Fingerprint
	switch {
	case said.Keeps: // which reckons too
		return keeps{reckoning{v}}, nil
	case said.Reckons:
		return reckoning{v}, nil
	}
	return v, nil
}

// keeps is a session of an engine that lets rows stay where they lie, and can reckon.
type keeps struct{ reckoning }

// Keep has the worker let rows stay.
func (v keeps) Keep(ctx context.Context, q query.Query, k source.Keeping) (model.Stay, int64, error) {
	a, err := v.ask(ctx, request{Keep: &keeping{Query: *wired(q), As: k}}, nil)
	return a.Stay, a.Rows, err
}

// reckoning is a session of an engine that can tell how many rows there will be.
type reckoning struct{ *session }

// watch ends a worker that holds more memory than it may.
func (v *session) watch() {
	for {
		select {
		case <-v.watched:
			return
		case <-time.After(50 * time.Millisecond):
		}
		if held(v.command.Process.Pid) > v.memory {
			v.toolarge.Store(true)
			_ = v.command.Process.Kill() // it may have ended by itself
			return
		}
	}
}

// ask asks something and returns the last of what is answered, with the batches that come before
// handed to a sink.
func (v *session) ask(ctx context.Context, r request, to *source.Sink) (last answer, err error) {
	if ctx.Err() != nil {
		return last, context.Cause(ctx)
	}
	if v.ended {
		return last, fmt.Errorf("source %s: what reads it has ended", v.id)
	}
	if err := v.tell(r); err != nil {
		return last, v.died(ctx, err)
	}
	left := context.AfterFunc(ctx, func() { _ = v.tell(request{Stop: true}) }) // a worker that has ended is told as that
	defer left()
	var full error // the sink takes no more
	for {
		var a answer
		if err := v.answers.Decode(&a); err != nil {
			return last, v.died(ctx, err)
		}
		switch {
		case a.Batch != nil && full == nil:
			if full = pour(a.Batch, to); full != nil {
				if err := v.tell(request{Stop: true}); err != nil {
					return last, v.died(ctx, errors.Join(full, err))
				}
			}
		case a.Batch != nil:
		case full != nil:
			return last, full
		case a.Fault != nil && ctx.Err() != nil:
			return last, context.Cause(ctx)
		case a.Fault != nil:
			return last, a.Fault
		default:
			return a, nil
		}
	}
}

func (v *session) tell(r request) error {
	v.telling.Lock()
	defer v.telling.Unlock()
	return json.NewEncoder(v.asks).Encode(r)
}

// pour hands the batch that bytes hold to a sink.
func pour(batch []byte, to *source.Sink) error {
	r, err := ipc.NewReader(bytes.NewReader(batch))
	if err != nil {
		return fmt.Errorf("reading what was read apart: %w", err)
	}
	defer r.Release()
	for r.Next() {
		record := r.RecordBatch()
		record.Retain() // the sink has it from now on
		if err := to.Batch(record); err != nil {
			return err
		}
	}
	return r.Err()
}

// died tells why a worker answers no more.
func (v *session) died(ctx context.Context, err error) error {
	v.end()
	switch {
	case ctx.Err() != nil:
		return context.Cause(ctx)
	case v.toolarge.Load():
		return fmt.Errorf("source %s: reading it took more than %d MB of memory, the limit of a run; choose less", v.id,
			v.memory>>20)
	}
	why := err.Error()
	if lines := strings.Split(strings.TrimSpace(v.said.String()), "\n"); lines[0] != "" {
		why = lines[0]
	}
	return fmt.Errorf("source %s: what reads it ended: %s", v.id, why)
}

// end ends the worker, at once where it is at work.
func (v *session) end() {
	if v.ended {
		return
	}
	v.ended = true
	_ = v.command.Cancel() // it may have ended by itself
	_ = v.asks.Close()
	late := time.AfterFunc(longestEnd, func() { _ = v.command.Process.Kill() })
	_ = v.command.Wait() // how it ended is told by what it did not answer
	late.Stop()
	close(v.watched)
}

// Read pours the rows of a query that the worker reads.
func (v *session) Read(ctx context.Context, q query.Query, to *source.Sink) error {
	_, err := v.ask(ctx, request{Read: wired(q)}, to)
	return err
}

// Reckon has the worker ask the engine, where it can tell.
func (v reckoning) Reckon(ctx context.Context, q query.Query) (int64, error) {
	a, err := v.ask(ctx, request{Reckon: wired(q)}, nil)
	return a.Rows, err
}

// Fingerprint identifies the state that the session reads.
func (v *session) Fingerprint() string { return v.fingerprint }

// Close ends the worker.
func (v *session) Close() error {
	v.end()
	return nil
}
