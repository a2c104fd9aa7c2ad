package faults

import (
	"regexp"
	"strings"
)

var (
	filler = regexp.MustCompile(
		`(?i)\blorem ipsum\b|\bdolor sit amet\b|\b(sample|placeholder|dummy) text\b|\byour ` +
			`(name|text|title|headline) here\b|\bTODO\b`,
	)
	mail  = regexp.MustCompile(`[A-Za-z0-9._%+-]+@[A-Za-z0-9-]+(\.[A-Za-z0-9-]+)+`)
	phone = regexp.MustCompile(`\+\d[\d ()/.-]{6,}\d`)
)

// FillerIn gives the first words of a text that were never meant to stay; "" for none.
func FillerIn(text string) string { return find(filler, text, mayBeFiller) }

// MailIn gives the first mail address in a text.
func MailIn(text string) string { return find(mail, text, mayBeMail) }

// PhoneIn gives the first phone number in a text, in international form.
func PhoneIn(text string) string { return find(phone, text, mayBePhone) }

// find gives the first match in a text that may hold one at all: most hold none, and to
// tell that quickly is most of the work.
func find(pattern *regexp.Regexp, text string, may func(string) bool) string {
	if !may(text) {
		return ""
	}
	return pattern.FindString(text)
}

func mayBeMail(text string) bool  { return strings.IndexByte(text, '@') > 0 }
func mayBePhone(text string) bool { return strings.IndexByte(text, '+') >= 0 }

func mayBeFiller(text string) bool {
	low := strings.ToLower(text)
	for _, word := range []string{"lorem", "dolor", " text", " here", "todo"} {
		if strings.Contains(low, word) {
			return true
		}
	}
	return false
}
