package apart

import (
	"bytes"
	"context"
	"encoding/gob"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"sync"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/ipc"

	"mantilla/core/frame"
	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/source"
)

// Serve is the work of a worker: it opens a source, and answers what it is asked of one session
// until there is no more to read, or the context ends.
func Serve(ctx context.Context, in io.Reader, out io.Writer) error {
	s := &serving{answers: gob.NewEncoder(out)}
	defer s.close()
	for r := range s.listen(in) {
		last, err := s.work(ctx, r)
		if err != nil {
			last = answer{Fault: faultOf(err)}
		}
		if err := s.answers.Encode(last); err != nil {
			return fmt.Errorf("answering: %w", err)
		}
		if ctx.Err() != nil {
			return nil
		}
	}
	return nil
}

// serving is a source that was opened, and its session.
type serving struct {
	answers *gob.Encoder
	source  source.Source
	session source.Session

	mu   sync.Mutex
	stop context.CancelFunc // of what is under way; nil where nothing is
}

// listen hands on what is asked until there is no more, and stops what is under way when that is asked.
func (s *serving) listen(in io.Reader) <-chan request {
	asked := make(chan request)
	go func() {
		defer close(asked)
		defer s.halt() // nobody is there to take the rest
		for requests := json.NewDecoder(in); ; {
			var r request
			if err := requests.Decode(&r); err != nil {
				return
			}
			if r.Stop {
				s.halt()
				continue
			}
			asked <- r
		}
	}()
	return asked
}

func (s *serving) halt() {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.stop != nil {
		s.stop()
	}
}

// work answers a request so that it can be stopped.
func (s *serving) work(ctx context.Context, r request) (last answer, err error) {
	if r.Begin != nil { // a session lasts longer than what is asked of it
		return s.answer(ctx, r)
	}
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	s.mu.Lock()
	s.stop = stop
	s.mu.Unlock()
	defer func() {
		s.mu.Lock()
		s.stop = nil
		s.mu.Unlock()
	}()
	return s.answer(ctx, r)
}

var errUnasked = errors.New("nothing that can be answered is asked")

func (s *serving) answer(ctx context.Context, r request) (last answer, err error) {
	switch {
	case r.Begin != nil && s.session == nil:
		if err := s.begin(ctx, *r.Begin); err != nil {
			return last, err
		}
		_, reckons := s.session.(source.Reckoner)
		_, keeps := s.session.(source.Keeper)
		return answer{Fingerprint: s.session.Fingerprint(), Reckons: reckons, Keeps: keeps}, nil
	case s.session == nil:
		return last, errUnasked
	case r.Read != nil:
		return last, s.read(ctx, *r.Read)
	case r.Reckon != nil:
		reckoner, ok := s.session.(source.Reckoner)
		if !ok {
			return last, errors.New("the source cannot tell how many rows there will be")
		}
		last.Rows, err = reckoner.Reckon(ctx, *r.Reckon)
		return last, err
	case r.Keep != nil:
		keeper, ok := s.session.(source.Keeper)
		if !ok {
			return last, source.ErrKeepsNothing
		}
		last.Stay, last.Rows, err = keeper.Keep(ctx, r.Keep.Query, r.Keep.As)
		return last, err
	}
	return last, errUnasked
}

func (s *serving) begin(ctx context.Context, b beginning) error {
	config, err := source.ParseConfig([]byte(b.Declaration))
	if err != nil {
		return err
	}
	secrets := func(name string) (string, error) {
		if config.Keeps != nil && name == config.Keeps.Password {
			return b.Keeps, nil
		}
		return b.Password, nil
	}
	if s.source, err = source.Open(config, source.Place{Dir: b.Dir, Secrets: secrets}); err != nil {
		return err
	}
	s.session, err = s.source.Begin(ctx)
	return err
}

// read answers with the rows of a query, batch by batch.
func (s *serving) read(ctx context.Context, q query.Query) error {
	sink := source.NewSink(report.SchemaOf(q.Dataset.Read()), frame.BatchRows, s.hand, func(int64) error { return nil })
	if err := s.session.Read(ctx, q, sink); err != nil {
		return err
	}
	return sink.Close()
}

func (s *serving) hand(record arrow.RecordBatch) error {
	defer record.Release()
	var bytes bytes.Buffer
	w := ipc.NewWriter(&bytes, ipc.WithSchema(record.Schema()))
	if err := errors.Join(w.Write(record), w.Close()); err != nil {
		return err
	}
	return s.answers.Encode(answer{Batch: bytes.Bytes()})
}

func (s *serving) close() {
	if s.session != nil {
		_ = s.session.Close() // the process ends
	}
	if s.source != nil {
		_ = s.source.Close()
	}
}
