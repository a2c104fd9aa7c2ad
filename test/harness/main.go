package harness

import (
	"os"
	"sync"
	"testing"
)

var ends struct {
	mu   sync.Mutex
	list []func()
}

// atEnd lets something be done when the tests of the package are done.
func atEnd(f func()) {
	ends.mu.Lock()
	defer ends.mu.Unlock()
	ends.list = append(ends.list, f)
}

// Main runs a package's tests and takes away what they share: databases, worlds, binaries. Every package whose tests
// use some calls it from TestMain.
func Main(m *testing.M) {
	code := m.Run()
	for _, f := range ends.list {
		f()
	}
	os.Exit(code)
}
