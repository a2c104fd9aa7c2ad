package client

import "github.com/spf13/cobra"

// siteGroups put the commands about sites in groups, in the order of a keeper's work.
var siteGroups = []struct {
	title    string
	commands []string
}{
	{"Sites:", []string{"list", "new", "adopt", "show", "archive", "restore", "trust"}},
	{"Look at pages:", []string{"outline", "surround", "placement", "source", "picture"}},
	{"Edit in a draft:", []string{"edit", "use", "put", "remove", "looks", "fonts", "font", "scripts"}},
	{"Pictures and files:", []string{"media", "sizes", "crop", "icon", "alternatives"}},
	{"What repeats, and where it came from:", []string{"proposals", "accept", "sources"}},
	{"Before and after going live:", []string{"check", "go-live", "discard", "history", "differences", "bring-back"}},
	{"Publish:", []string{"publish", "outlet"}},
}

// grouped puts each command below another into its group.
func grouped(cmd *cobra.Command) {
	of := map[string]string{}
	for _, g := range siteGroups {
		cmd.AddGroup(&cobra.Group{ID: g.title, Title: g.title})
		for _, c := range g.commands {
			of[c] = g.title
		}
	}
	for _, c := range cmd.Commands() {
		c.GroupID = of[c.Name()]
	}
}
