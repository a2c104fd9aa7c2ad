package client

import (
	"fmt"
	"strings"

	"compactparcel/core/plan"
	"compactparcel/core/render"
	"compactparcel/internal/api"
)

// plan prints a plan for people, questions first.
func (a *app) plan(d *api.Delivery) {
	p := d.Plan
	a.say("Delivery %d: %s@%s to %s", d.Id, p.Kit, p.Version, d.Site)
	if p.Terms.License != "" {
		a.say("Terms: %s", p.Terms.License)
	}
	for _, q := range p.Questions {
		a.say("\n%s %s", a.mark("?"), q.Says)
		for _, c := range q.Choices {
			word := string(c.Decision)
			if c.Decision == plan.Map {
				kind, _, _ := strings.Cut(q.About, "/")
				word += ":" + kind + "/NAME"
			}
			a.say("    --decide %s=%s   %s", q.About, word, a.quiet(c.Leads))
		}
		if q.Kind == "fill" {
			a.say("    --fill %s=…", strings.TrimPrefix(q.About, "fill:"))
		}
	}
	a.say("")
	var rows [][]any
	for _, r := range p.Rows {
		decision := string(r.Decision)
		if decision == "" {
			decision = a.mark("?")
		}
		becomes := ""
		if !r.Becomes.IsZero() && r.Becomes != r.Address && r.Decision != "" {
			becomes = "as " + r.Becomes.String() + "; "
		}
		if r.Order != "" {
			becomes += "goes " + r.Order + "; "
		}
		rows = append(rows, []any{r.Address.String(), string(r.Standing), decision, becomes + r.Why})
	}
	a.table("The plan is empty.", []string{"item", "standing", "decision", "what and why"}, rows)
	a.say("")
	for _, t := range p.Touched {
		way := t.Ways[0]
		if n := len(t.Ways) - 1; n > 0 {
			way += fmt.Sprintf(" and %d more", n)
		}
		where := t.Slug
		if where == render.NotFoundSlug {
			where = "the answer to unknown addresses"
		}
		a.say("Touches %s, through %s", where, way)
	}
	if len(p.Touched) == 0 {
		a.say("It touches no page.")
	}
	for _, c := range p.Clashes {
		a.say("Class %q is defined on both sides: %s", c.Class, orOpen(c.Decision))
	}
	for _, s := range p.Seats {
		a.say("Seat %s on %s: %s has it, %s wants it: %s", s.Role, s.Target, s.Site, s.Kit, orOpen(s.Decision))
	}
	for _, n := range p.Needs {
		if n.State != "met" {
			kind := "Need"
			if n.Optional {
				kind = "Optional"
			}
			a.say("%s %s is %s (%s)", kind, n.What, n.State, n.Says)
		}
	}
	for _, f := range p.Fills {
		if f.Given {
			a.say("Fill-in %s: %s", f.Name, f.Value)
		}
	}
	for _, s := range p.Settings {
		a.say("%s proposed as %s: %s, %s", s.Setting, s.Proposed, s.Decision, s.Why)
		for _, c := range s.Choices {
			if c.Decision != s.Decision {
				a.say("    --decide propose:%s=%s   %s", s.Setting, c.Decision, a.quiet(c.Leads))
			}
		}
	}
	for _, t := range p.Tokens {
		a.say("Token %s: the site has %s, the kit %s (distance %.3f)", t.Property, t.Site, t.Kit, t.Distance)
	}
	for _, l := range p.Links {
		a.say("%s %s, line %d: the link to %s leads nowhere on this site yet", a.mark("Link"), l.From, l.Line, l.Slug)
	}
	for _, s := range p.Scripts {
		a.say("%s %s", a.mark("Code"), s)
	}
	for _, n := range p.Notes {
		a.say("Note: %s", n)
	}
}

func orOpen(s string) string {
	if s == "" {
		return "open"
	}
	return s
}
