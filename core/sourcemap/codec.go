package sourcemap

import (
	"encoding/json"
	"html"
	"strings"

	"compactparcel/core/markup"
)

// Codec says how a source writes a value, and how the page does. The set is closed.
type Codec string

// The codecs: the source's form, then the page's.
const (
	PlainToText     Codec = "plain-text"     // a plain value, as the text of an element
	PlainToAttr     Codec = "plain-attr"     // a plain value, as an attribute
	JSONToText      Codec = "json-text"      // a string of JSON, as the text of an element
	JSONToAttr      Codec = "json-attr"      // a string of JSON, as an attribute
	HTMLToText      Codec = "html-text"      // the text of an element, as that of another
	HTMLToAttr      Codec = "html-attr"      // the text of an element, as an attribute
	AttrToText      Codec = "attr-text"      // an attribute, as the text of an element
	AttrToAttribute Codec = "attr-attribute" // an attribute, as another
)

// Codecs lists all of them.
var Codecs = []Codec{PlainToText, PlainToAttr, JSONToText, JSONToAttr, HTMLToText, HTMLToAttr, AttrToText,
	AttrToAttribute}

// Value reads a value in the page's form; ok is false where it holds what a value cannot.
func (c Codec) Value(page string) (value string, ok bool) {
	if strings.ContainsAny(page, "<>") {
		return "", false
	}
	return html.UnescapeString(page), true
}

// Source writes a value as the source has it.
func (c Codec) Source(value string) string {
	form, _, _ := strings.Cut(string(c), "-")
	switch form {
	case "json":
		b, _ := json.Marshal(value) // a string
		return unescapeHTML(string(b[1 : len(b)-1]))
	case "html":
		return markup.EscapeText(value)
	case "attr":
		return markup.EscapeAttr(value)
	}
	return value
}

// Page writes a value as the page has it.
func (c Codec) Page(value string) string {
	if strings.HasSuffix(string(c), "-text") {
		return markup.EscapeText(value)
	}
	return markup.EscapeAttr(value)
}

// unescapeHTML takes back what encoding/json escapes for the sake of HTML.
func unescapeHTML(s string) string {
	return strings.NewReplacer(`\u003c`, "<", `\u003e`, ">", `\u0026`, "&").Replace(s)
}
