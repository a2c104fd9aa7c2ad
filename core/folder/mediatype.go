package folder

import (
	"bytes"
	"fmt"
	"net/http"
	"strings"
)

// sniffed are media types that a file's first bytes tell for sure (WHATWG MIME
// Sniffing, as net/http does it).
var sniffed = map[string]bool{
	"image/png":       true,
	"image/jpeg":      true,
	"image/gif":       true,
	"image/webp":      true,
	"video/webm":      true,
	"application/pdf": true,
	"font/woff":       true,
	"font/woff2":      true,
}

// lieOf says in words when a file is not what its name says; it is served as what it
// is named.
func lieOf(named string, first []byte) string {
	if len(first) == 0 {
		return "it is empty"
	}
	is, _, _ := strings.Cut(http.DetectContentType(first), ";")
	named, _, _ = strings.Cut(named, ";")
	switch {
	case is == named || strings.HasPrefix(is, "image/") && strings.HasPrefix(named, "image/") && !sniffed[named]:
		return ""
	case strings.HasPrefix(is, "image/") && strings.HasPrefix(named, "image/"):
		return fmt.Sprintf("its name says %s and it is %s: browsers show it anyway", named, is)
	case named == "image/svg+xml":
		if bytes.Contains(bytes.ToLower(first), []byte("<svg")) || bytes.HasPrefix(first, []byte("\x1f\x8b")) {
			return ""
		}
	case sniffed[named]:
	case is == "text/html" && (named == "text/css" || named == "text/javascript" || named == "application/json" ||
		strings.HasPrefix(named, "image/") || strings.HasPrefix(named, "font/") || strings.HasPrefix(named, "video/")):
	default:
		return ""
	}
	if is == "application/octet-stream" || is == "text/plain" {
		is = "something else"
	}
	return fmt.Sprintf("its name says %s and it is %s: browsers will not show it", named, is)
}
