package folder

import (
	"strings"
	"unicode/utf8"

	"compactparcel/core/markup"
	"compactparcel/core/span"

	"golang.org/x/net/html/charset"
)

// ToUTF8 gives a page in UTF-8, and the name of the encoding it was in when that
// was another. The encoding is found as browsers do (WHATWG Encoding Standard,
// and the encoding sniffing of the HTML standard); what the page says of it is
// made true again.
func ToUTF8(b []byte) (out []byte, was string) {
	enc, name, certain := charset.DetermineEncoding(b, "text/html")
	if name == "utf-8" || !certain && utf8.Valid(b) {
		return b, ""
	}
	out, err := enc.NewDecoder().Bytes(b)
	if err != nil {
		return b, ""
	}
	var edits []span.Edit
	for _, n := range markup.Parse(out, "").ByTag("meta") {
		if a, ok := n.Attr("charset"); ok && n.Own {
			edits = append(edits, span.Edit{Span: a.At, New: []byte("utf-8")})
		}
		if a, ok := n.Attr("content"); ok && n.Own && strings.EqualFold(n.Value("http-equiv"), "content-type") {
			edits = append(edits, markup.SetAttr(n, a.Name, "text/html; charset=utf-8"))
		}
	}
	if told, err := span.Apply(out, edits); err == nil {
		out = told
	}
	return out, name
}
