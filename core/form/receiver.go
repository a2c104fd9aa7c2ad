package form

import (
	"encoding/json"
	"fmt"
	"maps"
	"net/mail"
	"slices"
	"strings"
)

// Receiver says what becomes of what is sent with a form: the setting forms has one for each, by name.
type Receiver struct {
	// To are the mail addresses of the team.
	To      []string `json:"to"`
	Subject string   `json:"subject,omitempty"`
	Text    string   `json:"text,omitempty"`
	// Answer is the mail to the sender; none when it is absent.
	Answer *Mail `json:"answer,omitempty"`
	// KeepDays is how long entries are kept; 0: until somebody deletes them.
	KeepDays int `json:"keep-days,omitempty"`
}

// Mail is a mail to be written: {NAME} stands for what was filled in.
type Mail struct {
	Subject string `json:"subject"`
	Text    string `json:"text"`
}

// Receivers reads the setting forms.
func Receivers(src []byte) (map[string]Receiver, error) {
	out := map[string]Receiver{}
	if err := json.Unmarshal(src, &out); err != nil {
		return nil, fmt.Errorf("the setting forms cannot be read: %w", err)
	}
	for name, r := range out {
		for _, a := range r.To {
			if p, err := mail.ParseAddress(a); err != nil || p.Address != a {
				return nil, fmt.Errorf("the setting forms, %s: %q is no mail address", name, a)
			}
		}
	}
	return out, nil
}

// Sender gives the mail address of who filled a form in: its first field for one; "" where there is none.
func (f *Form) Sender(e Entry) string {
	for _, n := range f.Names() {
		if s, ok := e[n].(string); ok && f.Schema.Properties[n].Format == "email" {
			return s
		}
	}
	return ""
}

// Told writes an entry as lines, each field with its label.
func (f *Form) Told(e Entry) string {
	names := f.Names()
	for _, n := range slices.Sorted(maps.Keys(e)) {
		if !slices.Contains(names, n) {
			names = append(names, n) // the form asks for it no more
		}
	}
	var b strings.Builder
	for _, n := range names {
		if v, ok := e[n]; ok {
			fmt.Fprintf(&b, "%s: %s\n", f.Label(n), Text(v))
		}
	}
	return b.String()
}

// Text writes a value as people read it.
func Text(v any) string {
	switch v := v.(type) {
	case []any:
		words := make([]string, len(v))
		for i, x := range v {
			words[i] = Text(x)
		}
		return strings.Join(words, ", ")
	case bool:
		return map[bool]string{true: "yes", false: "no"}[v]
	case nil:
		return ""
	}
	return fmt.Sprint(v)
}

// Filled puts what was filled in into a text.
func Filled(text string, e Entry) string {
	pairs := []string{}
	for n, v := range e {
		pairs = append(pairs, "{"+n+"}", Text(v))
	}
	return strings.NewReplacer(pairs...).Replace(text)
}

// ForTeam is the mail that tells the team of an entry.
func (f *Form) ForTeam(r Receiver, e Entry) Mail {
	m := Mail{Subject: r.Subject, Text: r.Text}
	if m.Subject == "" {
		if m.Subject = f.Title; m.Subject == "" {
			m.Subject = "A form was sent"
		}
	}
	if m.Text != "" {
		m.Text += "\n\n"
	}
	return Mail{oneLine(Filled(m.Subject, e)), Filled(m.Text, e) + f.Told(e)}
}

// ForSender is the answer to who sent an entry.
func (f *Form) ForSender(r Receiver, e Entry) Mail {
	return Mail{oneLine(Filled(r.Answer.Subject, e)), Filled(r.Answer.Text, e)}
}

func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }
