// Package memory says how much memory the service aims at: little at most times, more while a whole
// site is read or written, which would otherwise be spent on collecting.
package memory

import (
	"os"
	"runtime/debug"
	"sync"
)

// The limits that the collector aims at, in bytes. GOMEMLIMIT sets another, for all times.
const (
	aimed   = 128 << 20
	atWork  = 200 << 20
	collect = 300 // GOGC: much is made and thrown away while sites are read and shown
)

var at struct {
	mu    sync.Mutex
	set   bool
	works int
}

// Aim begins to aim at little.
func Aim() {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(collect)
	}
	if os.Getenv("GOMEMLIMIT") == "" {
		at.mu.Lock()
		defer at.mu.Unlock()
		at.set = true
		debug.SetMemoryLimit(aimed)
	}
}

// Work allows more until the function that it gives is called.
func Work() (done func()) {
	change := func(by int) {
		at.mu.Lock()
		defer at.mu.Unlock()
		if at.works += by; !at.set {
			return
		}
		limit := int64(aimed)
		if at.works > 0 {
			limit = atWork
		}
		debug.SetMemoryLimit(limit)
	}
	change(1)
	var once sync.Once
	return func() { once.Do(func() { change(-1) }) }
}
