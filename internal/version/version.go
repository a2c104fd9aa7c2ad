// Package version tells what a program was built from, as the Go toolchain noted it.
package version

import (
	"fmt"
	"runtime/debug"
)

// Built is what a program was built from.
type Built struct {
	// Module is the module's version: of a release vX.Y.Z, else (devel) or one made of the commit.
	Module string `json:"module"`
	// Commit is the commit's hash; "" where that is not known. Changed tells that files differed from it.
	Commit  string `json:"commit,omitempty"`
	Changed bool   `json:"changed,omitempty"`
	At      string `json:"at,omitempty"` // when the commit was made, RFC 3339
	Go      string `json:"go"`
}

// Read gives what this program was built from.
func Read() Built {
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return Built{Module: "unknown"}
	}
	out := Built{Module: info.Main.Version, Go: info.GoVersion}
	for _, s := range info.Settings {
		switch s.Key {
		case "vcs.revision":
			out.Commit = s.Value
		case "vcs.time":
			out.At = s.Value
		case "vcs.modified":
			out.Changed = s.Value == "true"
		}
	}
	return out
}

// String writes it in one line.
func (b Built) String() string {
	s := b.Module
	if b.Commit != "" {
		s += fmt.Sprintf(", commit %.12s", b.Commit)
		if b.At != "" {
			s += " of " + b.At
		}
		if b.Changed {
			s += ", with changes since"
		}
	}
	return s + ", " + b.Go
}
