package rescue

import (
	"context"
	"runtime"
	"sync"
)

// Workers is how many pieces of work [Spread] does at a time.
var Workers = max(runtime.GOMAXPROCS(0), 1)

// Spread calls work for every number below n from several goroutines and
// returns the first error. A worker's numbers rise. Between two numbers it looks
// whether the context has ended.
func Spread(ctx context.Context, n int, work func(worker, i int) error) error {
	if n < 2 || Workers == 1 {
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
	errs := make([]error, min(Workers, n))
	var all sync.WaitGroup
	for w := range errs {
		all.Go(func() {
			for i := w * n / len(errs); i < (w+1)*n/len(errs) && errs[w] == nil; i++ {
				if ctx.Err() != nil {
					errs[w] = context.Cause(ctx)
					return
				}
				errs[w] = Call(func() error { return work(w, i) })
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
