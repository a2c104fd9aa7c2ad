package markup

import "strings"

var textEscaper = strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;")
var attrEscaper = strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;", `"`, "&quot;", "'", "&#39;")

// EscapeText makes s safe as element text.
func EscapeText(s string) string { return textEscaper.Replace(s) }

// EscapeAttr makes s safe within a quoted attribute value, with either quote.
func EscapeAttr(s string) string { return attrEscaper.Replace(s) }

// EscapeUnquoted makes s safe where the source has no quotes; ok is false when
// quotes would be needed.
func EscapeUnquoted(s string) (string, bool) {
	if s == "" || strings.ContainsAny(s, " \t\r\n\f\"'=<>`") {
		return "", false
	}
	return strings.ReplaceAll(s, "&", "&amp;"), true
}
