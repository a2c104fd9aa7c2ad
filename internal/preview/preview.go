// Package preview shows sites, drafts, the library and kits as visitors would see
// them, each on an origin of its own, since a template is somebody else's HTML.
//
// A live site is at SITE.localhost, a draft at dN-TOKEN--SITE.localhost, where the
// token cannot be guessed; so cannot those of the library and of kits.
package preview

import (
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"net"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/internal/store"
)

// Previews serves previews.
type Previews struct {
	Store *store.Store
	Log   *slog.Logger
	// Pattern is the address of a preview; {host} stands for the site or draft.
	Pattern string
	// Framers are the origins that may show previews in a frame: the console's.
	Framers []string
	// InMaking gives a kit in the making as it would be sealed now.
	InMaking func(ctx context.Context, version int64) (item.Collection, error)
	// AsPlanned gives the site as a delivery's plan would leave it, or with base its items
	// as they were delivered; and the values of tokens that can be tried on.
	AsPlanned func(ctx context.Context, delivery int64, base bool) (item.Collection, map[string]string, error)
	// Secret makes the hosts of the library and of kits unguessable.
	Secret []byte

	mu    sync.Mutex
	cache map[string]*shown
}

// shown is one state ready for rendering; one request at a time uses it.
type shown struct {
	mu   sync.Mutex
	view item.Collection
	r    *render.Renderer
	both *render.Renderer  // of a kit beside a site whose record it shows
	try  map[string]string // tokens that can be tried on: property → the kit's value
	used time.Time
}

func (p *Previews) address(host string) string { return strings.ReplaceAll(p.Pattern, "{host}", host) }

// Site is the address of a site's live state.
func (p *Previews) Site(name string) string { return p.address(name) }

// Draft is the address of a draft.
func (p *Previews) Draft(site string, id int64, token string) string {
	return p.address(fmt.Sprintf("d%d-%s--%s", id, token, site))
}

func (p *Previews) token(of string) string {
	m := hmac.New(sha256.New, p.Secret)
	m.Write([]byte(of))
	return hex.EncodeToString(m.Sum(nil))[:20]
}

// Library is the address of the library.
func (p *Previews) Library() string { return p.address("library-" + p.token("library")) }

// Kit is the address of a sealed kit.
func (p *Previews) Kit(version int64) string {
	return p.address(fmt.Sprintf("k%d-%s--kits", version, p.token(fmt.Sprintf("kit %d", version))))
}

// Making is the address of a kit in the making.
func (p *Previews) Making(version int64) string {
	return p.address(fmt.Sprintf("m%d-%s--kits", version, p.token(fmt.Sprintf("making %d", version))))
}

// Planned is the address of a site as a delivery's plan would leave it.
func (p *Previews) Planned(delivery int64) string { return p.address(p.deliveryHost("p", delivery)) }

// Base is the address of a site with its items as a kit delivered them.
func (p *Previews) Base(delivery int64) string { return p.address(p.deliveryHost("b", delivery)) }

func (p *Previews) deliveryHost(side string, delivery int64) string {
	return fmt.Sprintf("%s%d-%s--deliveries", side, delivery, p.token(fmt.Sprintf("delivery %d", delivery)))
}

// Pick is the place below any of these where the elements of one piece can be picked.
func Pick(a item.Address) string { return render.AssetRoot + "pick/" + a.String() }

