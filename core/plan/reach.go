package plan

import (
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/closure"
	"compactparcel/core/css"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/core/tokens"

	"github.com/Masterminds/semver/v3"
)

// clashes finds classes that both sides define in different ways.
func (m *maker) clashes() error {
	ours, err := m.rulesOf(m.parcel.Collection.Heads(), func(h item.Head) ([]byte, error) { return item.Read(m.parcel.Collection, h) }, func(h item.Head) bool {
		row := m.rows[h.Address]
		return row != nil && (comesIn(row) || row.Decision == "") && row.Standing != Newer && row.Standing != Older
	})
	if err != nil || len(ours) == 0 {
		return err
	}
	replaced := map[item.Address]bool{}
	for _, row := range m.list {
		if row.Site != nil && row.Decision == Take {
			replaced[row.Site.Address] = true
		}
	}
	theirs, err := m.rulesOf(m.site.Sheets(), func(h item.Head) ([]byte, error) { return readSite(m.site, h) }, func(h item.Head) bool { return !replaced[h.Address] })
	if err != nil {
		return err
	}
	names := make([]string, 0, len(ours))
	for n := range ours {
		names = append(names, n)
	}
	sort.Strings(names)
	for _, n := range names {
		if theirs[n] == "" || theirs[n] == ours[n] {
			continue
		}
		c := Clash{Class: n, Kit: ours[n], Site: theirs[n]}
		key := "class:" + n
		free := m.plan.Kit + "-" + n
		choices := []Choice{{"rename", fmt.Sprintf("the kit's class becomes %q, in all its pieces", free)}, {"share", "both rules apply to both sides' pieces, in the order of the stylesheets"}}
		if d, ok := m.decided(key, ""); ok {
			if d.Decision != "rename" && d.Decision != "share" {
				return &DecisionError{key, "choose rename or share", choices}
			}
			c.Decision = string(d.Decision)
		} else if m.ask.Policy == "unattended" {
			c.Decision = "rename"
		} else {
			m.question(key, "class", fmt.Sprintf("The class %q means one thing on the site and another in the kit.", n), choices)
		}
		if c.Decision == "rename" {
			c.Becomes = free
			m.classes[n] = free
		}
		m.plan.Clashes = append(m.plan.Clashes, c)
	}
	return nil
}

func readSite(s Site, h item.Head) ([]byte, error) {
	return item.Read(opener{s}, h)
}

// opener lets item.Read read from a Site.
type opener struct{ Site }

func (o opener) Heads() []item.Head { return nil }

// rulesOf gives, for every class that the sheets define, its rules in sense form.
func (m *maker) rulesOf(heads []item.Head, read func(item.Head) ([]byte, error), counts func(item.Head) bool) (map[string]string, error) {
	out := map[string][]string{}
	for _, h := range heads {
		if h.Address.Kind != item.Stylesheet || !counts(h) {
			continue
		}
		b, err := read(h)
		if err != nil {
			return nil, err
		}
		css.Parse(b).Walk(func(r *css.Rule, around []*css.Rule) {
			if r.At != "" {
				return
			}
			seen := map[string]bool{}
			for _, s := range r.Selectors {
				for _, p := range s.Parts {
					for _, x := range p.Simple {
						if x.Type == css.ByClass && !strings.HasPrefix(x.Name, "cp-") && !seen[x.Name] {
							seen[x.Name] = true
							ctx := ""
							for _, a := range around {
								ctx += "@" + a.At + " " + string(a.Prelude.Of(b)) + " "
							}
							out[x.Name] = append(out[x.Name], ctx+string(css.Sense(r.Of(b))))
						}
					}
				}
			}
		})
	}
	joined := map[string]string{}
	for n, rules := range out {
		sort.Strings(rules)
		joined[n] = strings.Join(rules, "\n")
	}
	return joined, nil
}

