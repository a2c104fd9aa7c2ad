package client

import (
	"fmt"
	"strings"

	"compactparcel/core/plan"
)

// nameGroups prints what both sides define: what is kept apart unasked in one line for all.
func (a *app) nameGroups(p *plan.Plan) {
	var all plan.NameGroup
	var quiet []plan.NameGroup
	for _, g := range p.Groups {
		if g.DecidedBy != plan.ByRule || g.Decision != plan.Apart {
			a.nameGroup(p, g)
			continue
		}
		quiet = append(quiet, g)
		all.Classes, all.Properties = all.Classes+g.Classes, all.Properties+g.Properties
		all.Animations, all.Fonts = all.Animations+g.Animations, all.Fonts+g.Fonts
	}
	switch len(quiet) {
	case 0:
	case 1:
		a.nameGroup(p, quiet[0])
	default:
		var keys []string
		for _, g := range quiet {
			keys = append(keys, g.Key)
		}
		if n := len(keys); n > 5 {
			keys = append(keys[:5], fmt.Sprintf("%d more", n-5))
		}
		a.say("%s on both sides, in %d groups: kept apart", groupSize(all), len(quiet))
		a.say("    --decide GROUP=share, where GROUP is %s", strings.Join(keys, ", "))
	}
}

// nameGroup prints in one line what both sides define, and what is done about it; names that
// are decided alone have lines of their own.
func (a *app) nameGroup(p *plan.Plan, g plan.NameGroup) {
	_, first := plan.ParseKey(g.Key)
	a.say("%s on both sides, such as %q: %s", groupSize(g), first, groupState(g))
	if g.Script != nil {
		a.say("  %s", g.Script)
	}
	a.otherwise(g.Key, g.Decision, g.Choices)
	for _, c := range p.Clashes {
		if c.Group == g.Key && c.Decision != "" && !follows(c, g) {
			a.say("  but %s: %s", c.Name, c.Decision)
		}
	}
}

// follows tells whether a name's decision is what its group's means for it.
func follows(c plan.Clash, g plan.NameGroup) bool {
	switch g.Decision {
	case plan.Apart:
		return c.Decision == plan.Rename
	case plan.Mark:
		return c.Decision == plan.Mark || c.Kind != plan.AboutClass
	default:
		return c.Decision == g.Decision
	}
}

// groupSize writes "7 classes and 29 custom properties".
func groupSize(g plan.NameGroup) string {
	var list []string
	for _, x := range []struct {
		n         int
		one, many string
	}{
		{g.Classes, "1 class", "classes"}, {g.Properties, "1 custom property", "custom properties"},
		{g.Animations, "1 animation", "animations"}, {g.Fonts, "1 font", "fonts"},
	} {
		switch {
		case x.n == 1:
			list = append(list, x.one)
		case x.n > 1:
			list = append(list, fmt.Sprintf("%d %s", x.n, x.many))
		}
	}
	if n := len(list) - 1; n > 0 {
		return strings.Join(list[:n], ", ") + " and " + list[n]
	}
	return strings.Join(list, "")
}

func groupState(g plan.NameGroup) string {
	switch g.Decision {
	case "":
		return "open"
	case plan.Apart:
		return "kept apart"
	case plan.Share:
		return "shared"
	case plan.Mark:
		return "kept apart by a mark on the kit's elements"
	case plan.Wear:
		return "the site's look is worn"
	default:
		return string(g.Decision)
	}
}