// Alone is the place below any of these where one piece stands by itself.
func Alone(a item.Address) string { return render.AssetRoot + "alone/" + a.String() }

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
	var err error
	var list *kit.PackingList
	switch {
	case strings.HasPrefix(host, "m") && strings.HasSuffix(host, "--kits"):
		return p.making(ctx, host)
	case strings.HasSuffix(host, "--deliveries"):
		return p.planned(ctx, host)
	case strings.HasSuffix(host, "--kits"):
		id, token, _ := strings.Cut(strings.TrimPrefix(strings.TrimSuffix(host, "--kits"), "k"), "-")
		n, e := strconv.ParseInt(id, 10, 64)
		if e != nil || !hmac.Equal([]byte(token), []byte(p.token(fmt.Sprintf("kit %d", n)))) {
			return nil, errNoPreview
		}
		var v store.KitVersion
		if err := p.Store.DB(ctx).Where("id = ? AND collection_id IS NOT NULL", n).Take(&v).Error; err != nil {
			return nil, err
		}
		c, list = &store.Collection{}, &kit.PackingList{}
		if err = json.Unmarshal([]byte(v.List), list); err == nil {
			err = p.Store.DB(ctx).Where("id = ?", *v.CollectionID).Take(c).Error
		}
	case strings.HasPrefix(host, "library-"):
		if !hmac.Equal([]byte(strings.TrimPrefix(host, "library-")), []byte(p.token("library"))) {
			return nil, errNoPreview
		}
		c, err = p.Store.FindCollection(ctx, store.Library, "library")
	default:
		before, site, isDraft := strings.Cut(host, "--")
		if !isDraft {
			site = host
		}
		if c, err = p.Store.FindCollection(ctx, store.Site, site); err != nil {
			break
		}
		if isDraft {
			id, token, _ := strings.Cut(strings.TrimPrefix(before, "d"), "-")
			n, e := strconv.ParseInt(id, 10, 64)
			if e != nil {
				return nil, errNoPreview
			}
			if draft, err = p.Store.FindDraft(ctx, n); err != nil {
				break
			}
			if draft.CollectionID != c.ID || !hmac.Equal([]byte(draft.Token), []byte(token)) || draft.State != store.DraftOpen {
				return nil, errNoPreview
			}
		}
	}
	if err != nil {
		return nil, err
	}
	key := fmt.Sprintf("%d %d", c.ID, c.Revision)
	if draft != nil {
		key += fmt.Sprintf(" %d %d", draft.ID, draft.Version)
	}
	p.mu.Lock()
	s := p.cache[key]
	p.mu.Unlock()
	if s == nil {
		var v *store.View
		if draft != nil {
			v, err = p.Store.Over(ctx, c, draft)
		} else {
			v, err = p.Store.Live(ctx, c)
		}
		if err != nil {
			return nil, err
		}
		v = v.With(context.WithoutCancel(ctx)) // it outlives the request
		s = &shown{view: v, r: render.New(v)}
		if list != nil {
			s = showKit(list, v)
		}
		p.keep(key, s)
	}
	s.used = time.Now()
	return s, nil
}

func showKit(list *kit.PackingList, items item.Collection) *shown {
	site := list.AsSite(items)
	return &shown{view: site, r: render.New(site)}
}

// making shows a kit in the making. It is put together anew when it was changed, and
// otherwise after a while, since its sources may change.
func (p *Previews) making(ctx context.Context, host string) (*shown, error) {
	id, token, _ := strings.Cut(strings.TrimPrefix(strings.TrimSuffix(host, "--kits"), "m"), "-")
	n, err := strconv.ParseInt(id, 10, 64)
	if err != nil || p.InMaking == nil || !hmac.Equal([]byte(token), []byte(p.token(fmt.Sprintf("making %d", n)))) {
		return nil, errNoPreview
	}
	var v store.KitVersion
	if err := p.Store.DB(ctx).Where("id = ? AND state = ?", n, "making").Take(&v).Error; err != nil {
		return nil, err
	}
	key := fmt.Sprintf("making %d %d %d", n, v.Etag, time.Now().Unix()/20)
	p.mu.Lock()
	s := p.cache[key]
	p.mu.Unlock()
	if s == nil {
		site, err := p.InMaking(context.WithoutCancel(ctx), n)
		if err != nil {
			return nil, err
		}
		s = &shown{view: site, r: render.New(site)}
		p.keep(key, s)
	}
	s.used = time.Now()
	return s, nil
}

