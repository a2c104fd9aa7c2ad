package making

import (
	"sync"

	"compactparcel/core/item"
	"compactparcel/core/lighten"
)

// A kit in the making is looked at many times before it is sealed: its lighter pictures
// are kept for a while.
type memoKey struct {
	doc item.Digest
	how Treatment
	key string
}

type memoed struct {
	made    []byte
	was, is lighten.Size
	err     error
}

// maxMemo bounds what is kept, in bytes.
const maxMemo = 64 << 20

type memory struct {
	mu    sync.Mutex
	made  map[memoKey]memoed
	bytes int
}

var memo = &memory{made: map[memoKey]memoed{}}

func (m *memory) get(k memoKey) (memoed, bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	v, ok := m.made[k]
	return v, ok
}

func (m *memory) put(k memoKey, v memoed) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.bytes += len(v.made) + 256; m.bytes > maxMemo {
		m.made, m.bytes = map[memoKey]memoed{}, len(v.made)
	}
	m.made[k] = v
}
