package httpapi

import (
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"net/http"
	"runtime/debug"
	"slices"
	"strconv"
	"time"

	"compactparcel/core/says"
	"compactparcel/core/workers"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
)

// CookieName is the session cookie.
const CookieName = "cparcel_session"

// requestID gives every request an id, or takes a well-formed one that came with it.
func (s *Server) requestID(c *gin.Context) {
	id := c.GetHeader("X-Request-Id")
	ok := len(id) >= 8 && len(id) <= 40
	for _, r := range id {
		ok = ok && (r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' || r == '-')
	}
	if !ok {
		var raw [8]byte
		rand.Read(raw[:])
		id = hex.EncodeToString(raw[:])
	}
	c.Set("request", id)
	c.Header("X-Request-Id", id)
}

// observe logs and measures requests.
func (s *Server) observe(reg *prometheus.Registry) gin.HandlerFunc {
	seconds := prometheus.NewHistogramVec(
		prometheus.HistogramOpts{
			Name:    "cparcel_request_seconds",
			Help:    "Time to answer a request.",
			Buckets: prometheus.ExponentialBuckets(0.002, 3, 9),
		},
		[]string{"route", "method", "code"},
	)
	open := prometheus.NewGauge(prometheus.GaugeOpts{Name: "cparcel_requests_open", Help: "Requests being answered."})
	reg.MustRegister(seconds, open)
	return func(c *gin.Context) {
		start := time.Now()
		open.Inc()
		c.Next()
		open.Dec()
		route := c.FullPath()
		if route == "" {
			route = "console"
		}
		code := c.Writer.Status()
		seconds.WithLabelValues(route, knownMethod(c.Request.Method), strconv.Itoa(code)).
			Observe(time.Since(start).Seconds())
		if route == "/healthz" || route == "/readyz" || route == "/metrics" || route == "console" {
			return
		}
		s.Log.Info("request", "request", c.GetString("request"), "method", knownMethod(c.Request.Method), "path",
			shortPath(c.Request.URL.Path), "status", code, "ms", time.Since(start).Milliseconds(), "by",
			person(c).Name)
	}
}

// knownMethod is a method as metrics and logs name it: callers invent what they like.
func knownMethod(m string) string {
	switch m {
	case http.MethodGet,
		http.MethodHead,
		http.MethodPost,
		http.MethodPut,
		http.MethodPatch,
		http.MethodDelete,
		http.MethodOptions:
		return m
	}
	return "other"
}

func shortPath(p string) string {
	if len(p) > 300 {
		return p[:300] + "…"
	}
	return p
}

func (s *Server) recover(c *gin.Context) {
	defer func() {
		if r := recover(); r != nil {
			// an answer that broke off: the connection ends
			if err, ok := r.(error); ok && errors.Is(err, http.ErrAbortHandler) {
				panic(r)
			}
			stack := string(debug.Stack())
			if p, ok := r.(*workers.Panic); ok { // of a worker: its own stack tells
				stack = string(p.Stack)
			}
			s.Log.Error("a handler failed", "request", c.GetString("request"), "error", fmt.Sprint(r), "stack", stack)
			if !c.Writer.Written() {
				s.fail(c, fmt.Errorf("internal: %v", r))
			}
		}
	}()
	c.Next()
}

func person(c *gin.Context) desk.Person {
	p, _ := c.Get("person")
	who, _ := p.(desk.Person)
	return who
}

func (s *Server) setCookie(c *gin.Context, secret string) {
	age := int(desk.SessionLife.Seconds())
	if secret == "" {
		age = -1
	}
	http.SetCookie(
		c.Writer,
		&http.Cookie{
			Name:     CookieName,
			Value:    secret,
			Path:     "/",
			MaxAge:   age,
			HttpOnly: true,
			Secure:   s.SecureCookies,
			SameSite: http.SameSiteStrictMode,
		},
	)
}

// statuses gives the HTTP status of each sort of problem.
var statuses = map[desk.ProblemType]int{
	desk.BadInput:    400,
	desk.NotSignedIn: 401,
	desk.Forbidden:   403,
	desk.NotFound:    404,
	desk.Exists:      409,
	desk.Waits:       409,
	desk.BadDecision: 422,
	desk.Stale:       412,
	desk.Refused:     409,
	desk.NotClean:    409,
	desk.TooMany:     429,
	desk.TooLarge:    413,
	desk.Unavailable: 503,
	desk.Uncertain:   503,
	desk.DoneBefore:  409,
	desk.DiskFull:    507,
	desk.Damaged:     500,
}

var titles = map[desk.ProblemType]string{
	desk.BadInput:    "The input cannot be used",
	desk.NotSignedIn: "Not signed in",
	desk.Forbidden:   "Not allowed",
	desk.NotFound:    "Not there",
	desk.Exists:      "There already",
	desk.Waits:       "Waits for decisions",
	desk.BadDecision: "The decision is not possible",
	desk.Stale:       "Changed meanwhile",
	desk.Refused:     "Refused",
	desk.NotClean:    "The check has findings",
	desk.TooMany:     "Too many attempts",
	desk.TooLarge:    "Too large",
	desk.Unavailable: "Not available right now",
	desk.Uncertain:   "It may have been done",
	desk.DoneBefore:  "Done before",
	desk.DiskFull:    "No room left",
	desk.Damaged:     "Damaged",
}

// brief keeps an answer from being an echo of all that was sent.
func brief(s string) string {
	r := []rune(s)
	if len(r) <= 1000 {
		return s
	}
	return string(r[:1000]) + "…"
}

// briefly keeps a sentence from being such an echo.
func briefly(m says.Message) says.Message {
	const most = 600
	m.Values = slices.Clone(m.Values)
	for i, v := range m.Values {
		if r := []rune(v.Text); len(r) > most {
			m.Values[i].Text = string(r[:most]) + "…"
		}
	}
	return m
}

// note logs what an operator should see: what was refused to whom, and what failed here. A
// problem's words hold no secrets.
func (s *Server) note(c *gin.Context, p *desk.Problem) {
	attrs := []any{
		"request",
		c.GetString("request"),
		"type",
		p.Type,
		"path",
		shortPath(c.Request.URL.Path),
		"by",
		person(c).Name,
		"place",
		c.ClientIP(),
	}
	switch p.Type {
	case desk.NotSignedIn, desk.Forbidden, desk.TooMany:
		s.Log.Warn("request refused", attrs...)
	case desk.Unavailable, desk.Uncertain, desk.DiskFull, desk.Damaged:
		s.Log.Error("request failed", append(attrs, "error", errors.Unwrap(p))...)
	default:
	}
}

// fail answers with a problem (RFC 9457).
func (s *Server) fail(c *gin.Context, err error) {
	if isOver(c.Request.Context(), err) {
		err = stalled(err)
	}
	id := c.GetString("request")
	out := api.Problem{
		Type:      "internal",
		Title:     "Something went wrong here",
		Status:    500,
		Detail:    "The service could not finish this. Its log has the cause under the request id.",
		RequestId: &id,
	}
	out.Remedy = remedyOut(desk.To(desk.Report, "request", id))
	if p, ok := asProblem(err); ok {
		out.Type, out.Title, out.Status = api.ProblemType(p.Type), titles[p.Type], statuses[p.Type]
		out.Detail, out.Subject = brief(p.Error()), some(brief(p.What))
		said := briefly(p.Says())
		out.Said = &said
		if about := briefly(p.About()); !about.IsZero() {
			out.About = &about
		}
		if p.Details != nil {
			out.Details = &p.Details
		}
		out.Remedy = remedyOut(p.Remedy)
		s.note(c, p)
	} else {
		s.Log.Error("request failed", "request", id, "error", err)
	}
	c.Header("Content-Type", "application/problem+json")
	c.JSON(out.Status, out)
	c.Abort()
}

// remedyOut gives a remedy as the interface writes it; nil where there is none.
func remedyOut(r desk.Remedy) *api.Remedy {
	if r.Code == "" {
		return nil
	}
	out := &api.Remedy{Code: api.RemedyCode(r.Code)}
	if len(r.Values) > 0 {
		out.Values = &r.Values
	}
	return out
}
