// Command outcome reads what go test -json says and tells what matters of it: each package with its seconds, what a
// test that failed has to say, why one was skipped, and which took longest. It fails where a test did.
package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
)

// event is what go test says of one test, or of a package where Test is empty (cmd/test2json).
type event struct {
	Action, Package, Test, Output string
	Elapsed                       float64
	ImportPath                    string // of what is built
}

type slow struct {
	name    string
	seconds float64
}

// longest is how many of the tests that took longest are told.
const longest = 8

func main() {
	if !tell(os.Stdin, os.Stdout) {
		os.Exit(1)
	}
}

// tell tells what becomes of the tests; false where one failed, or none was run.
func tell(from io.Reader, to io.Writer) bool {
	said := map[string]*strings.Builder{}
	var all []slow
	good, packages := true, 0
	in := bufio.NewReader(from)
	for {
		line, err := in.ReadBytes('\n')
		var e event
		if len(line) > 0 && json.Unmarshal(line, &e) != nil {
			fmt.Fprintf(to, "%s", line) // of the compiler
			good = false
			continue
		}
		name := e.Package + " " + e.Test
		switch e.Action {
		case "output", "build-output":
			if said[name] == nil {
				said[name] = &strings.Builder{}
			}
			if e.Action == "build-output" {
				fmt.Fprint(to, e.Output)
			}
			said[name].WriteString(e.Output)
		case "fail", "build-fail":
			good = false
			if said[name] != nil {
				fmt.Fprintf(to, "%s\n", said[name])
			}
		case "skip":
			if e.Test != "" {
				fmt.Fprintf(to, "skipped: %s\n", strings.TrimSpace(reason(said[name].String())))
			}
		}
		ended := e.Action == "pass" || e.Action == "fail"
		switch {
		case ended && e.Test == "":
			packages++
			fmt.Fprintf(to, "%-6s %7.1f s  %s\n", e.Action, e.Elapsed, strings.TrimPrefix(e.Package, "compactparcel/"))
		case ended && !strings.Contains(e.Test, "/"):
			all = append(all, slow{name, e.Elapsed})
		}
		if ended || e.Action == "skip" {
			delete(said, name)
		}
		if err != nil {
			break
		}
	}
	slices.SortFunc(all, func(a, b slow) int { return int((b.seconds - a.seconds) * 1000) })
	for _, s := range all[:min(longest, len(all))] {
		fmt.Fprintf(to, "       %7.1f s  %s\n", s.seconds, strings.TrimPrefix(s.name, "compactparcel/"))
	}
	return good && packages > 0
}

// reason gives what a skipped test said, without what go test says around it.
func reason(output string) string {
	var out []string
	for _, l := range strings.Split(output, "\n") {
		if !strings.HasPrefix(strings.TrimSpace(l), "=== ") {
			out = append(out, strings.TrimSpace(l))
		}
	}
	return strings.Join(out, " ")
}
