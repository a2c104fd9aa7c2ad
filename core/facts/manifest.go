package facts

import (
	"encoding/json"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/span"
)

// The media types of files, other than SVG, whose references are read. A media
// item carries its own in its context.
const (
	ScriptType   = "text/javascript"
	manifestType = "application/manifest+json"
)

// ReadsAs gives the context of a media item by its media type: the type itself
// where references are read in such a file, else "".
func ReadsAs(mediaType string) string {
	if mediaType == ScriptType || mediaType == manifestType {
		return mediaType
	}
	return ""
}

// addressMembers hold addresses in a web manifest (W3C Web Application Manifest).
var addressMembers = set("src start_url scope url action id")

// manifest reads a web manifest: icons, screenshots, shortcuts and where it starts.
func (c *collector) manifest() {
	var v any
	if err := json.Unmarshal(c.src, &v); err != nil {
		c.facts.Broken = "not readable as a web manifest: " + err.Error()
		return
	}
	if plain, err := json.Marshal(v); err == nil {
		c.facts.NormalizedDigest = item.DigestOf(plain)
	}
	for _, s := range jsonStrings(c.src) {
		if !addressMembers[s.name] || s.name == "id" && !strings.HasPrefix(s.value, "/") {
			continue
		}
		at := func(from, to int) span.Span { return span.Span{Start: s.at.Start + from, End: s.at.Start + to} }
		if s.at.Len() != len(s.value) {
			at = func(int, int) span.Span { return s.at }
		}
		c.address(s.value, Where{In: InManifest, Name: s.name}, at, asJSONURL)
	}
}
