package forms

import (
	"bytes"
	"context"
	"errors"
	"log/slog"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"compactparcel/core/form"
	"compactparcel/internal/desk"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// sent sends a body to a receiver, and tells what came through to the desk.
func sent(t *testing.T, r *Receiver, method, path, kind, body string) (*httptest.ResponseRecorder, url.Values) {
	t.Helper()
	var came url.Values
	answer := r.Receive
	r.Receive = func(ctx context.Context, site, name string, v url.Values, from string) (*desk.Received, error) {
		came = v
		return answer(ctx, site, name, v, from)
	}
	defer func() { r.Receive = answer }()
	h, err := r.Handler()
	require.NoError(t, err)
	q := httptest.NewRequest(method, path, strings.NewReader(body))
	q.Header.Set("Content-Type", kind)
	w := httptest.NewRecorder()
	h.ServeHTTP(w, q)
	assert.Contains(t, w.Header().Get("Content-Security-Policy"), "default-src 'none'")
	assert.Equal(t, "no-store", w.Header().Get("Cache-Control"), "what somebody wrote is kept nowhere")
	return w, came
}

func receiver(got *desk.Received, err error) *Receiver {
	return &Receiver{Log: slog.New(slog.DiscardHandler), Receive: func(context.Context, string, string, url.Values,
		string) (*desk.Received, error) {
		return got, err
	}}
}

const encoded = "application/x-www-form-urlencoded"

func TestWhatIsNoFormGoesNoFurther(t *testing.T) {
	var files bytes.Buffer
	parts := multipart.NewWriter(&files)
	f, err := parts.CreateFormFile("photo", "hut.png")
	require.NoError(t, err)
	_, err = f.Write([]byte("a picture"))
	require.NoError(t, err)
	require.NoError(t, parts.Close())
	for _, c := range []struct {
		name, method, path, kind, body string
		status                         int
	}{
		{"no site", "POST", "/", encoded, "a=b", http.StatusNotFound},
		{"no form", "POST", "/kestrel-refuge", encoded, "a=b", http.StatusNotFound},
		{"no form behind its site", "POST", "/kestrel-refuge/", encoded, "a=b", http.StatusNotFound},
		{"only looked at", "GET", "/kestrel-refuge/booking", "", "", http.StatusMethodNotAllowed},
		{"another kind", "POST", "/kestrel-refuge/booking", "application/json", "{}", http.StatusUnsupportedMediaType},
		{"too large", "POST", "/kestrel-refuge/booking", encoded, "a=" + strings.Repeat("x", MaxBody),
			http.StatusRequestEntityTooLarge},
		{"a file", "POST", "/kestrel-refuge/booking", parts.FormDataContentType(), files.String(),
			http.StatusUnprocessableEntity},
		{"broken off", "POST", "/kestrel-refuge/booking", "multipart/form-data; boundary=x", "--x\r\nContent",
			http.StatusBadRequest},
		{"badly escaped", "POST", "/kestrel-refuge/booking", encoded, "a=%zz", http.StatusBadRequest},
	} {
		t.Run(c.name, func(t *testing.T) {
			w, came := sent(t, receiver(&desk.Received{}, nil), c.method, c.path, c.kind, c.body)
			assert.Equal(t, c.status, w.Code)
			assert.Nil(t, came)
			assert.Contains(t, w.Body.String(), "<h1>")
		})
	}
}

func TestAnEntryComesThroughAsItWasWritten(t *testing.T) {
	w, came := sent(t, receiver(&desk.Received{Text: "See <you> soon", Back: "https://kestrel.example/?a=1&b=2"}, nil),
		"POST", "/kestrel-refuge/booking?name=of-the-address", encoded+"; charset=utf-8",
		"name=Mara+%26+Jonas&name=The+Tarn&words=over%0D%0Athe+ridge")
	assert.Equal(t, http.StatusOK, w.Code)
	assert.Equal(t, url.Values{"name": {"Mara & Jonas", "The Tarn"}, "words": {"over\r\nthe ridge"}}, came)
	assert.Contains(t, w.Body.String(), "See &lt;you&gt; soon")
	assert.Contains(t, w.Body.String(), `href="https://kestrel.example/?a=1&amp;b=2"`)
	w, _ = sent(t, receiver(&desk.Received{Page: "https://kestrel.example/thanks/"}, nil), "POST",
		"/kestrel-refuge/booking", encoded, "name=Mara")
	assert.Equal(t, http.StatusSeeOther, w.Code)
	assert.Equal(t, "https://kestrel.example/thanks/", w.Header().Get("Location"))
}

func TestAVisitorIsToldWhatBecameOfIt(t *testing.T) {
	schema := []byte(`{"schema":{"type":"object","properties":{"mail":{"type":"string","title":"Your <mail>"}}}}`)
	f, err := form.Parse(schema)
	require.NoError(t, err)
	for _, c := range []struct {
		name   string
		got    *desk.Received
		err    error
		status int
		says   string
		again  string
	}{
		{"no such form", nil, desk.ErrNoForm, http.StatusNotFound, "no such form", ""},
		{"full", nil, desk.ErrFormFull, http.StatusServiceUnavailable, "write or call", ""},
		{"too much", nil, desk.ErrTooFast, http.StatusTooManyRequests, "in a few minutes", "60"},
		{"not now", nil, errors.New("the database is gone"), http.StatusServiceUnavailable, "Nothing was kept", "10"},
		{"wrong", &desk.Received{Form: f, Wrong: []form.Wrong{{Field: "mail", Message: "is no address"}}}, nil,
			http.StatusUnprocessableEntity, "Your &lt;mail&gt;: is no address", ""},
		{"received", &desk.Received{}, nil, http.StatusOK, "Thank you.", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			w, _ := sent(t, receiver(c.got, c.err), "POST", "/kestrel-refuge/booking", encoded, "mail=x")
			assert.Equal(t, c.status, w.Code)
			assert.Contains(t, w.Body.String(), c.says)
			assert.NotContains(t, w.Body.String(), "database")
			assert.Equal(t, c.again, w.Header().Get("Retry-After"))
		})
	}
}

// Where a request comes from is what a trusted proxy says, and nobody else.
func TestOnlyATrustedProxyTellsWhereARequestComesFrom(t *testing.T) {
	for proxy, want := range map[string]string{"": "192.0.2.1", "192.0.2.0/24": "198.51.100.7"} {
		from := ""
		r := &Receiver{Log: slog.New(slog.DiscardHandler), Receive: func(_ context.Context, _, _ string, _ url.Values,
			at string) (*desk.Received, error) {
			from = at
			return &desk.Received{}, nil
		}}
		if proxy != "" {
			r.TrustedProxies = []string{proxy}
		}
		h, err := r.Handler()
		require.NoError(t, err)
		q := httptest.NewRequest(http.MethodPost, "/kestrel-refuge/booking", strings.NewReader("a=b"))
		q.Header.Set("Content-Type", encoded)
		q.Header.Set("X-Forwarded-For", "198.51.100.7")
		h.ServeHTTP(httptest.NewRecorder(), q)
		assert.Equal(t, want, from, "trusting %q", proxy)
	}
	_, err := (&Receiver{TrustedProxies: []string{"nobody"}}).Handler()
	assert.Error(t, err)
}
