package desk

import (
	"hash/maphash"
	"net/netip"
	"strings"
	"sync"
	"time"
)

// pace is how many attempts there may be at once, and from then on.
type pace struct {
	burst int
	every time.Duration
}

// How many attempts to sign in may fail, per name and per place.
var signInName, signInPlace = pace{6, 10 * time.Second}, pace{60, 2 * time.Second}

// How often a form may be sent from one place, and all forms of all sites from there.
var oneForm, allForms = pace{10, 10 * time.Second}, pace{40, 3 * time.Second}

// How often one mail address is answered.
var answered = pace{3, time.Hour}

// limiterBuckets is how many names, and how many places, are told apart.
const limiterBuckets = 8192

// limiter slows attempts down, per name and per place. Names and places fall by a
// secret hash into a fixed number of buckets: so its memory is bounded, nobody can make it
// forget by asking for many others, and a name that exists is treated like one that does not.
type limiter struct {
	perName, perPlace pace

	mu     sync.Mutex
	seed   maphash.Seed
	names  []bucket
	places []bucket
}

// bucket is a token bucket: what is left in it, and since when it fills.
type bucket struct {
	left  float64
	since time.Time
}

func (b *bucket) fill(now time.Time, p pace) {
	if b.since.IsZero() {
		b.left = float64(p.burst)
	} else {
		b.left = min(float64(p.burst), b.left+now.Sub(b.since).Seconds()/p.every.Seconds())
	}
	b.since = now
}

// try takes an attempt from the buckets of a name and a place, or tells that none is left.
// An attempt that succeeds is given back.
func (l *limiter) try(name, place string, now time.Time) (giveBack func(), ok bool) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.names == nil {
		l.seed = maphash.MakeSeed()
		l.names, l.places = make([]bucket, limiterBuckets), make([]bucket, limiterBuckets)
	}
	n := &l.names[maphash.String(l.seed, strings.ToLower(name))%limiterBuckets]
	p := &l.places[maphash.String(l.seed, network(place))%limiterBuckets]
	n.fill(now, l.perName)
	p.fill(now, l.perPlace)
	if n.left < 1 || p.left < 1 {
		return nil, false
	}
	n.left--
	p.left--
	return func() {
		l.mu.Lock()
		defer l.mu.Unlock()
		n.left++
		p.left++
	}, true
}

// network is what one person can be at: an IPv4 address, or 64 bits of an IPv6 address.
func network(place string) string {
	a, err := netip.ParseAddr(place)
	if err != nil || a.Unmap().Is4() {
		return place
	}
	p, err := a.Prefix(64)
	if err != nil {
		return place
	}
	return p.String()
}
