package preview

import (
	"context"
	"net/http"
	"strings"
	"sync"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/store"

	lru "github.com/hashicorp/golang-lru/v2/simplelru"
)

// A state never changes, so what it answered once it answers again: a page is rendered once
// for each state, and goes out from memory to everybody who asks later.

// Bounds of what is kept in memory, in bytes.
const (
	maxAnswers = 24 << 20 // of all answers together
	maxAnswer  = 1 << 20  // of one
)

// answerKey names an answer by the number of its state, which it does not keep alive.
type answerKey struct {
	state   int64
	editing bool
	path    string
}

// answers are the answers that were given, the least lately used first to go.
type answers struct {
	mu    sync.Mutex
	known *lru.LRU[answerKey, *answer]
	bytes int
}

// get gives the answer that a state gave at a path.
func (m *answers) get(k answerKey) (*answer, bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.known == nil {
		return nil, false
	}
	return m.known.Get(k)
}

// keep remembers an answer, if it is one that everybody gets.
func (m *answers) keep(k answerKey, a *answer) {
	if a.status != http.StatusOK || a.file != nil || len(a.body) > maxAnswer {
		return
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.known == nil {
		var err error
		m.known, err = lru.NewLRU(1<<20, func(_ answerKey, a *answer) { m.bytes -= len(a.body) })
		if err != nil {
			return
		}
	}
	m.known.Remove(k)
	m.known.Add(k, a)
	for m.bytes += len(a.body); m.bytes > maxAnswers; {
		if _, _, any := m.known.RemoveOldest(); !any {
			return
		}
	}
}

// forget lets go of what a state answered.
func (m *answers) forget(s *shown) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.known == nil {
		return
	}
	for _, k := range m.known.Keys() {
		if k.state == s.number {
			m.known.Remove(k)
		}
	}
}

// trusted is how long it is believed, without asking the database, that nobody else wrote to
// it. What this service itself writes is known at once.
const trusted = time.Second

// sites are the sites as they were found last, so that a visitor's request asks no database.
type sites struct {
	mu    sync.Mutex
	known map[string]knownSite
}

type knownSite struct {
	of      *store.Collection
	commits int64
	at      time.Time
}

// live finds a site by its name.
func (p *Previews) live(ctx context.Context, name string) (*store.Collection, error) {
	commits, now := p.Store.Commits(), time.Now()
	p.sites.mu.Lock()
	k, ok := p.sites.known[name]
	p.sites.mu.Unlock()
	if ok && k.commits == commits && now.Sub(k.at) < trusted {
		return k.of, nil
	}
	c, err := p.Store.Read(ctx).Collections().ByName(store.Site, name)
	if err != nil {
		return nil, err
	}
	p.sites.mu.Lock()
	defer p.sites.mu.Unlock()
	if p.sites.known == nil || len(p.sites.known) > 10_000 {
		p.sites.known = map[string]knownSite{}
	}
	p.sites.known[name] = knownSite{c, commits, now}
	return c, nil
}

// again gives an answer that is known to a request, if it may be given.
func (p *Previews) again(r *http.Request, s *shown, editing bool) (*answer, bool) {
	if r.Method != http.MethodGet && r.Method != http.MethodHead || r.URL.RawQuery != "" {
		return nil, false
	}
	a, ok := p.answers.get(answerKey{s.number, editing, r.URL.Path})
	if !ok {
		return nil, false
	}
	return a.unless(r), true
}

// unless gives an answer, or tells that the one which asks has it already (RFC 9110, 13.1.2).
func (a *answer) unless(r *http.Request) *answer {
	tag := a.header.Get("ETag")
	if tag == "" || a.ranged || a.status != http.StatusOK || !has(r.Header.Get("If-None-Match"), tag) {
		return a
	}
	return &answer{status: http.StatusNotModified, header: a.header}
}

// tagOf is the validator of a body.
func tagOf(body []byte) string { return `"` + item.DigestOf(body).Short() + `"` }

// has tells whether a list of validators names one; weak ones count (RFC 9110, 13.1.2).
func has(list, tag string) bool {
	for one := range strings.SplitSeq(list, ",") {
		if one = strings.TrimSpace(one); one == "*" || strings.TrimPrefix(one, "W/") == tag {
			return true
		}
	}
	return false
}
