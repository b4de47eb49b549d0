package kept

import (
	"context"
	"runtime"
	"sync"

	"mantilla/core/rescue"
)

// workers is how many pieces of work go on at a time.
var workers = max(runtime.GOMAXPROCS(0), 1)

// manyRows is from how many rows on it pays to share work.
const manyRows = 4096

// spread calls work for every number below n from several goroutines and
// returns the first error. A worker's numbers rise. Between two numbers it looks
// whether the context has ended.
func spread(ctx context.Context, n int, work func(worker, i int) error) error {
	if n < 2 || workers == 1 {
		for i := range n {
			if ctx.Err() != nil {
				return context.Cause(ctx)
			}
			if err := work(0, i); err != nil {
				return err
			}
		}
		return nil
	}
	errs := make([]error, min(workers, n))
	var all sync.WaitGroup
	for w := range errs {
		all.Go(func() {
			for i := w * n / len(errs); i < (w+1)*n/len(errs) && errs[w] == nil; i++ {
				if ctx.Err() != nil {
					errs[w] = context.Cause(ctx)
					return
				}
				errs[w] = rescue.Call(func() error { return work(w, i) })
			}
		})
	}
	all.Wait()
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}
