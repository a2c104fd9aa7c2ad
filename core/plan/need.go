package plan

import (
	"fmt"
	"sort"

	"compactparcel/core/item"
	"compactparcel/core/render"

	"github.com/Masterminds/semver/v3"
)

// needs says how the site meets what the kit declares.
func (m *maker) needs() error {
	open := func(what, says string) {
		key := "need:" + what
		choices := []Choice{{"accept", "the delivery goes on without it"}}
		if d, ok := m.decided(key, ""); ok && d.Decision == "accept" || m.ask.Policy == "unattended" {
			return
		}
		m.question(key, "need", says, choices)
	}
	list := m.parcel.List
	if c, err := semver.NewConstraint(list.Engine); err == nil {
		row := NeedRow{What: "engine " + list.Engine, State: "met", Says: "the page engine here is " + render.Engine}
		if !c.Check(semver.MustParse(render.Engine)) {
			row.State = "too old"
			open("engine", fmt.Sprintf("The kit needs an engine %s; this one is %s.", list.Engine, render.Engine))
		}
		m.plan.Needs = append(m.plan.Needs, row)
	}
	var names []string
	for n := range list.Needs.Components {
		names = append(names, n)
	}
	sort.Strings(names)
	for _, n := range names {
		need := list.Needs.Components[n]
		row := NeedRow{What: n + " " + need.Range, Optional: need.Optional, State: "missing", Says: "the site has no such component"}
		if h, ok := m.site.Find(item.Address{Kind: item.Component, Key: n}); ok {
			row.State, row.Says = "met", "the site has version "+h.Meta.Version
			c, err := semver.NewConstraint(need.Range)
			v, errV := semver.NewVersion(h.Meta.Version)
			if err == nil && errV == nil && !c.Check(v) {
				row.State = "too old"
			}
		}
		if row.State != "met" && !need.Optional {
			open(n, fmt.Sprintf("The component %s %s is needed; %s.", n, need.Range, row.Says))
		}
		m.plan.Needs = append(m.plan.Needs, row)
	}
	names = names[:0]
	for n := range list.Needs.Kits {
		names = append(names, n)
	}
	sort.Strings(names)
	for _, n := range names {
		row := NeedRow{What: "kit " + n + " " + list.Needs.Kits[n], State: "missing", Says: "it has not been delivered here"}
		came, err := m.site.Came(n)
		if err != nil {
			return err
		}
		if c, err := semver.NewConstraint(list.Needs.Kits[n]); err == nil {
			for _, o := range came {
				row.State, row.Says = "too old", "version "+o.Version+" was delivered here"
				if v, err := semver.NewVersion(o.Version); err == nil && c.Check(v) {
					row.State = "met"
					break
				}
			}
		}
		if row.State != "met" {
			open("kit:"+n, fmt.Sprintf("The kit %s %s is needed; %s.", n, list.Needs.Kits[n], row.Says))
		}
		m.plan.Needs = append(m.plan.Needs, row)
	}
	for _, n := range list.Needs.Items {
		row := NeedRow{What: n.Address, Optional: n.Optional, State: "missing", Says: n.Why}
		if n.Slug != "" {
			row.What = n.Slug
		}
		if a, err := item.ParseAddress(n.Address); err == nil {
			if _, ok := m.site.Find(a); ok {
				row.State = "met"
			}
		}
		if n.Slug != "" {
			row.State = "missing"
			if _, ok := m.site.PageAt(n.Slug); ok {
				row.State = "met"
			}
		}
		if row.State == "missing" && !n.Optional {
			open(row.What, fmt.Sprintf("%s is needed and the site does not have it (%s).", row.What, n.Why))
		}
		m.plan.Needs = append(m.plan.Needs, row)
	}
	return nil
}