// planned shows a site as a delivery's plan would leave it, or what came before.
func (p *Previews) planned(ctx context.Context, host string) (*shown, error) {
	id, token, _ := strings.Cut(host[1:len(host)-len("--deliveries")], "-")
	n, err := strconv.ParseInt(id, 10, 64)
	if err != nil || p.AsPlanned == nil || host[0] != 'p' && host[0] != 'b' || !hmac.Equal([]byte(token), []byte(p.token(fmt.Sprintf("delivery %d", n)))) {
		return nil, errNoPreview
	}
	var row struct{ Etag, BaseRev int64 }
	if err := p.Store.DB(ctx).Table("deliveries").Select("etag, base_rev").Where("id = ?", n).Take(&row).Error; err != nil {
		return nil, err
	}
	key := fmt.Sprintf("%c%d %d %d", host[0], n, row.Etag, row.BaseRev)
	p.mu.Lock()
	s := p.cache[key]
	p.mu.Unlock()
	if s == nil {
		site, try, err := p.AsPlanned(context.WithoutCancel(ctx), n, host[0] == 'b')
		if err != nil {
			return nil, err
		}
		s = &shown{view: site, r: render.New(site), try: try}
		p.keep(key, s)
	}
	s.used = time.Now()
	return s, nil
}

// tryOn puts tokens of the kit on a page: "all", or properties with commas between.
func (s *shown) tryOn(out *render.Output, which string) {
	at := bytes.LastIndex(out.Body, []byte("</head>"))
	if which == "" || len(s.try) == 0 || at < 0 {
		return
	}
	var b strings.Builder
	for _, name := range slices.Sorted(maps.Keys(s.try)) {
		if which == "all" || slices.Contains(strings.Split(which, ","), name) {
			fmt.Fprintf(&b, "%s:%s!important;", name, s.try[name])
		}
	}
	out.Body = slices.Concat(out.Body[:at], []byte("<style>:root{"+strings.ReplaceAll(b.String(), "</", "<\\/")+"}</style>"), out.Body[at:])
}

// maxStates bounds how many states are kept ready.
const maxStates = 24

func (p *Previews) keep(key string, s *shown) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.cache == nil {
		p.cache = map[string]*shown{}
	}
	if len(p.cache) >= maxStates {
		oldest := ""
		for k, x := range p.cache {
			if oldest == "" || x.used.Before(p.cache[oldest].used) {
				oldest = k
			}
		}
		delete(p.cache, oldest)
	}
	p.cache[key] = s
}

func (p *Previews) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	host, ok := p.host(r.Host)
	if !ok {
		plain(w, http.StatusNotFound, errNoPreview.Error())
		return
	}
	s, err := p.state(r.Context(), host)
	switch {
	case errors.Is(err, errNoPreview) || errors.Is(err, store.ErrNotFound):
		plain(w, http.StatusNotFound, errNoPreview.Error())
		return
	case err != nil:
		p.Log.Error("preview", "host", host, "error", err)
		plain(w, http.StatusServiceUnavailable, "The preview cannot be shown at the moment; try again in a few seconds.")
		return
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	p.headers(w.Header(), r.Host, s)
	path := r.URL.Path
	if name, ok := strings.CutPrefix(path, render.AssetRoot+"form/"); ok {
		p.form(w, r, s, name)
		return
	}
	if r.Method != http.MethodGet && r.Method != http.MethodHead {
		w.Header().Set("Allow", "GET, HEAD")
		plain(w, http.StatusMethodNotAllowed, "Previews can only be looked at.")
		return
	}
	if a, ok := strings.CutPrefix(path, render.AssetRoot+"alone/"); ok {
		addr, err := item.ParseAddress(a)
		if err != nil {
			plain(w, http.StatusNotFound, err.Error())
			return
		}
		out, err := p.alone(r, s, addr)
		p.page(w, r, out, err)
		return
	}
	if a, ok := strings.CutPrefix(path, render.AssetRoot+"pick/"); ok {
		addr, err := item.ParseAddress(a)
		if err != nil {
			plain(w, http.StatusNotFound, err.Error())
			return
		}
		out, err := s.r.Pick(addr)
		p.page(w, r, out, err)
		return
	}
	if x, ok := s.r.AssetAt(path); ok {
		p.asset(w, r, s.r, x)
		return
	}
	if s.both != nil {
		if x, ok := s.both.AssetAt(path); ok {
			p.asset(w, r, s.both, x)
			return
		}
	}
	if !strings.HasSuffix(path, "/") {
		if _, ok := s.r.PageAt(path + "/"); ok {
			http.Redirect(w, r, path+"/", http.StatusFound)
			return
		}
	}
	path = strings.TrimSuffix(path, "index.html")
	out, err := s.r.Page(render.Ask{Slug: path, Query: r.URL.Query().Get("q")})
	if err == nil {
		s.tryOn(out, r.URL.Query().Get("try"))
	}
	p.page(w, r, out, err)
}

