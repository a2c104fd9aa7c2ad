// Package httpapi is the network interface: Gin handlers that only translate
// between the interface of api/openapi.yaml and the desk's use cases.
package httpapi

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"strconv"
	"strings"
	"time"

	description "compactparcel/api"
	"compactparcel/api/schema"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/internal/pictures"
	"compactparcel/internal/preview"
	"compactparcel/internal/uploads"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"
)

// Server holds what the handlers need.
type Server struct {
	Desk     *desk.Desk
	Previews *preview.Previews
	Pictures *pictures.Pictures
	Uploads  *uploads.Uploads
	Log      *slog.Logger
	Console  http.Handler
	// Ready tells whether the service can do its work now.
	Ready func(context.Context) error
	// SecureCookies marks session cookies for encrypted connections only.
	SecureCookies bool
	// Names are the hosts at which browsers reach the console, beside localhost and
	// addresses in figures.
	Names []string
	// TrustedProxies are the addresses, or networks, of proxies that tell from where a
	// request comes (X-Forwarded-For).
	TrustedProxies []string
	// Stopping is closed when the service stops: what would go on for ever ends. It may be nil.
	Stopping <-chan struct{}

	streams streams                          // of events that are open
	byID    map[string]description.Operation // the described operations
}

// Handler gives the whole interface: API, health, metrics and console.
func (s *Server) Handler() (http.Handler, error) {
	ops, err := operations()
	if err != nil {
		return nil, err
	}
	s.byID = map[string]description.Operation{}
	for _, op := range ops {
		s.byID[op.ID] = op
	}
	gin.SetMode(gin.ReleaseMode)
	e := gin.New()
	e.UseRawPath, e.UnescapePathValues = true, true
	e.RedirectTrailingSlash = false
	e.ForwardedByClientIP = len(s.TrustedProxies) > 0
	e.RemoteIPHeaders = []string{"X-Forwarded-For"}
	if err := e.SetTrustedProxies(s.TrustedProxies); err != nil {
		return nil, fmt.Errorf("trusted proxies: %w", err)
	}
	reg := prometheus.NewRegistry()
	reg.MustRegister(collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	e.Use(s.requestID, s.observe(reg), s.recover, s.admit(ops))
	e.GET("/healthz", func(c *gin.Context) { c.JSON(http.StatusOK, gin.H{"state": "up"}) })
	e.GET("/readyz", s.ready)
	e.GET("/metrics", gin.WrapH(promhttp.HandlerFor(reg, promhttp.HandlerOpts{})))
	e.GET("/api/v1/openapi.yaml", func(c *gin.Context) { c.Data(http.StatusOK, "application/yaml", description.Text) })
	e.GET("/schema/:name", s.schema)
	RegisterHandlersWithOptions(e, s, GinServerOptions{
		ErrorHandler: func(c *gin.Context, err error, _ int) {
			message := err.Error()
			if number := new(strconv.NumError); errors.As(err, &number) {
				message = fmt.Sprintf("a number is wanted, not %q", number.Num)
			}
			s.fail(c, &desk.Problem{Type: desk.BadInput, What: c.Request.URL.Path, Message: message,
				Remedy: desk.To(desk.SeeInterface)})
		},
	})
	e.NoRoute(s.elsewhere)
	e.HandleMethodNotAllowed = true
	e.NoMethod(func(c *gin.Context) {
		s.nothing(c, c.Request.Method+" "+c.Request.URL.Path, "this address does not take this method",
			desk.To(desk.SeeInterface))
	})
	// Requests that a browser sends from another site are refused before anything else.
	guard := http.NewCrossOriginProtection()
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "application/problem+json")
		w.WriteHeader(http.StatusForbidden)
		json.NewEncoder(w).
			Encode(api.Problem{Type: api.ProblemType(desk.Forbidden), Title: titles[desk.Forbidden],
				Status: http.StatusForbidden, Detail: "the request came from another site",
				Remedy: remedyOut(desk.To(desk.OpenConsole))})
	}))
	return s.ownNames(guard.Handler(e)), nil
}

// ready tells whether the service can do its work.
func (s *Server) ready(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), 2*time.Second)
	defer cancel()
	if err := s.Ready(ctx); err != nil {
		c.JSON(http.StatusServiceUnavailable, gin.H{"state": "not ready", "why": err.Error()})
		return
	}
	c.JSON(http.StatusOK, gin.H{"state": "ready"})
}

// schema gives a JSON Schema of a format.
func (s *Server) schema(c *gin.Context) {
	b, err := schema.Files.ReadFile(c.Param("name"))
	if err != nil {
		s.nothing(c, c.Request.URL.Path, "there is no schema of this name",
			desk.OneOf("packing-list.schema.json", "seal.schema.json", "trust-list.schema.json"))
		return
	}
	c.Data(http.StatusOK, "application/schema+json", b)
}

// elsewhere answers what is no route: the console's own addresses.
func (s *Server) elsewhere(c *gin.Context) {
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		s.nothing(c, c.Request.URL.Path, "there is nothing at this address", desk.To(desk.SeeInterface))
		return
	}
	c.Status(http.StatusOK) // the router has put down that it knows nothing of this address
	s.Console.ServeHTTP(c.Writer, c.Request)
}

func (s *Server) nothing(c *gin.Context, what, message string, remedy desk.Remedy) {
	s.fail(c, &desk.Problem{Type: desk.NotFound, What: what, Message: message, Remedy: remedy})
}
