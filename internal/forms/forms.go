// Package forms receives what visitors send with the forms of published sites, at an address of its own:
// an origin apart from the console and the previews.
package forms

import (
	"context"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"html/template"
	"log/slog"
	"net/http"
	"net/url"
	"strings"

	"compactparcel/internal/desk"

	"github.com/gin-gonic/gin"
)

// MaxBody bounds what is sent at once, in bytes.
const MaxBody = 256 << 10

// Receiver receives forms: POST /SITE/FORM.
type Receiver struct {
	Receive func(ctx context.Context, site, form string, sent url.Values, from string) (*desk.Received, error)
	// TrustedProxies are the addresses, or networks, of proxies that tell where a request comes from.
	TrustedProxies []string
	Log            *slog.Logger
}

// Handler gives the receiver for a listener.
func (r *Receiver) Handler() (http.Handler, error) {
	gin.SetMode(gin.ReleaseMode)
	e := gin.New()
	e.ForwardedByClientIP = len(r.TrustedProxies) > 0
	if err := e.SetTrustedProxies(r.TrustedProxies); err != nil {
		return nil, err
	}
	e.NoRoute(func(c *gin.Context) {
		c.Status(http.StatusOK)
		r.answer(c.Writer, c.Request, c.ClientIP())
	})
	return e, nil
}

// style is what the pages look like, on any screen.
const style = "body{font:1.0625rem/1.6 system-ui,sans-serif;margin:0;color:#222;background:#f6f6f4}" +
	"main{max-width:34rem;margin:12vh auto;padding:2rem;background:#fff;border-top:.25rem solid #666}" +
	"h1{font-size:1.5rem;line-height:1.3;margin:0 0 1rem}ul{padding-left:1.25rem}li{margin:.25rem 0}a{color:#0b4f8a}" +
	"@media(max-width:40rem){main{margin:0;min-height:100vh;box-sizing:border-box}}"

// policy lets the pages have that style, and nothing else (CSP 3, 6.7.3.3).
var policy = func() string {
	sum := sha256.Sum256([]byte(style))
	return "default-src 'none'; style-src 'sha256-" + base64.StdEncoding.EncodeToString(sum[:]) +
		"'; base-uri 'none'; frame-ancestors 'none'"
}()

// page is what a visitor reads.
var page = template.Must(template.New("").Parse(`<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>{{.Title}}</title>
<style>` + style + `</style>
</head>
<body>
<main>
<h1>{{.Title}}</h1>
{{with .Text}}<p>{{.}}</p>
{{end}}{{with .Wrong}}<ul>
{{range .}}<li>{{.}}</li>
{{end}}</ul>
{{end}}{{with .Back}}<p><a href="{{.}}">Back to the site</a></p>
{{end}}</main>
</body>
</html>
`))

type shown struct {
	Title, Text, Back string
	Wrong             []string
}

func (r *Receiver) answer(w http.ResponseWriter, q *http.Request, from string) {
	h := w.Header()
	h.Set("Content-Security-Policy", policy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "no-referrer")
	h.Set("Cache-Control", "no-store")
	site, name, ok := strings.Cut(strings.TrimPrefix(q.URL.Path, "/"), "/")
	switch {
	case !ok || site == "" || name == "":
		r.show(w, http.StatusNotFound, shown{Title: "There is no such form"})
		return
	case q.Method != http.MethodPost:
		h.Set("Allow", http.MethodPost)
		r.show(w, http.StatusMethodNotAllowed,
			shown{Title: "Forms are sent here", Text: "Fill the form in on its site."})
		return
	}
	sent, status, why := r.read(w, q)
	if why != "" {
		r.show(w, status, shown{Title: "This could not be sent", Text: why})
		return
	}
	got, err := r.Receive(q.Context(), site, name, sent, from)
	switch {
	case errors.Is(err, desk.ErrNoForm):
		r.show(w, http.StatusNotFound, shown{Title: "There is no such form"})
	case errors.Is(err, desk.ErrFormFull):
		r.show(w, http.StatusServiceUnavailable, shown{Title: "This could not be sent",
			Text: "The form takes no more for now. Please write or call instead."})
	case errors.Is(err, desk.ErrTooFast):
		h.Set("Retry-After", "60")
		r.show(w, http.StatusTooManyRequests, shown{Title: "This could not be sent",
			Text: "Too much was sent from there. Try again in a few minutes."})
	case err != nil:
		r.Log.Error("receiving a form", "site", site, "form", name, "error", err)
		h.Set("Retry-After", "10")
		r.show(w, http.StatusServiceUnavailable, shown{Title: "This could not be sent",
			Text: "Nothing was kept. Try again in a few seconds."})
	case len(got.Wrong) > 0:
		s := shown{Title: "Please check what you wrote",
			Text: "Nothing was sent yet. Go back in your browser: what you wrote is still there."}
		for _, x := range got.Wrong {
			s.Wrong = append(s.Wrong, got.Form.Label(x.Field)+": "+x.Message)
		}
		r.show(w, http.StatusUnprocessableEntity, s)
	case got.Page != "":
		http.Redirect(w, q, got.Page, http.StatusSeeOther)
	default:
		text := got.Text
		if text == "" {
			text = "Thank you."
		}
		r.show(w, http.StatusOK, shown{Title: "It was sent", Text: text, Back: got.Back})
	}
}

// read reads what was sent; why tells what cannot be.
func (r *Receiver) read(w http.ResponseWriter, q *http.Request) (sent url.Values, status int, why string) {
	q.Body = http.MaxBytesReader(w, q.Body, MaxBody)
	kind, _, _ := strings.Cut(q.Header.Get("Content-Type"), ";")
	var err error
	switch strings.ToLower(strings.TrimSpace(kind)) {
	case "application/x-www-form-urlencoded", "":
		err = q.ParseForm()
	case "multipart/form-data":
		if err = q.ParseMultipartForm(MaxBody); err == nil && len(q.MultipartForm.File) > 0 {
			return nil, http.StatusUnprocessableEntity, "The form takes no files."
		}
	default:
		return nil, http.StatusUnsupportedMediaType, "It is no form."
	}
	var large *http.MaxBytesError
	switch {
	case errors.As(err, &large):
		return nil, http.StatusRequestEntityTooLarge, "It is too large."
	case err != nil:
		return nil, http.StatusBadRequest, "It cannot be read."
	}
	return q.PostForm, 0, ""
}

func (r *Receiver) show(w http.ResponseWriter, status int, s shown) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.WriteHeader(status)
	if err := page.Execute(w, s); err != nil {
		r.Log.Warn("answering a form", "error", err)
	}
}
