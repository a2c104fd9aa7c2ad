package preview

import (
	"cmp"
	"context"
	"crypto/hmac"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/render"
	"compactparcel/internal/store"
)

// shown is one state ready for rendering; one request at a time renders it.
type shown struct {
	number int64  // no other state has it
	of     string // what it is a state of; "" for what has no other
	mu     sync.Mutex
	home   home
	view   item.Collection
	r      *render.Renderer
	both   *render.Renderer  // of a kit beside a site whose record it shows
	try    map[string]string // tokens that can be tried on: property → the kit's value
	used   atomic.Int64      // when, in nanoseconds since 1970
}

// host cuts the variable part out of a request's Host.
func (p *Previews) host(h string) (string, bool) {
	u, err := url.Parse(strings.ReplaceAll(p.Pattern, "{host}", "HOST"))
	if err != nil {
		return "", false
	}
	if name, _, err := net.SplitHostPort(h); err == nil {
		h = name
	}
	before, after, ok := strings.Cut(u.Hostname(), "HOST")
	if !ok {
		return "", false
	}
	name, okA := strings.CutPrefix(strings.ToLower(h), strings.ToLower(before))
	name, okB := strings.CutSuffix(name, strings.ToLower(after))
	return name, okA && okB && name != "" && !strings.Contains(name, ".")
}

var errNoPreview = errors.New("there is no preview at this address")

// state finds what a host shows.
func (p *Previews) state(ctx context.Context, host string) (*shown, error) {
	var c *store.Collection
	var draft *store.Draft
	var rev int64
	var err error
	var list *kit.PackingList
	switch {
	case strings.HasPrefix(host, "m") && strings.HasSuffix(host, "--kits"):
		return p.making(ctx, host)
	case strings.HasSuffix(host, "--deliveries"):
		return p.planned(ctx, host)
	case strings.HasSuffix(host, "--kits"):
		c, list, err = p.sealed(ctx, host)
	case strings.HasPrefix(host, "library-"):
		if !hmac.Equal([]byte(strings.TrimPrefix(host, "library-")), []byte(p.token("library"))) {
			return nil, errNoPreview
		}
		c, err = p.Store.Read(ctx).Collections().ByName(store.Library, "library")
	case pastHost.MatchString(host):
		c, rev, err = p.past(ctx, host)
	case editingHost.MatchString(host):
		c, draft, err = p.edited(ctx, host)
	default:
		c, draft, err = p.site(ctx, host)
	}
	if err != nil {
		return nil, err
	}
	of := fmt.Sprintf("live %d", c.ID)
	key := fmt.Sprintf("%d %d", c.ID, c.Revision)
	switch {
	case draft != nil:
		of = fmt.Sprintf("draft %d", draft.ID)
		key += fmt.Sprintf(" %d %d", draft.ID, draft.Version)
	case rev != 0:
		of, key = "", fmt.Sprintf("%d as of %d", c.ID, rev)
	}
	p.mu.Lock()
	s := p.cache[key]
	p.mu.Unlock()
	if s == nil {
		var v *store.View
		switch {
		case draft != nil:
			v, err = p.Store.Over(ctx, c, draft)
		case rev != 0:
			v, err = p.Store.At(ctx, c, rev)
		default:
			v, err = p.Store.Live(ctx, c)
		}
		if err != nil {
			return nil, err
		}
		v = v.With(context.WithoutCancel(ctx)) // it outlives the request
		s = &shown{view: v, r: render.New(v)}
		switch {
		case list != nil:
			s = showKit(list, v)
		case c.Kind == store.Library:
			s.home = ofLibrary
		}
		s.of = of
		p.keep(key, s)
	}
	s.used.Store(time.Now().UnixNano())
	return s, nil
}

// sealed finds the kit that a host shows.
func (p *Previews) sealed(ctx context.Context, host string) (*store.Collection, *kit.PackingList, error) {
	id, token, _ := strings.Cut(strings.TrimPrefix(strings.TrimSuffix(host, "--kits"), "k"), "-")
	n, err := strconv.ParseInt(id, 10, 64)
	if err != nil || !hmac.Equal([]byte(token), []byte(p.token(fmt.Sprintf("kit %d", n)))) {
		return nil, nil, errNoPreview
	}
	v, err := p.Store.Read(ctx).Kits().ByID(n)
	if err != nil {
		return nil, nil, err
	}
	if v.CollectionID == nil {
		return nil, nil, store.ErrNotFound
	}
	list := &kit.PackingList{}
	if err := json.Unmarshal([]byte(v.List), list); err != nil {
		return nil, nil, err
	}
	c, err := p.Store.Read(ctx).Collections().ByID(*v.CollectionID)
	return c, list, err
}

// site finds the site that a host shows, and the draft over it, if any.
func (p *Previews) site(ctx context.Context, host string) (*store.Collection, *store.Draft, error) {
	before, name, isDraft := strings.Cut(host, "--")
	if !isDraft {
		name = host
	}
	c, err := p.live(ctx, name)
	if err != nil || !isDraft {
		return c, nil, err
	}
	id, token, _ := strings.Cut(strings.TrimPrefix(before, "d"), "-")
	n, err := strconv.ParseInt(id, 10, 64)
	if err != nil {
		return nil, nil, errNoPreview
	}
	draft, err := p.Store.FindDraft(ctx, n)
	if err != nil {
		return nil, nil, err
	}
	if draft.CollectionID != c.ID || !hmac.Equal([]byte(draft.Token), []byte(token)) ||
		draft.State != store.DraftOpen {
		return nil, nil, errNoPreview
	}
	return c, draft, nil
}

