package markup

import "strings"

// RunsScript tells whether browsers run an address as a script, however it is written: they pass over space
// and control characters before it, and tabs and line ends within (URL Standard, section 4.4).
func RunsScript(address string) bool {
	address = strings.TrimLeftFunc(address, func(r rune) bool { return r <= ' ' })
	scheme, _, ok := strings.Cut(address, ":")
	scheme = strings.ToLower(strings.NewReplacer("\t", "", "\n", "", "\r", "").Replace(scheme))
	return ok && (scheme == "javascript" || scheme == "vbscript")
}
