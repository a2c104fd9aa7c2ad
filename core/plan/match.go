package plan

import (
	"fmt"
	"path"
	"sort"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/markup"
	"compactparcel/core/span"

	"github.com/Masterminds/semver/v3"
)

// remember reads what this kit delivered before.
func (m *maker) remember() error {
	came, err := m.site.Came(m.parcel.List.Kit)
	if err != nil {
		return err
	}
	m.plan.VersionIs = "first"
	for _, o := range came {
		if old, ok := m.origins[o.KitAddress]; !ok || o.Copy > old.Copy {
			m.origins[o.KitAddress] = o
		}
		switch c := compareVersions(m.parcel.List.Version, o.Version); {
		case c > 0:
			m.plan.VersionIs = "newer"
		case c == 0 && m.plan.VersionIs != "newer":
			m.plan.VersionIs = "same"
		case c < 0 && m.plan.VersionIs == "first":
			m.plan.VersionIs = "older"
		}
	}
	return nil
}

func compareVersions(a, b string) int {
	x, errX := semver.StrictNewVersion(a)
	y, errY := semver.StrictNewVersion(b)
	if errX != nil || errY != nil {
		return strings.Compare(a, b)
	}
	return x.Compare(y)
}

// match finds each item's counterpart, its standing and its decision.
func (m *maker) match() error {
	inKit := map[item.Address]bool{}
	heads := m.parcel.Heads()
	// Names that the last delivery gave are known first: T compares under them.
	for _, h := range heads {
		inKit[h.Address] = true
		for _, was := range h.Meta.Was {
			inKit[was] = true
		}
		if o, ok := m.origin(h); ok && !o.Item.IsZero() {
			m.moved[h.Address] = o.Item
		} else if h.Address.Kind == item.Media {
			if a, ok := m.site.MediaWith(h.Doc); ok {
				m.moved[h.Address] = a
			}
		}
	}
	for _, h := range heads {
		row, err := m.row(h)
		if err != nil {
			return err
		}
		m.list = append(m.list, row)
		m.rows[h.Address] = row
	}
	var gone []item.Address
	for a, o := range m.origins {
		if !inKit[a] && !o.Item.IsZero() {
			gone = append(gone, a)
		}
	}
	sort.Slice(gone, func(i, j int) bool { return gone[i].Less(gone[j]) })
	for _, a := range gone {
		row := &Row{Address: a, Standing: Withdrawn, Decision: Keep, DecidedBy: "policy", Becomes: m.origins[a].Item, Why: "it came with version " + m.origins[a].Version + " and is no longer in the kit"}
		m.list = append(m.list, row)
	}
	for _, row := range m.list {
		if err := m.decide(row); err != nil {
			return err
		}
	}
	return nil
}

func (m *maker) origin(h item.Head) (Origin, bool) {
	if o, ok := m.origins[h.Address]; ok {
		return o, true
	}
	for _, was := range h.Meta.Was {
		if o, ok := m.origins[was]; ok {
			return o, true
		}
	}
	return Origin{}, false
}

// row finds one item's standing.
func (m *maker) row(h item.Head) (*Row, error) {
	row := &Row{Address: h.Address, Becomes: h.Address, Kit: &Side{Address: h.Address, Sense: h.Sense, Title: h.Meta.Title, Bytes: h.Bytes}}
	origin, came := m.origin(h)
	var at item.Address
	switch {
	case came && origin.Item.IsZero():
		row.Standing, row.Why = Removed, "it came with version "+origin.Version+" and was deleted here since"
		row.About = about(h, item.Head{})
		return row, nil
	case came:
		at = origin.Item
	default:
		at = h.Address
		if to, ok := m.moved[h.Address]; ok {
			at = to
		}
		if h.Address.Kind == item.Page {
			if p, ok := m.site.PageAt(h.Meta.Slug); ok {
				at = p
			}
		}
	}
	site, ok := m.site.Find(at)
	if !ok {
		row.Standing, row.Why = New, "there is nothing of this name on the site"
		m.rely(h.Address)
		row.About = about(h, item.Head{})
		return row, nil
	}
	m.rely(at)
	row.Site = &Side{Address: at, Sense: site.Sense, State: site.State(), Title: site.Meta.Title, Bytes: site.Bytes}
	row.Becomes = at
	row.About = about(h, site)
	ours, err := m.transformed(h, m.moved)
	if err != nil {
		return nil, err
	}
	sense := h.Sense
	if ours != nil {
		sense = facts.Of(h.Address.Kind, h.Meta.Context, ours).Sense
	}
	switch {
	case site.Sense == sense:
		row.Standing, row.Why = Same, "both sides mean the same"
		if at != h.Address && h.Address.Kind == item.Media {
			row.Why = "the site has this very file as " + at.String()
		}
	case !came:
		row.Standing, row.Why = Taken, fmt.Sprintf("the site has another %s of this name", h.Address.Kind)
		if at != h.Address {
			row.Why = fmt.Sprintf("the site's %s is at the same address %s", at, site.Meta.Slug)
		}
	case compareVersions(m.parcel.List.Version, origin.Version) < 0:
		row.Standing, row.Why = Older, "the site has it from version "+origin.Version
	case site.Sense == origin.Sense:
		row.Standing, row.Why = Newer, "unchanged here since version "+origin.Version
	case sense == origin.Sense:
		row.Standing, row.Why = Edited, "changed here since version "+origin.Version+"; the kit's is as it was"
	default:
		row.Standing, row.Why = Diverged, "changed here and in the kit since version "+origin.Version
	}
	return row, nil
}

