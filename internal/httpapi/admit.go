package httpapi

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"strings"

	description "compactparcel/api"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"
	"compactparcel/internal/uploads"

	"github.com/gin-gonic/gin"
)

// operations are the described operations by method and route.
func operations() (map[string]description.Operation, error) {
	list, err := description.Operations()
	if err != nil {
		return nil, err
	}
	out := make(map[string]description.Operation, len(list))
	for _, o := range list {
		out[o.Method+" "+o.Route()] = o
	}
	return out, nil
}

// admit lets a request to an operation: first who asks and whether they may, then how much
// they send, and only then what. Nothing of the body is read before.
func (s *Server) admit(ops map[string]description.Operation) gin.HandlerFunc {
	return func(c *gin.Context) {
		op, ok := ops[c.Request.Method+" "+c.FullPath()]
		if !ok {
			return // a file of the console, the health of the service, or nothing
		}
		ctx, done, err := s.Desk.Store.Guard(c.Request.Context())
		if err != nil {
			s.fail(c, stalled(err))
			return
		}
		defer done()
		c.Request = c.Request.WithContext(ctx)
		var p desk.Person
		if op.Role != description.Open {
			if p, err = s.who(c); err == nil {
				err = p.May(desk.Role(op.Role), op.Says)
			}
			if err != nil {
				s.fail(c, err)
				return
			}
			p.Request = c.GetString("request")
			c.Set("person", p)
		}
		if c.Request.ContentLength > op.MaxBody {
			s.fail(c, tooLarge(op.MaxBody))
			return
		}
		if err := s.takeUpload(c, op, p); err != nil {
			s.fail(c, err)
			return
		}
		defer c.Request.Body.Close()
		c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, op.MaxBody)
		if key := c.GetHeader(
			"Idempotency-Key",
		); key != "" && changes(c.Request.Method) && op.Role != description.Open &&
			op.ID != "publishChanges" && !strings.HasPrefix(op.Route(), uploads.Root) {
			s.once(c, op, p, key)
			return
		}
		c.Next()
	}
}

// changes tells whether a request by a method may change something (RFC 9110, 9.2.1).
func changes(method string) bool {
	return method != http.MethodGet && method != http.MethodHead && method != http.MethodOptions
}

func stalled(err error) error {
	return &desk.Problem{
		Type:    desk.Unavailable,
		Message: "the database is not answering right now",
		Remedy:  desk.To(desk.Retry),
		Err:     err,
	}
}

func tooLarge(limit int64) error {
	size := fmt.Sprintf("%d MB", limit>>20)
	if limit < 1<<20 {
		size = fmt.Sprintf("%d bytes", limit)
	}
	return &desk.Problem{
		Type:    desk.TooLarge,
		What:    "the request",
		Message: "it has more than " + size,
		Remedy:  desk.To(desk.SplitUpload),
	}
}

// who finds out who asks, by access token or by session cookie.
func (s *Server) who(c *gin.Context) (desk.Person, error) {
	ctx := c.Request.Context()
	if token, ok := strings.CutPrefix(c.GetHeader("Authorization"), "Bearer "); ok {
		return s.Desk.ByToken(ctx, token)
	}
	cookie, err := c.Cookie(CookieName)
	if err != nil || len(cookie) > 200 {
		return desk.Person{}, &desk.Problem{
			Type:    desk.NotSignedIn,
			Message: "nobody is signed in",
			Remedy:  desk.To(desk.SignInAgain),
		}
	}
	p, renewed, err := s.Desk.BySession(ctx, cookie)
	if renewed != "" {
		s.setCookie(c, renewed)
	}
	return p, err
}

// ownNames refuses requests under a name that is not the console's own: a page elsewhere
// whose name was made to lead here (DNS rebinding). An address in figures cannot be made so.
func (s *Server) ownNames(next http.Handler) http.Handler {
	own := map[string]bool{"localhost": true}
	for _, n := range s.Names {
		own[strings.ToLower(n)] = true
	}
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		host := r.Host
		if h, _, err := net.SplitHostPort(host); err == nil {
			host = h
		}
		host = strings.Trim(strings.ToLower(strings.TrimSuffix(host, ".")), "[]")
		_, err := netip.ParseAddr(host)
		if err == nil || own[host] {
			next.ServeHTTP(w, r)
			return
		}
		w.Header().Set("Content-Type", "text/plain; charset=utf-8")
		w.WriteHeader(http.StatusMisdirectedRequest)
		fmt.Fprintln(w,
			"The console is not at this name. Whoever runs the service can allow it: cparceld serve --console-origin.")
	})
}

// isOver tells whether a request ended because its reader left or the database stalled.
func isOver(ctx context.Context, err error) bool {
	return err != nil && ctx.Err() != nil &&
		(errors.Is(err, context.Canceled) || errors.Is(context.Cause(ctx), store.ErrStalled))
}
