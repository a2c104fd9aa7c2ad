package pictures

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"html"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strconv"
	"strings"
	"sync/atomic"

	"github.com/chromedp/cdproto/fetch"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
)

// Bounds of what a page gets, in bytes. An answer is held whole, several times over, while it is on its way.
const (
	maxAnswer  = 24 << 20 // one file
	maxAnswers = 96 << 20 // all files of one page
)

// answering lets few answers be on their way at once, of all pages together.
var answering = make(chan struct{}, 2)

// answerer answers what a page asks for: of its own host what the previews answer, and nothing of any other.
type answerer struct {
	view View
	sum  atomic.Int64
}

// held is an answer that is held up to a bound; beyond that whoever writes it is told to stop.
type held struct {
	header http.Header
	code   int
	body   bytes.Buffer
	room   int64
}

var errTooMuch = errors.New("the page gets no more than this")

func (h *held) Header() http.Header { return h.header }

func (h *held) WriteHeader(code int) {
	if h.code != 0 {
		return
	}
	h.code = code
	if n, err := strconv.ParseInt(h.header.Get("Content-Length"), 10, 64); err == nil && n > h.room {
		h.room = -1 // it need not be read to be known as too large
	}
}

func (h *held) Write(b []byte) (int, error) {
	h.WriteHeader(http.StatusOK)
	if h.room < int64(len(b)) {
		h.room = -1
		return 0, errTooMuch
	}
	h.room -= int64(len(b))
	return h.body.Write(b)
}

func (a *answerer) answer(tab context.Context, ev *fetch.EventRequestPaused) {
	u, err := url.Parse(ev.Request.URL)
	if err != nil || u.Scheme != "http" || !strings.EqualFold(u.Host, a.view.Host) {
		a.elsewhere(tab, ev, u)
		return
	}
	if ev.Request.Method != http.MethodGet && ev.Request.Method != http.MethodHead {
		a.refuse(tab, ev)
		return
	}
	select {
	case answering <- struct{}{}:
	case <-tab.Done():
		return
	}
	defer func() { <-answering }()
	r := httptest.NewRequest(ev.Request.Method, u.RequestURI(), nil).WithContext(tab)
	r.Host = a.view.Host
	w, fits := a.read(r)
	if !fits {
		a.refuse(tab, ev)
		return
	}
	a.fulfil(tab, ev, max(w.code, http.StatusOK), w.header, w.body.Bytes())
}

// read gives the previews' answer; false when it is larger than a file may be, or than what is left to the page.
func (a *answerer) read(r *http.Request) (*held, bool) {
	w := &held{header: http.Header{}, room: min(maxAnswer, maxAnswers-a.sum.Load())}
	a.view.Serve.ServeHTTP(w, r)
	if w.room < 0 {
		return nil, false
	}
	a.sum.Add(int64(w.body.Len()))
	return w, true
}

func (a *answerer) fulfil(tab context.Context, ev *fetch.EventRequestPaused, code int, h http.Header, body []byte) {
	var list []*fetch.HeaderEntry
	for name, values := range h {
		for _, v := range values {
			list = append(list, &fetch.HeaderEntry{Name: name, Value: v})
		}
	}
	_, _ = chromedp.Call(tab, fetch.FulfillRequest, fetch.FulfillRequestParams{RequestID: ev.RequestID,
		ResponseCode: int64(code), ResponseHeaders: list, Body: body}) // a tab that is closed needs no answer
}

func (a *answerer) refuse(tab context.Context, ev *fetch.EventRequestPaused) {
	_, _ = chromedp.Call(tab, fetch.FailRequest, fetch.FailRequestParams{RequestID: ev.RequestID,
		ErrorReason: network.ErrorReasonBlockedByClient})
}

// elsewhere answers what is asked of another host: with a placeholder that says so where something would be
// seen, and with nothing else. A page that leads itself elsewhere stays where it is.
func (a *answerer) elsewhere(tab context.Context, ev *fetch.EventRequestPaused, u *url.URL) {
	host := "another place"
	if u != nil && u.Host != "" {
		host = u.Host
	}
	header := http.Header{"Content-Type": {"image/svg+xml"}}
	says := html.EscapeString("from " + host)
	switch ev.ResourceType {
	case network.ResourceTypeImage:
		a.fulfil(tab, ev, http.StatusOK, header, fmt.Appendf(nil, placeholder, says))
	case network.ResourceTypeDocument:
		if isTop(tab, ev) {
			a.fulfil(tab, ev, http.StatusNoContent, nil, nil)
			return
		}
		header.Set("Content-Type", "text/html; charset=utf-8")
		a.fulfil(tab, ev, http.StatusOK, header, fmt.Appendf(nil, framed, says))
	default:
		a.refuse(tab, ev)
	}
}

// isTop tells whether a request is for the page itself, not for a frame in it.
func isTop(tab context.Context, ev *fetch.EventRequestPaused) bool {
	c := chromedp.FromContext(tab)
	return c != nil && c.Target != nil && string(c.Target.TargetID) == string(ev.FrameID)
}

const placeholder = `<svg xmlns="http://www.w3.org/2000/svg" width="320" height="180"><rect width="100%%" ` +
	`height="100%%" ` +
	`fill="#e8e6df"/><text x="50%%" y="50%%" font-family="sans-serif" font-size="16" fill="#55534b" ` +
	`text-anchor="middle">%s</text></svg>`

const framed = `<!doctype html><body style="margin:0;display:grid;place-items:center;height:100vh;` +
	`background:#e8e6df;` +
	`color:#55534b;font:1rem sans-serif">%s`