func (p *Previews) headers(h http.Header, host string, s *shown) {
	scripts := host + render.EngineRoot // the engine's own open overlays; the site's wait for approval
	if head, ok := s.view.Find(item.Address{Kind: item.Setting, Key: "scripts"}); ok {
		var v string
		if b, err := item.Read(s.view, head); err == nil && json.Unmarshal(b, &v) == nil && v == "approved" {
			scripts = "'self'"
		}
	}
	h.Set("Content-Security-Policy", "default-src 'none'; img-src 'self' data:; media-src 'self'; font-src 'self' data:; style-src 'self' 'unsafe-inline'; script-src "+scripts+
		"; connect-src 'self'; manifest-src 'self'; form-action 'self'; base-uri 'self'; frame-ancestors "+strings.Join(p.Framers, " "))
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "no-referrer")
}

func (p *Previews) page(w http.ResponseWriter, r *http.Request, out *render.Output, err error) {
	if err != nil {
		plain(w, http.StatusInternalServerError, "This page cannot be rendered: "+err.Error())
		return
	}
	h := w.Header()
	h.Set("Content-Type", "text/html; charset=utf-8")
	h.Set("Cache-Control", "no-cache")
	tag := `"` + item.DigestOf(out.Body).Short() + `"`
	h.Set("ETag", tag)
	if out.Status == http.StatusOK && r.Header.Get("If-None-Match") == tag {
		w.WriteHeader(http.StatusNotModified)
		return
	}
	w.WriteHeader(out.Status)
	if r.Method != http.MethodHead {
		w.Write(out.Body)
	}
}

func (p *Previews) asset(w http.ResponseWriter, r *http.Request, from *render.Renderer, x render.Asset) {
	h := w.Header()
	h.Set("Content-Type", x.MediaType)
	if x.MediaType == "" {
		h.Set("Content-Type", "application/octet-stream")
	}
	if r.URL.Path == x.Path {
		h.Set("Cache-Control", "public, max-age=31536000, immutable")
	} else {
		h.Set("Cache-Control", "no-cache")
	}
	b, err := from.Content(x)
	if err != nil {
		p.Log.Error("preview asset", "path", r.URL.Path, "error", err)
		plain(w, http.StatusInternalServerError, "This file cannot be read at the moment.")
		return
	}
	http.ServeContent(w, r, "", time.Time{}, bytes.NewReader(b))
}

// form answers a form that is sent in a preview: with its confirmation, and
// nothing is sent on.
func (p *Previews) form(w http.ResponseWriter, r *http.Request, s *shown, name string) {
	head, ok := s.view.Find(item.Address{Kind: item.Form, Key: name})
	if !ok || r.Method != http.MethodPost {
		plain(w, http.StatusNotFound, "There is no such form.")
		return
	}
	var f struct {
		Confirmation struct {
			Text string `json:"text"`
			Page string `json:"page"`
		} `json:"confirmation"`
	}
	if b, err := item.Read(s.view, head); err == nil {
		json.Unmarshal(b, &f) // a broken form was told of when it came in
	}
	if f.Confirmation.Page != "" {
		http.Redirect(w, r, f.Confirmation.Page, http.StatusSeeOther)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	fmt.Fprintf(w, "<!doctype html><meta charset=\"utf-8\"><title>Sent</title><p>%s</p><p><small>This is a preview: nothing was sent.</small></p>", markup.EscapeText(f.Confirmation.Text))
}

func plain(w http.ResponseWriter, status int, text string) {
	w.Header().Set("Content-Type", "text/plain; charset=utf-8")
	w.WriteHeader(status)
	fmt.Fprintln(w, text)
}