// about is the digest of what a decision decides about.
func about(kitSide, siteSide item.Head) item.Digest {
	text := string(kitSide.State()) + " "
	if !siteSide.Address.IsZero() {
		text += string(siteSide.State())
	}
	return item.DigestOf([]byte(text))
}

// decide takes the person's decision, or the policy's default.
func (m *maker) decide(row *Row) error {
	info := row.Standing.Info()
	for _, d := range info.Choices {
		row.Choices = append(row.Choices, Choice{d, m.leads(row, d)})
	}
	key := row.Address.String()
	if d, ok := m.decided(key, row.About); ok {
		fits := false
		for _, c := range info.Choices {
			fits = fits || c == d.Decision
		}
		if !fits {
			return &DecisionError{key, fmt.Sprintf("its standing is %q, which leaves %v", row.Standing, info.Choices), row.Choices}
		}
		if d.Decision == Map {
			h, ok := m.site.Find(d.To)
			if !ok || d.To.Kind != row.Address.Kind {
				return &DecisionError{key, fmt.Sprintf("map needs another %s of the site, as in map:%s/NAME", row.Address.Kind, row.Address.Kind), row.Choices}
			}
			row.Becomes = h.Address
			m.rely(h.Address)
		}
		row.Decision, row.DecidedBy = d.Decision, "you"
	} else if !info.Question {
		row.Decision, row.DecidedBy = info.Choices[0], "policy"
	} else if m.ask.Policy == "unattended" {
		row.Decision, row.DecidedBy = Keep, "policy"
	} else {
		m.question(key, "item", fmt.Sprintf("%s: %s.", key, row.Why), row.Choices)
	}
	switch row.Decision {
	case Both:
		row.Becomes = m.freeName(row.Address)
		m.premises[row.Becomes] = ""
	case Take:
		if row.Site == nil {
			row.Becomes = row.Address
		}
	case Skip:
		if row.Site == nil {
			row.Becomes = item.Address{}
		}
	}
	if !row.Becomes.IsZero() {
		m.moved[row.Address] = row.Becomes
	}
	return nil
}

func (m *maker) leads(row *Row, d Decision) string {
	switch d {
	case Both:
		return fmt.Sprintf("the kit's comes in as %s, and all of the kit follows; the site's stays as it is", m.freeName(row.Address))
	case Keep:
		if row.Standing == Taken {
			return fmt.Sprintf("the kit's pieces use the site's %s; the kit's stays out", row.Becomes)
		}
		return "the site's stays as it is"
	case Take:
		if row.Site == nil {
			return fmt.Sprintf("it comes in as %s", row.Address)
		}
		return fmt.Sprintf("the kit's replaces the site's %s everywhere it is used; undo brings it back", row.Becomes)
	case Map:
		return fmt.Sprintf("you name another %s of the site, and the kit's pieces use it", row.Address.Kind)
	}
	return "it does not come in; what refers to it keeps its name"
}

// freeName proposes a name that neither side uses.
func (m *maker) freeName(a item.Address) item.Address {
	ext := ""
	if a.Kind == item.Media {
		ext = path.Ext(a.Key)
	}
	stem := strings.TrimSuffix(a.Key, ext)
	for n := 2; ; n++ {
		b := item.Address{Kind: a.Kind, Key: fmt.Sprintf("%s-%d%s", stem, n, ext)}
		_, onSite := m.site.Find(b)
		_, inKit := m.parcel.Find(b)
		if !onSite && !inKit {
			return b
		}
	}
}

