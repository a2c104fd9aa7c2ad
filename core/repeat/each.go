package repeat

import (
	"runtime"
	"sync"
	"sync/atomic"
)

// each calls work for 0 to n-1, on all cores, each worker with a number of its own.
// It gives the error of the lowest number.
func each(n int, work func(worker, i int) error) error {
	errs := make([]error, n)
	var next atomic.Int64
	var done sync.WaitGroup
	for w := range min(workers(), n) {
		done.Add(1)
		go func() {
			defer done.Done()
			for i := int(next.Add(1)) - 1; i < n; i = int(next.Add(1)) - 1 {
				errs[i] = work(w, i)
			}
		}()
	}
	done.Wait()
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

func workers() int { return runtime.GOMAXPROCS(0) }