// editingHost is how the host begins on which a site is edited.
var editingHost = regexp.MustCompile(`^e([0-9]+)-([0-9a-f]{6})([0-9a-f]{14})--(.+)$`)

// edited finds the site and the draft that are edited at a host.
func (p *Previews) edited(ctx context.Context, host string) (*store.Collection, *store.Draft, error) {
	m := editingHost.FindStringSubmatch(host)
	id, err := strconv.ParseInt(m[1], 10, 64)
	if err != nil || !hmac.Equal([]byte(m[3]), []byte(p.editingToken(id, m[4], m[2]))) {
		return nil, nil, errNoPreview
	}
	c, err := p.live(ctx, m[4])
	if err != nil || id == 0 {
		return c, nil, err
	}
	draft, err := p.Store.FindDraft(ctx, id)
	if err != nil {
		return nil, nil, err
	}
	if draft.CollectionID != c.ID || draft.State != store.DraftOpen {
		return nil, nil, errNoPreview
	}
	return c, draft, nil
}

// pastHost is how the host of a site's revision begins.
var pastHost = regexp.MustCompile(`^r[0-9]+-[0-9a-f]{20}--`)

// past finds the site that a host shows as one of its revisions had it.
func (p *Previews) past(ctx context.Context, host string) (*store.Collection, int64, error) {
	before, name, _ := strings.Cut(host, "--")
	number, token, _ := strings.Cut(before[1:], "-")
	rev, err := strconv.ParseInt(number, 10, 64)
	if err != nil || !hmac.Equal([]byte(token), []byte(p.token(fmt.Sprintf("revision %d of %s", rev, name)))) {
		return nil, 0, errNoPreview
	}
	c, err := p.live(ctx, name)
	if err == nil && (rev < 1 || rev > c.Revision) {
		err = errNoPreview
	}
	return c, rev, err
}

func showKit(list *kit.PackingList, items item.Collection) *shown {
	site := list.AsSite(items)
	return &shown{home: ofKit, view: site, r: render.New(site)}
}

// making shows a kit in the making. It is put together anew when it was changed, and
// otherwise after a while, since its sources may change.
func (p *Previews) making(ctx context.Context, host string) (*shown, error) {
	id, token, _ := strings.Cut(strings.TrimPrefix(strings.TrimSuffix(host, "--kits"), "m"), "-")
	n, err := strconv.ParseInt(id, 10, 64)
	if err != nil || p.InMaking == nil || !hmac.Equal([]byte(token), []byte(p.token(fmt.Sprintf("making %d", n)))) {
		return nil, errNoPreview
	}
	v, err := p.Store.Read(ctx).Kits().ByID(n)
	if err != nil {
		return nil, err
	}
	if v.State != store.Making {
		return nil, store.ErrNotFound
	}
	of := fmt.Sprintf("making %d", n)
	key := fmt.Sprintf("%s %d %d", of, v.Etag, time.Now().Unix()/20)
	p.mu.Lock()
	s := p.cache[key]
	p.mu.Unlock()
	if s == nil {
		site, err := p.InMaking(context.WithoutCancel(ctx), n)
		if err != nil {
			return nil, err
		}
		s = &shown{of: of, home: ofLibrary, view: site, r: render.New(site)}
		p.keep(key, s)
	}
	s.used.Store(time.Now().UnixNano())
	return s, nil
}

// planned shows a site as a delivery's plan would leave it, or what came before.
func (p *Previews) planned(ctx context.Context, host string) (*shown, error) {
	side, secret, _ := strings.Cut(strings.TrimSuffix(host, "--deliveries"), "-")
	id, token := strings.TrimLeft(side, "pb"), secret
	n, err := strconv.ParseInt(id, 10, 64)
	if err != nil || p.AsPlanned == nil || side != "p"+id && side != "b"+id ||
		!hmac.Equal([]byte(token), []byte(p.token(fmt.Sprintf("delivery %d", n)))) {
		return nil, errNoPreview
	}
	stamp, err := p.Store.Read(ctx).Deliveries().Stamp(n)
	if err != nil {
		return nil, err
	}
	of := fmt.Sprintf("delivery %c%d", host[0], n)
	key := fmt.Sprintf("%s %s", of, stamp)
	p.mu.Lock()
	s := p.cache[key]
	p.mu.Unlock()
	if s == nil {
		site, try, err := p.AsPlanned(context.WithoutCancel(ctx), n, host[0] == 'b')
		if err != nil {
			return nil, err
		}
		s = &shown{of: of, view: site, r: render.New(site), try: try}
		p.keep(key, s)
	}
	s.used.Store(time.Now().UnixNano())
	return s, nil
}

// maxStates bounds how many states are kept ready.
const maxStates = 24

func (p *Previews) keep(key string, s *shown) {
	s.number = p.states.Add(1)
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.cache == nil {
		p.cache = map[string]*shown{}
	}
	if len(p.cache) >= maxStates {
		oldest := ""
		for k, x := range p.cache {
			if oldest == "" || x.used.Load() < p.cache[oldest].used.Load() {
				oldest = k
			}
		}
		p.answers.forget(p.cache[oldest])
		delete(p.cache, oldest)
	}
	p.cache[key] = s
}

// earlier gives the states of the same thing before this one that are kept ready still, the newest first.
func (p *Previews) earlier(s *shown) (list []*shown) {
	if s.of == "" {
		return nil
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	for _, x := range p.cache {
		if x.of == s.of && x.number < s.number {
			list = append(list, x)
		}
	}
	slices.SortFunc(list, func(a, b *shown) int { return cmp.Compare(b.number, a.number) })
	return list
}