// transformed gives a kit item's content under the transform T; nil for content
// that is taken as it is.
func (m *maker) transformed(h item.Head, moved map[item.Address]item.Address) ([]byte, error) {
	if h.Address.Kind == item.Media && !strings.HasSuffix(h.Address.Key, ".svg") || h.Address.Kind == item.Component {
		return nil, nil
	}
	b, err := item.Read(m.parcel.Collection, h)
	if err != nil {
		return nil, err
	}
	renames := facts.RenamesFor(moved, nil)
	for from, to := range m.classes {
		renames[facts.Name{Space: facts.Class, Name: from}] = to
	}
	out, err := facts.Rewrite(h.Address.Kind, h.Meta.Context, b, relevant(renames))
	if err != nil {
		return nil, fmt.Errorf("moving names in %s: %w", h.Address, err)
	}
	if h.Address.Kind.IsMarkup() && len(m.ask.Fills) > 0 {
		tree := markup.Parse(out, h.Meta.Context)
		edits, err := markup.FillEdits(tree, "data-fill", func(name string) (string, bool) { v, ok := m.ask.Fills[name]; return v, ok && v != "" })
		if err != nil {
			return nil, fmt.Errorf("filling in %s: %w", h.Address, err)
		}
		return span.Apply(out, edits)
	}
	return out, nil
}

// relevant leaves out renames that change nothing.
func relevant(r facts.Renames) facts.Renames {
	out := facts.Renames{}
	for n, to := range r {
		if n.Name != to {
			out[n] = to
		}
	}
	return out
}

// comesIn tells whether the delivery writes the row's item.
func comesIn(row *Row) bool { return row.Decision == Take || row.Decision == Both }

// write makes the items as they will be written.
func (m *maker) write() error {
	for _, row := range m.list {
		h, ok := m.parcel.Find(row.Address)
		if !ok {
			continue
		}
		content, err := m.transformed(h, m.moved)
		if err != nil {
			return err
		}
		out := h
		out.Address, out.ID = row.Becomes, ""
		out.Meta = h.Meta.Renamed(m.moved)
		out.Meta.Was = nil
		if content != nil {
			out.Doc, out.Bytes = item.DigestOf(content), int64(len(content))
			out.Sense = facts.Of(h.Address.Kind, h.Meta.Context, content).Sense
		}
		put := Put{KitAddress: row.Address, Head: out, Content: content}
		switch {
		case comesIn(row):
			m.puts = append(m.puts, put)
			m.plan.BytesIn += out.Bytes
		case row.Decision == Keep && row.Site != nil:
			m.kept = append(m.kept, put)
		}
	}
	return nil
}

// fills lists the fill-ins that what comes in uses.
func (m *maker) fills() error {
	used := map[string]bool{}
	for _, row := range m.list {
		h, ok := m.parcel.Find(row.Address)
		if !ok || !comesIn(row) && row.Decision != "" {
			continue
		}
		f, err := m.facts(h)
		if err != nil {
			return err
		}
		for _, p := range f.Fills {
			used[p.Name] = true
		}
	}
	declared := map[string]bool{}
	for _, f := range m.parcel.List.Fillins {
		declared[f.Name] = true
		v, given := m.ask.Fills[f.Name]
		given = given && v != ""
		if !used[f.Name] && !given {
			continue
		}
		if given {
			if why := checkFill(f, v); why != "" {
				return &DecisionError{About: "fill:" + f.Name, Says: why}
			}
		}
		m.plan.Fills = append(m.plan.Fills, FillRow{f, v, given})
		if !given && f.Required {
			m.question("fill:"+f.Name, "fill", fmt.Sprintf("%s is to be filled in (%s; the kit's sample is %q).", f.Label, f.Type, f.Sample), []Choice{})
		}
	}
	for name := range m.ask.Fills {
		if !declared[name] {
			var names []string
			for n := range declared {
				names = append(names, n)
			}
			sort.Strings(names)
			return &DecisionError{About: "fill:" + name, Says: fmt.Sprintf("the kit has no fill-in of this name (it has: %s)", strings.Join(names, ", "))}
		}
	}
	return nil
}

// checkFill gives the reason for which a value does not fit its type, or "".
func checkFill(f kit.Fillin, v string) string {
	switch f.Type {
	case "url":
		low := strings.ToLower(strings.TrimSpace(v))
		if !strings.HasPrefix(low, "/") && !strings.HasPrefix(low, "#") && !strings.HasPrefix(low, "https:") && !strings.HasPrefix(low, "http:") && !strings.HasPrefix(low, "mailto:") && !strings.HasPrefix(low, "tel:") {
			return fmt.Sprintf("%q is no address: begin with /, #, https:, mailto: or tel:", v)
		}
	case "email":
		if at := strings.IndexByte(v, '@'); at < 1 || at == len(v)-1 || strings.ContainsAny(v, " <>") {
			return fmt.Sprintf("%q is no mail address", v)
		}
	case "image", "video":
		if strings.HasPrefix(strings.ToLower(strings.TrimSpace(v)), "javascript:") {
			return fmt.Sprintf("%q is no picture", v)
		}
	case "choice":
		for _, c := range f.Choices {
			if c == v {
				return ""
			}
		}
		return fmt.Sprintf("%q is none of %s", v, strings.Join(f.Choices, ", "))
	}
	return ""
}
