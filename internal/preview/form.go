package preview

import (
	"errors"
	"html/template"
	"net/http"
	"net/url"
	"strings"

	"compactparcel/core/form"
	"compactparcel/core/item"
)

// maxTrial is how much a trial entry can hold, in bytes.
const maxTrial = 256 << 10

// trialPage tells what would become of an entry. Whom the mails would go to is not told: a preview can be
// looked at by whoever has its address.
var trialPage = template.Must(template.New("").Parse(`<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>{{.Title}}</title>
<style>body{font:1rem/1.5 system-ui,sans-serif;max-width:40rem;margin:2rem auto;padding:0 1rem}` +
	`pre{white-space:pre-wrap;background:#f1f1ee;padding:1rem}</style>
<main>
<h1>{{.Title}}</h1>
{{with .Text}}<p>{{.}}</p>
{{end}}{{with .Page}}<p>A visitor would be led to <a href="{{.}}">{{.}}</a>.</p>
{{end}}{{with .Wrong}}<ul>
{{range .}}<li>{{.}}</li>
{{end}}</ul>
{{end}}{{range .Mails}}<h2>{{.Heading}}</h2>
<pre>{{.Subject}}

{{.Text}}</pre>
{{end}}<p><small>This is a preview: nothing was kept and nothing was sent.</small></p>
</main>
</html>
`))

type trialMail struct{ Heading, Subject, Text string }

type trialShown struct {
	Title, Text string
	Page        string
	Wrong       []string
	Mails       []trialMail
}

// form answers a trial entry as the receiver of forms would answer it, and keeps nothing.
func (p *Previews) form(r *http.Request, s *shown, name string) (*answer, error) {
	head, ok := s.view.Find(item.Address{Kind: item.Form, Key: name})
	if !ok || r.Method != http.MethodPost {
		return textAnswer(http.StatusNotFound, "There is no such form."), nil
	}
	b, err := item.Read(s.view, head)
	if err != nil {
		return nil, err
	}
	f, err := form.Parse(b)
	if err != nil {
		return trialAnswer(http.StatusUnprocessableEntity, trialShown{Title: "This form cannot be read",
			Text: err.Error()})
	}
	r.Body = http.MaxBytesReader(nil, r.Body, maxTrial)
	if err := r.ParseMultipartForm(maxTrial); err != nil && !errors.Is(err, http.ErrNotMultipart) {
		return trialAnswer(http.StatusBadRequest,
			trialShown{Title: "This could not be sent", Text: "It cannot be read."})
	}
	receiver, unread := s.receiver(name)
	t := f.Try(r.PostForm, receiver)
	if len(t.Wrong) > 0 {
		out := trialShown{Title: "Please check what you wrote"}
		for _, x := range t.Wrong {
			out.Wrong = append(out.Wrong, f.Label(x.Field)+": "+x.Message)
		}
		return trialAnswer(http.StatusUnprocessableEntity, out)
	}
	out := trialShown{Title: "Sent", Text: t.Text}
	switch {
	case unread != nil:
		out.Wrong = []string{unread.Error()}
	case within(t.Page):
		out.Page = t.Page
	case t.Page != "":
		out.Text = "A visitor would be led to " + t.Page + "."
	}
	if len(receiver.To) == 0 && unread == nil {
		out.Wrong = []string{"Nobody would be told: setting/forms names no mail address for this form."}
	}
	for i, m := range t.Mails {
		heading := "A mail to the team"
		if i > 0 || len(receiver.To) == 0 {
			heading = "A mail to who sent it"
		}
		out.Mails = append(out.Mails, trialMail{heading, m.Subject, m.Text})
	}
	return trialAnswer(http.StatusOK, out)
}

// receiver says who gets what is sent with a form.
func (s *shown) receiver(name string) (form.Receiver, error) {
	head, ok := s.view.Find(item.Address{Kind: item.Setting, Key: "forms"})
	if !ok {
		return form.Receiver{}, nil
	}
	b, err := item.Read(s.view, head)
	if err != nil {
		return form.Receiver{}, err
	}
	list, err := form.Receivers(b)
	return list[name], err
}

// trialAnswer writes the answer to a trial.
func trialAnswer(status int, of trialShown) (*answer, error) {
	var b strings.Builder
	if err := trialPage.Execute(&b, of); err != nil {
		return nil, err
	}
	a := &answer{status: status, header: http.Header{}, body: []byte(b.String())}
	a.header.Set("Content-Type", "text/html; charset=utf-8")
	a.header.Set("Cache-Control", "no-store")
	return a, nil
}

// within tells whether an address is a path of the site itself.
func within(to string) bool {
	u, err := url.Parse(to)
	return err == nil && u.Scheme == "" && u.Host == "" && strings.HasPrefix(to, "/") &&
		!strings.HasPrefix(to, "//") &&
		!strings.ContainsAny(to, "\\\r\n\t")
}
