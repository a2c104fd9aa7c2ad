package preview

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"time"

	"compactparcel/core/item"
	"compactparcel/core/look"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/internal/blob"
)

// answer is what a request is answered with. It is made while a state is held, and written
// when it is let go of, so that somebody who does not read blocks nobody.
type answer struct {
	status int
	header http.Header
	body   []byte
	file   io.ReadSeekCloser // in the place of body
	open   func() error      // fills in file or body when the state is let go of; nil: they are there
	ranged bool              // any piece of it may be asked for
}

func textAnswer(status int, format string, args ...any) *answer {
	a := &answer{status: status, header: http.Header{}, body: fmt.Appendf(nil, format+"\n", args...)}
	a.header.Set("Content-Type", "text/plain; charset=utf-8")
	return a
}

func (a *answer) write(w http.ResponseWriter, r *http.Request) {
	maps.Copy(w.Header(), a.header)
	switch {
	case a.file != nil:
		defer a.file.Close()
		http.ServeContent(w, r, "", time.Time{}, a.file)
	case a.ranged:
		http.ServeContent(w, r, "", time.Time{}, bytes.NewReader(a.body))
	default:
		w.WriteHeader(a.status)
		if r.Method != http.MethodHead {
			w.Write(a.body)
		}
	}
}

// answer finds what a request is answered with. An error is a failure of the moment; what a
// state's own sources do not allow is an answer.
func (p *Previews) answer(r *http.Request, s *shown, editing bool) (*answer, error) {
	if a, ok := p.again(r, s, editing); ok {
		return a, nil
	}
	a, err := p.rendered(r, s, editing)
	if err == nil && a.status == http.StatusNotFound && namedByDigest.MatchString(r.URL.Path) {
		a, err = p.before(r, s, editing, a)
	}
	if err != nil {
		return nil, err
	}
	if a.open != nil {
		if err := a.open(); err != nil {
			return nil, err
		}
		a.open = nil
	}
	if r.Method != http.MethodPost && r.URL.RawQuery == "" {
		p.answers.keep(answerKey{s.number, editing, r.URL.Path}, a)
	}
	return a.unless(r), nil
}

// rendered makes an answer while its state is held.
func (p *Previews) rendered(r *http.Request, s *shown, editing bool) (*answer, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	policy, err := s.policy(r.Host, p.Framers)
	if editing {
		policy, err = s.editingPolicy("'none'", p.Framers)
	}
	if err != nil {
		return nil, err
	}
	a, err := p.find(r, s)
	if err != nil {
		return nil, err
	}
	a.header.Set("Content-Security-Policy", policy)
	if editing {
		if a, err = p.editable(r, s, a); err != nil {
			return nil, err
		}
	}
	a.header.Set("X-Content-Type-Options", "nosniff")
	a.header.Set("Referrer-Policy", "no-referrer")
	return a, nil
}

// namedByDigest is the path of a file whose name says what it holds.
var namedByDigest = regexp.MustCompile("^" + render.AssetRoot + `[0-9a-f]{8,}/`)

// before answers what a state does not have any more from those before it: a page that was sent a step ago asks for
// its stylesheets now.
func (p *Previews) before(r *http.Request, s *shown, editing bool, gone *answer) (*answer, error) {
	for _, x := range p.earlier(s) {
		a, err := p.rendered(r, x, editing)
		if err != nil || a.status == http.StatusOK {
			return a, err
		}
	}
	return gone, nil
}

func (p *Previews) find(r *http.Request, s *shown) (*answer, error) {
	path := r.URL.Path
	if name, ok := strings.CutPrefix(path, render.AssetRoot+"form/"); ok {
		return p.form(r, s, name)
	}
	if r.Method != http.MethodGet && r.Method != http.MethodHead {
		a := textAnswer(http.StatusMethodNotAllowed, "Previews can only be looked at.")
		a.header.Set("Allow", "GET, HEAD")
		return a, nil
	}
	if name, ok := strings.CutPrefix(path, render.AssetRoot+"alone/"); ok {
		addr, err := item.ParseAddress(name)
		if err != nil {
			return textAnswer(http.StatusNotFound, "%s", err), nil
		}
		if _, ok := s.view.Find(addr); !ok && r.URL.Query().Get("site") == "" {
			return textAnswer(http.StatusNotFound, "There is no %s.", addr), nil
		}
		out, err := p.alone(r, s, addr)
		return page(out, err)
	}
	if name, ok := strings.CutPrefix(path, render.AssetRoot+"pick/"); ok {
		addr, err := item.ParseAddress(name)
		if err != nil {
			return textAnswer(http.StatusNotFound, "%s", err), nil
		}
		out, err := s.r.Pick(addr)
		return page(out, err)
	}
	for _, from := range []*render.Renderer{s.r, s.both} {
		if from == nil {
			continue
		}
		x, ok, err := from.AssetAt(path)
		if err != nil {
			return nil, err
		}
		if ok {
			return p.asset(r, from, x)
		}
	}
	if !strings.HasSuffix(path, "/") {
		if _, ok := s.r.PageAt(path + "/"); ok {
			return redirect(http.StatusFound, path+"/"), nil
		}
	}
	path = strings.TrimSuffix(path, "index.html")
	query := r.URL.Query().Get("q")
	if len(query) > maxQuery {
		return textAnswer(http.StatusBadRequest, "A search has at most %d characters.", maxQuery), nil
	}
	out, err := s.r.Page(render.PageRequest{Slug: path, Query: query})
	if err == nil && out.Status == http.StatusNotFound {
		to, err := s.r.RedirectAt(path)
		if err != nil {
			return nil, err
		}
		if to != "" {
			return redirect(http.StatusMovedPermanently, (&url.URL{Path: to, RawQuery: r.URL.RawQuery}).String()), nil
		}
	}
	if err == nil {
		err = s.tryOn(out, r.URL.Query().Get("try"))
	}
	return page(out, err)
}

