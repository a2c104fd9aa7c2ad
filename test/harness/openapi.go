package harness

import (
	"bytes"
	"context"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/gorillamux"
	"github.com/stretchr/testify/require"
)

// Root gives the repository's folder.
func Root(t testing.TB) string {
	dir, err := os.Getwd()
	require.NoError(t, err)
	for ; dir != "/"; dir = filepath.Dir(dir) {
		if _, err := os.Stat(filepath.Join(dir, "go.mod")); err == nil {
			return dir
		}
	}
	t.Fatal("no go.mod above the test")
	return ""
}

// Interface reads api/openapi.yaml.
func Interface(t testing.TB) *openapi3.T {
	doc, err := openapi3.NewLoader().LoadFromFile(filepath.Join(Root(t), "api", "openapi.yaml"))
	require.NoError(t, err)
	return doc
}

var (
	routerOnce sync.Once
	router     routers.Router
)

// hold checks an answer against the interface's description.
func hold(t testing.TB, req *http.Request, r *http.Response, body []byte) {
	t.Helper()
	if !strings.HasPrefix(req.URL.Path, "/api/") {
		return
	}
	routerOnce.Do(func() {
		doc := Interface(t)
		require.NoError(t, doc.Validate(context.Background()))
		doc.Servers = nil
		var err error
		router, err = gorillamux.NewRouter(doc)
		require.NoError(t, err)
	})
	plain := req.Clone(context.Background())
	plain.URL.Scheme, plain.URL.Host, plain.Host = "", "", ""
	route, params, err := router.FindRoute(plain)
	if err != nil {
		require.GreaterOrEqual(t, r.StatusCode, 400, "%s %s is not described", req.Method, req.URL.Path)
		return
	}
	if !strings.Contains(r.Header.Get("Content-Type"), "json") {
		return
	}
	in := &openapi3filter.ResponseValidationInput{
		RequestValidationInput: &openapi3filter.RequestValidationInput{
			Request:    plain,
			PathParams: params,
			Route:      route,
		},
		Status: r.StatusCode,
		Header: r.Header,
		Body:   io.NopCloser(bytes.NewReader(body)),
	}
	require.NoError(t, openapi3filter.ValidateResponse(context.Background(), in), "%s %s", req.Method, req.URL.Path)
}
