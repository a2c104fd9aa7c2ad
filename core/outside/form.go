package outside

import (
	"bytes"
	"unicode/utf8"

	"compactparcel/core/folder"

	"golang.org/x/net/html/charset"
)

var byteOrderMark = []byte("\ufeff")

// inReleaseForm gives a file's text with what an editor changed throughout set aside: a byte-order
// mark, another encoding, other line ends. Each is told once.
func (c *carrier) inReleaseForm(p *page, x folder.Published, text []byte) []byte {
	told := func(what string) {
		c.say(Line{Path: p.now, Item: x.Item, State: Told, Why: what})
	}
	if !bytes.HasPrefix(p.from.Body, byteOrderMark) && bytes.HasPrefix(text, byteOrderMark) {
		text = text[len(byteOrderMark):]
		told("a byte-order mark was put before it, which is set aside")
	}
	if p.slug != "" && !utf8.Valid(text) {
		out, was := folder.ToUTF8(text)
		if was == "" { // it says that it is UTF-8, and an editor that knows no other saved it
			enc, name := charset.Lookup("windows-1252")
			if b, err := enc.NewDecoder().Bytes(text); err == nil {
				out, was = b, name
			}
		}
		if was != "" {
			text = out
			told("it was saved as " + was + ", and is taken as UTF-8")
		}
	}
	if n := bytes.Count(text, []byte("\r\n")); n > 0 && !bytes.Contains(p.from.Body, []byte("\r\n")) &&
		n == bytes.Count(text, []byte("\n")) {
		text = bytes.ReplaceAll(text, []byte("\r\n"), []byte("\n"))
		told("its lines end with CR LF now, which is set aside")
	}
	if n := bytes.Count(p.from.Body, []byte("\r\n")); n > 0 && n == bytes.Count(p.from.Body, []byte("\n")) &&
		!bytes.Contains(text, []byte("\r\n")) {
		text = bytes.ReplaceAll(text, []byte("\n"), []byte("\r\n"))
		told("its lines end with LF now, which is set aside")
	}
	return text
}
