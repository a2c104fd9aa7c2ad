package client

import (
	"strings"

	"github.com/spf13/cobra"
)

// elsewhereShown is how many commands are told when one of that name was looked for in another place.
const elsewhereShown = 3

// noCommand tells that a command has none of this name, and which others have.
func noCommand(of *cobra.Command, name string) error {
	full, fix := name, of.CommandPath()+" --help"
	if of.HasParent() {
		full = of.CommandPath() + " " + name
	}
	if others := commandsNamed(of.Root(), name); len(others) > 0 && len(others) <= elsewhereShown {
		fix = strings.Join(others, ", or ")
	}
	return usage("there is no command %q\n  To fix: %s", full, fix)
}

// commandsNamed finds how the commands of a name are used, wherever they are.
func commandsNamed(under *cobra.Command, name string) (found []string) {
	for _, c := range under.Commands() {
		if c.Name() == name {
			found = append(found, c.UseLine())
		}
		found = append(found, commandsNamed(c, name)...)
	}
	return found
}