// seats finds parts that want the place of one of the site's.
func (m *maker) seats() error {
	replaced := map[item.Address]bool{}
	for _, p := range m.puts {
		replaced[p.Head.Address] = true
	}
	for i := range m.puts {
		p := &m.puts[i]
		if p.Head.Address.Kind != item.Part || p.Head.Meta.Off {
			continue
		}
		place := p.Head.Meta.Place()
		var stays []string
		for _, target := range place.On {
			var other item.Head
			for _, s := range m.site.Parts() {
				if replaced[s.Address] || s.Meta.Role != p.Head.Meta.Role || s.Meta.Off {
					continue
				}
				for _, t := range s.Meta.Place().On {
					if t == target {
						other = s
					}
				}
			}
			if other.Address.IsZero() {
				stays = append(stays, target)
				continue
			}
			m.rely(other.Address)
			seat := Seat{Role: p.Head.Meta.Role, Target: target, Site: other.Address, Kit: p.Head.Address}
			key := fmt.Sprintf("seat:%s:%s", seat.Role, target)
			choices := []Choice{{"site", fmt.Sprintf("%s stays on %s; the kit's comes in unplaced", other.Address, target)}, {"kit", fmt.Sprintf("the kit's stands on %s; %s is left unplaced, not deleted", target, other.Address)}}
			if d, ok := m.decided(key, ""); ok {
				if d.Decision != "site" && d.Decision != "kit" {
					return &DecisionError{key, "choose site or kit", choices}
				}
				seat.Decision = string(d.Decision)
			} else if m.ask.PartsMayGiveWay {
				seat.Decision = "kit"
			} else if m.ask.Policy == "unattended" {
				seat.Decision = "site"
			} else {
				m.question(key, "seat", fmt.Sprintf("%s and the kit's %s both want to be the %s on %s.", other.Address, p.Head.Address, seat.Role, target), choices)
			}
			m.plan.Seats = append(m.plan.Seats, seat)
			if seat.Decision == "kit" {
				stays = append(stays, target)
				gives := other
				on := []string{}
				for _, t := range other.Meta.Place().On {
					if t != target {
						on = append(on, t)
					}
				}
				gives.Meta.Placement = &item.Placement{On: on, Except: other.Meta.Place().Except}
				m.puts = append(m.puts, Put{Head: gives})
			}
		}
		if len(stays) != len(place.On) {
			if stays == nil {
				stays = []string{}
			}
			m.puts[i].Head.Meta.Placement = &item.Placement{On: stays, Except: place.Except}
		}
	}
	return nil
}

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

// tokens compares the tokens that both sides have.
func (m *maker) tokens() error {
	theirs := map[string]string{}
	for _, h := range m.site.Sheets() {
		if h.Address.Kind != item.Tokens {
			continue
		}
		b, err := readSite(m.site, h)
		if err != nil {
			return err
		}
		if set, err := tokens.Parse(b); err == nil {
			for _, t := range set.List {
				theirs[t.Property()] = set.CSS(t)
			}
		}
	}
	for _, p := range m.puts {
		if p.Head.Address.Kind != item.Tokens {
			continue
		}
		set, err := tokens.Parse(p.Content)
		if err != nil {
			return err
		}
		for _, t := range set.List {
			v := set.CSS(t)
			if s, ok := theirs[t.Property()]; ok && s != v {
				row := TokenRow{Property: t.Property(), Site: s, Kit: v}
				a, okA := tokens.ParseColour(s)
				b, okB := tokens.ParseColour(v)
				if okA && okB {
					row.Distance = float64(int(tokens.Distance(a, b)*1000+0.5)) / 1000
				}
				m.plan.Tokens = append(m.plan.Tokens, row)
			}
		}
	}
	return nil
}

// order gives new stylesheets their place: tokens before all of the site's, so
// that the site's values win where both are on a page; stylesheets behind.
func (m *maker) order() error {
	before := m.site.StyleOrder()
	known := map[item.Address]bool{}
	for _, a := range before {
		known[a] = true
	}
	for _, h := range m.site.Sheets() { // sheets that the order does not name yet
		if !known[h.Address] {
			known[h.Address] = true
			before = append(before, h.Address)
		}
	}
	incoming := map[item.Address]bool{}
	for _, p := range m.puts {
		if k := p.Head.Address.Kind; (k == item.Stylesheet || k == item.Tokens) && !known[p.Head.Address] {
			incoming[p.Head.Address] = true
		}
	}
	if len(incoming) == 0 {
		return nil
	}
	var first, last []item.Address
	for _, a := range m.parcel.List.StyleOrder {
		to, ok := m.moved[a]
		if !ok {
			to = a
		}
		if !incoming[to] {
			continue
		}
		delete(incoming, to)
		says := "behind the site's stylesheets"
		if a.Kind == item.Tokens {
			first = append(first, to)
			says = "before the site's stylesheets, so that the site's own values win"
		} else {
			last = append(last, to)
		}
		if row := m.rows[a]; row != nil {
			row.Order = says
		}
	}
	m.plan.StyleOrder = append(append(first, before...), last...)
	var rest []item.Address
	for a := range incoming {
		rest = append(rest, a)
	}
	sort.Slice(rest, func(i, j int) bool { return rest[i].Less(rest[j]) })
	m.plan.StyleOrder = append(m.plan.StyleOrder, rest...)
	m.rely(item.StyleOrder)
	return nil
}