// maxQuery is the longest search, in bytes.
const maxQuery = 500

// page answers with a document; a document that the sources do not allow says why.
func page(out *render.Output, err error) (*answer, error) {
	var failed *item.ReadError
	switch {
	case errors.As(err, &failed):
		return nil, err
	case err != nil:
		return textAnswer(http.StatusInternalServerError, "This page cannot be rendered: %s", err), nil
	}
	a := &answer{status: out.Status, header: http.Header{}, body: quiet(out.Body)}
	a.header.Set("Content-Type", "text/html; charset=utf-8")
	a.header.Set("Cache-Control", "no-cache")
	a.header.Set("ETag", tagOf(a.body))
	return a, nil
}

// quiet takes out of a page what would tell other sites the preview's address, which
// nobody is meant to guess: a policy of its own for the Referer.
func quiet(body []byte) []byte {
	if !bytes.Contains(bytes.ToLower(body), []byte("referrer")) {
		return body
	}
	return markup.WithoutReferrer(body)
}

// asset answers with a file. A large one goes out from where it lies, any piece of it.
func (p *Previews) asset(r *http.Request, from *render.Renderer, x render.Asset) (*answer, error) {
	a := &answer{status: http.StatusOK, header: http.Header{}, ranged: true}
	a.header.Set("Content-Type", x.MediaType)
	if x.MediaType == "" {
		a.header.Set("Content-Type", "application/octet-stream")
	}
	a.header.Set("Cache-Control", "no-cache")
	if r.URL.Path == x.Path {
		a.header.Set("Cache-Control", "public, max-age=31536000, immutable")
	}
	if b, own := x.Rendered(); own {
		a.body = b
		a.header.Set("ETag", tagOf(b))
		return a, nil
	}
	a.header.Set("ETag", `"`+x.Head.Doc.Short()+`"`)
	// A file is held against its digest before it goes out, which takes long for a film: its site's other pages are
	// rendered meanwhile.
	a.open = func() error {
		file, err := p.Store.Blobs.File(x.Head.Doc)
		if err == nil {
			a.file = file
			return nil
		}
		if !errors.Is(err, blob.ErrMissing) {
			return err
		}
		f, err := from.Open(x) // a text, or of a kit in the making
		if err != nil {
			return err
		}
		defer f.Close()
		a.body, err = io.ReadAll(f)
		return err
	}
	return a, nil
}

func redirect(status int, to string) *answer {
	a := &answer{status: status, header: http.Header{}}
	a.header.Set("Location", to)
	a.header.Set("Cache-Control", "no-cache")
	return a
}

// tryOn puts tokens of the kit on a page: "all", or properties with commas between; or a look of the
// site, as "look:NAME".
func (s *shown) tryOn(out *render.Output, which string) error {
	at := bytes.LastIndex(out.Body, []byte("</head>"))
	if name, named := strings.CutPrefix(which, "look:"); named && at >= 0 {
		return s.tryLook(out, at, name)
	}
	if which == "" || len(s.try) == 0 || at < 0 {
		return nil
	}
	var b strings.Builder
	for _, name := range slices.Sorted(maps.Keys(s.try)) {
		if which == "all" || slices.Contains(strings.Split(which, ","), name) {
			fmt.Fprintf(&b, "%s:%s!important;", name, s.try[name])
		}
	}
	out.Body = slices.Concat(out.Body[:at],
		[]byte("<style>:root{"+strings.ReplaceAll(b.String(), "</", "<\\/")+"}</style>"), out.Body[at:])
	return nil
}

// tryLook shows a page in one of the site's looks; one that is not there changes nothing.
func (s *shown) tryLook(out *render.Output, at int, name string) error {
	looks, err := look.Of(s.view)
	if errors.Is(err, look.ErrBroken) {
		return nil
	}
	if err != nil {
		return err
	}
	sheet, err := looks[name].Sheet(s.view)
	if err != nil || len(sheet) == 0 {
		return err
	}
	out.Body = slices.Concat(out.Body[:at],
		[]byte("<style>"+strings.ReplaceAll(string(sheet), "</", "<\\/")+"</style>\n"), out.Body[at:])
	return nil
}
