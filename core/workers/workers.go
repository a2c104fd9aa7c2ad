// Package workers spreads work over all cores.
package workers

import (
	"errors"
	"fmt"
	"runtime"
	"runtime/debug"
	"sync"
	"sync/atomic"
)

// Count is how many workers there are at most.
func Count() int { return runtime.GOMAXPROCS(0) }

// Each calls work for 0 to n-1, in this order but several at once, each worker with a number
// of its own below Count. After an error nothing new is begun; it gives the error of the
// lowest number. A panic goes on in the caller, with the stack on which it began: who
// recovers there recovers from it, and the process lives.
func Each(n int, work func(worker, i int) error) error {
	return Some(Count(), n, work)
}

// Some is Each with at most so many workers.
func Some(most, n int, work func(worker, i int) error) error {
	errs := make([]error, n)
	var next atomic.Int64
	var over atomic.Bool
	var broken atomic.Pointer[Panic]
	var done sync.WaitGroup
	for w := range max(1, min(most, n)) {
		done.Go(func() {
			err := Guard(func() error {
				for i := int(next.Add(1)) - 1; i < n && !over.Load(); i = int(next.Add(1)) - 1 {
					if errs[i] = work(w, i); errs[i] != nil {
						over.Store(true)
					}
				}
				return nil
			})
			var p *Panic
			if errors.As(err, &p) {
				over.Store(true)
				broken.CompareAndSwap(nil, p)
			}
		})
	}
	done.Wait()
	if p := broken.Load(); p != nil {
		panic(p)
	}
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

// Guard calls f; a panic of it becomes an error, a *Panic. It is for work in the background,
// which nobody else recovers.
func Guard(f func() error) (err error) {
	defer func() {
		if r := recover(); r != nil {
			p, ok := r.(*Panic)
			if !ok {
				p = &Panic{r, debug.Stack()}
			}
			err = p
		}
	}()
	return f()
}

// Panic is what somebody panicked with, and the stack on which it was.
type Panic struct {
	Value any
	Stack []byte
}

// Stack gives the stack of a panic that an error is; empty for all others.
func Stack(err error) string {
	var p *Panic
	if errors.As(err, &p) {
		return string(p.Stack)
	}
	return ""
}

// Error gives the value; what a stack says is for logs.
func (p *Panic) Error() string { return fmt.Sprintf("internal: %v", p.Value) }
