package httpapi

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"

	"github.com/gin-gonic/gin"
)

// How a stream of events is kept up: what is new is looked for at least every eventsEvery, something
// is sent at least every eventsBeat, and after eventsFor it ends, so that who reads it signs in again.
const (
	eventsEvery = 400 * time.Millisecond
	eventsBeat  = 15 * time.Second
	eventsFor   = time.Hour
	eventsAtOne = 500
	maxStreams  = 200
	maxOwn      = 20 // streams of one person
	askAgain    = time.Minute
)

// stream is one reader of events.
type stream struct {
	s     *Server
	c     *gin.Context
	p     desk.Person
	site  string
	kinds []string
	last  int64
	asked time.Time // when it was last asked whether the reader may still read
}

// streams counts the streams that are open, of all and of each person.
type streams struct {
	mu  sync.Mutex
	all int
	of  map[int64]int
}

// begin counts another one of a person; false where there are too many.
func (n *streams) begin(person int64) bool {
	n.mu.Lock()
	defer n.mu.Unlock()
	if n.all >= maxStreams || n.of[person] >= maxOwn {
		return false
	}
	if n.of == nil {
		n.of = map[int64]int{}
	}
	n.all++
	n.of[person]++
	return true
}

func (n *streams) end(person int64) {
	n.mu.Lock()
	defer n.mu.Unlock()
	n.all--
	if n.of[person]--; n.of[person] == 0 {
		delete(n.of, person)
	}
}

// mayRead asks whether who reads is still signed in, and with which rights.
func (x *stream) mayRead() (bool, error) {
	p, err := x.s.Desk.Again(x.c.Request.Context(), x.p)
	if why, ok := asProblem(err); ok && why.Type == desk.NotSignedIn {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	x.p, x.asked = p, time.Now()
	return true, nil
}

// WatchEvents streams what changes.
func (s *Server) WatchEvents(c *gin.Context, params api.WatchEventsParams) {
	x := &stream{s: s, c: c, p: person(c), site: value(params.Site)}
	for _, k := range strings.Split(value(params.Kind), ",") {
		if k = strings.TrimSpace(k); k == "" {
			continue
		}
		if !slices.Contains(store.EventKinds, store.EventKind(k)) {
			s.fail(c, &desk.Problem{Type: desk.BadInput, What: "kind", Message: fmt.Sprintf("there is no kind %q", k),
				Remedy: desk.OneOf(store.EventKinds...)})
			return
		}
		x.kinds = append(x.kinds, k)
	}
	if !s.streams.begin(x.p.ID) {
		s.fail(c, &desk.Problem{Type: desk.Unavailable, What: "events", Message: "too many streams are open",
			Remedy: desk.To(desk.Retry)})
		return
	}
	defer s.streams.end(x.p.ID)
	ctx := c.Request.Context()
	before, newest, err := s.Desk.Store.EventBounds(ctx)
	if err != nil {
		s.fail(c, desk.Explain("events", err))
		return
	}
	h := c.Writer.Header()
	h.Set("Content-Type", "text/event-stream; charset=utf-8")
	h.Set("Cache-Control", "no-store")
	h.Set("X-Accel-Buffering", "no")
	c.Status(http.StatusOK)
	x.last = newest
	if from := params.LastEventID; from != nil {
		if x.last = *from; *from < before || *from > newest {
			x.last = newest
			fmt.Fprintf(c.Writer, "id: %d\nevent: reset\ndata: {}\n\n", newest)
		}
	} else { // so that who is cut off before the first event knows where it was
		fmt.Fprintf(c.Writer, "id: %d\nevent: begun\ndata: {}\n\n", newest)
	}
	fmt.Fprint(c.Writer, "retry: 2000\n\n")
	c.Writer.Flush()
	if err := x.run(); err != nil && ctx.Err() == nil {
		s.Log.Warn("a stream of events ends", "request", c.GetString("request"), "error", err)
	}
}

// run sends what is new until the reader leaves, its time is over, or the service stops.
func (x *stream) run() error {
	ctx := x.c.Request.Context()
	end := time.NewTimer(eventsFor)
	defer end.Stop()
	tick := time.NewTicker(eventsEvery)
	defer tick.Stop()
	quiet := time.Now()
	commits := int64(-1)
	looked := time.Time{}
	x.asked = time.Now()
	for {
		if time.Since(x.asked) > askAgain {
			if may, err := x.mayRead(); err != nil || !may {
				return err
			}
		}
		// Others that share the records are looked at now and then; what is written here at once.
		if now := x.s.Desk.Store.Commits(); now != commits || time.Since(looked) > 2*eventsEvery {
			commits, looked = now, time.Now()
			n, err := x.send()
			if errors.Is(err, errSignedOut) {
				return nil
			}
			if err != nil {
				return err
			}
			if n > 0 {
				quiet = time.Now()
				continue
			}
		}
		if time.Since(quiet) > eventsBeat {
			quiet = time.Now()
			if _, err := fmt.Fprint(x.c.Writer, ":\n\n"); err != nil {
				return err
			}
			x.c.Writer.Flush()
		}
		select {
		case <-ctx.Done():
			return nil
		case <-x.s.Stopping:
			return nil
		case <-end.C:
			return nil
		case <-tick.C:
		}
	}
}

// errSignedOut ends the stream of somebody who is signed in no more.
var errSignedOut = errors.New("signed out meanwhile")

// send sends what is new, and gives how much it read.
func (x *stream) send() (int, error) {
	list, err := x.s.Desk.Store.EventsAfter(x.c.Request.Context(), x.last, eventsAtOne)
	if err != nil || len(list) == 0 {
		return 0, err
	}
	if may, err := x.mayRead(); err != nil {
		return 0, err
	} else if !may {
		return 0, errSignedOut
	}
	for _, e := range list {
		x.last = e.N
		if !x.concerns(e) {
			continue
		}
		b, err := json.Marshal(api.Event{At: e.At, Kind: api.EventKind(e.Kind), Site: some(e.Site),
			Subject: some(e.Subject)})
		if err != nil {
			return 0, err
		}
		if _, err := fmt.Fprintf(x.c.Writer, "id: %d\nevent: %s\ndata: %s\n\n", e.N, e.Kind, b); err != nil {
			return 0, err
		}
	}
	x.c.Writer.Flush()
	return len(list), nil
}

func (x *stream) concerns(e store.Event) bool {
	if e.Kind == store.EntryEvent && x.p.May(desk.Keeper, "entries") != nil {
		return false
	}
	return (x.site == "" || e.Site == x.site) && (len(x.kinds) == 0 || slices.Contains(x.kinds, string(e.Kind)))
}