// touch finds every page that the delivery reaches, and the ways.
func (m *maker) touch() error {
	ways := map[item.Address]map[string]bool{}
	reach := func(page item.Address, way string) {
		if ways[page] == nil {
			ways[page] = map[string]bool{}
		}
		ways[page][way] = true
	}
	parts := map[item.Address]item.Head{}
	for _, h := range m.site.Parts() {
		parts[h.Address] = h
	}
	changed := map[item.Address]item.Head{}
	for _, p := range m.puts {
		changed[p.Head.Address] = p.Head
	}
	// partPages gives the pages on which a part would stand, before or after.
	partPages := func(h item.Head, why string) {
		for _, page := range m.site.Pages() {
			left := false
			for _, role := range page.Meta.Without {
				left = left || role == h.Meta.Role
			}
			if !left && m.claims(h, page) {
				reach(page.Address, why)
			}
		}
	}
	for _, p := range m.puts {
		seen := map[item.Address]bool{}
		queue := []struct {
			a   item.Address
			way string
		}{{p.Head.Address, ""}}
		for len(queue) > 0 {
			x := queue[0]
			queue = queue[1:]
			if seen[x.a] {
				continue
			}
			seen[x.a] = true
			way := p.Head.Address.String() + x.way
			switch x.a.Kind {
			case item.Page:
				reach(x.a, way)
			case item.Part:
				if h, ok := changed[x.a]; ok {
					partPages(h, way)
				}
				if h, ok := parts[x.a]; ok {
					partPages(h, way)
				}
			case item.Record, item.RecordType:
				for _, page := range m.site.Pages() { // listings may stand anywhere
					reach(page.Address, way)
				}
			}
			users, err := m.site.UsedBy(x.a)
			if err != nil {
				return err
			}
			for _, u := range users {
				next := " → " + u.String()
				if strings.Contains(x.way, next) || u.Kind == item.Page {
					next = ""
				}
				queue = append(queue, struct {
					a   item.Address
					way string
				}{u, x.way + next})
			}
		}
	}
	for a, w := range ways {
		t := Touch{Page: a}
		if h, ok := m.site.Find(a); ok {
			t.Slug = h.Meta.Slug
		} else if h, ok := changed[a]; ok {
			t.Slug = h.Meta.Slug
		}
		for way := range w {
			t.Ways = append(t.Ways, way)
		}
		sort.Strings(t.Ways)
		m.plan.Touched = append(m.plan.Touched, t)
	}
	sort.Slice(m.plan.Touched, func(i, j int) bool { return m.plan.Touched[i].Page.Less(m.plan.Touched[j].Page) })
	return nil
}

// claims tells whether one of a part's targets names a page.
func (m *maker) claims(h item.Head, page item.Head) bool {
	spot := render.Spot{Slug: page.Meta.Slug, Home: page.Meta.Slug == "/"}
	for _, t := range h.Meta.Place().Except {
		if spot.Fits(t) {
			return false
		}
	}
	for _, t := range h.Meta.Place().On {
		if spot.Fits(t) || t == "home" {
			return true
		}
	}
	return false
}

// links lists the links of what comes in that will lead nowhere.
func (m *maker) links() error {
	slugs := map[string]bool{}
	after := map[item.Address]item.Head{}
	for _, p := range m.puts {
		after[p.Head.Address] = p.Head
		if p.Head.Address.Kind == item.Page {
			slugs[p.Head.Meta.Slug] = true
		}
	}
	for _, p := range m.puts {
		if p.Content == nil {
			continue
		}
		f := facts.Of(p.Head.Address.Kind, p.Head.Meta.Context, p.Content)
		for _, u := range closure.Uses(m.site, p.Head, f) {
			_, comes := after[u.To]
			if u.Slug == "" || u.Found || comes || slugs[u.Slug] {
				continue
			}
			m.plan.Links = append(m.plan.Links, LinkRow{p.Head.Address, u.Slug, u.Line})
		}
		for _, s := range f.Scripts {
			m.plan.Scripts = append(m.plan.Scripts, p.Head.Address.String()+": "+s)
		}
	}
	for _, p := range m.puts {
		if p.Head.Address.Kind == item.Component {
			m.plan.Scripts = append(m.plan.Scripts, p.Head.Address.String()+": the component's script")
		}
	}
	return nil
}

// say puts the rows into the plan, questions first, by standing.
func (m *maker) say() error {
	rank := map[Standing]int{}
	for i, s := range Standings {
		rank[s.Standing] = i
	}
	sort.SliceStable(m.list, func(i, j int) bool {
		a, b := m.list[i], m.list[j]
		if (a.Decision == "") != (b.Decision == "") {
			return a.Decision == ""
		}
		if rank[a.Standing] != rank[b.Standing] {
			return rank[a.Standing] < rank[b.Standing]
		}
		return a.Address.Less(b.Address)
	})
	for _, row := range m.list {
		m.plan.Rows = append(m.plan.Rows, *row)
	}
	for k := range m.parcel.List.Proposes {
		m.plan.Settings = append(m.plan.Settings, k)
	}
	sort.Strings(m.plan.Settings)
	return nil
}

// stray refuses decisions that no question and no row answers to.
func (m *maker) stray() error {
	var keys []string
	for k := range m.ask.Decisions {
		if !m.used[k] {
			keys = append(keys, k)
		}
	}
	sort.Strings(keys)
	for _, k := range keys {
		if m.ask.Decisions[k].About != "" {
			continue // decided once; what it was about is gone
		}
		var have []string
		for _, r := range m.plan.Rows {
			have = append(have, r.Address.String())
		}
		sort.Strings(have)
		return &DecisionError{About: k, Says: fmt.Sprintf("there is nothing of this name to decide in the plan (it holds: %s)", strings.Join(have, ", "))}
	}
	return nil
}
