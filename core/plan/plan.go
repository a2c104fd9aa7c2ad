// Package plan says what a delivery would do to a site, item by item, without
// doing it.
//
// Make is pure: the same site, kit and answers give the same plan, byte for byte.
// It knows the world through look-ups over facts, so that its cost follows the
// kit. Both sides are compared under the transform T of the delivery (names moved,
// blanks filled in), so that filling a name in is never an edit.
package plan

import (
	"fmt"
	"io"
	"sort"

	"compactparcel/core/closure"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/render"
)

// Site is all that planning knows of the receiving site.
type Site interface {
	closure.World
	Open(item.Head) (io.ReadCloser, error)
	// UsedBy gives the items whose source names an address, whether or not it is there.
	UsedBy(item.Address) ([]item.Address, error)
	Pages() []item.Head
	// Made lists what no page item stands for: records' pages, the answer to unknown
	// addresses and the like.
	Made() []render.Made
	Parts() []item.Head
	Sheets() []item.Head // stylesheets and tokens
	StyleOrder() []item.Address
	// Came gives the origins of what this kit delivered before.
	Came(kit string) ([]Origin, error)
	// MediaWith finds a media item by its exact digest.
	MediaWith(item.Digest) (item.Address, bool)
}

// Origin is what is remembered of an item that a kit delivered.
type Origin struct {
	KitAddress item.Address
	Version    string
	// Item is where it is now; zero when the site deleted it.
	Item item.Address
	// Sense is the sense digest as it was delivered, T included.
	Sense item.Digest
	Copy  int
}

// Parcel is the kit to deliver.
type Parcel struct {
	List   *kit.PackingList
	Digest item.Digest
	item.Collection
}

// Decided is a person's decision and what it was about: a digest of both sides.
type Decided struct {
	Decision Decision     `json:"decision"`
	To       item.Address `json:"to,omitzero"` // of map
	About    item.Digest  `json:"about,omitempty"`
}

// Ask is what a person has said so far.
type Ask struct {
	Policy    string             `json:"policy"`
	Decisions map[string]Decided `json:"decisions"`
	Fills     map[string]string  `json:"fills"`
	// PartsMayGiveWay permits that the site's default parts lose their seats.
	PartsMayGiveWay bool `json:"partsMayGiveWay"`
}

// Policies lists the policies that Make knows.
var Policies = []string{"careful", "unattended"}

// Side is one side of an item.
type Side struct {
	Address item.Address `json:"address"`
	Sense   item.Digest  `json:"sense"`
	State   item.Digest  `json:"state,omitempty"`
	Title   string       `json:"title,omitempty"`
	Bytes   int64        `json:"bytes"`
}

// Choice is a decision that is open, and what it leads to.
type Choice struct {
	Decision Decision `json:"decision"`
	Leads    string   `json:"leads"`
}

// Row is one item of the plan.
type Row struct {
	Address   item.Address `json:"address"` // in the kit
	Standing  Standing     `json:"standing"`
	Decision  Decision     `json:"decision,omitempty"` // empty: a question
	DecidedBy string       `json:"decidedBy,omitempty"`
	// Becomes is the address on the site after the delivery.
	Becomes item.Address `json:"becomes,omitzero"`
	Kit     *Side        `json:"kit,omitempty"`
	Site    *Side        `json:"site,omitempty"`
	Why     string       `json:"why"`
	Choices []Choice     `json:"choices"`
	About   item.Digest  `json:"about"`
	// Order tells that a stylesheet is new and where it goes.
	Order string `json:"order,omitempty"`
}

// Question is what the plan cannot decide by itself.
type Question struct {
	About   string   `json:"about"` // the key for a decision: an address, "fill:NAME", "class:NAME", "seat:ROLE:TARGET", "need:…"
	Kind    string   `json:"kind"`  // item, fill, class, seat, need
	Says    string   `json:"says"`
	Choices []Choice `json:"choices"`
}

// Touch is a page that the delivery reaches, and the ways. What no page item stands
// for has only its slug.
type Touch struct {
	Page item.Address `json:"page"`
	Slug string       `json:"slug"`
	Ways []string     `json:"ways"`
}

// Clash is a class that both sides define in different ways.
type Clash struct {
	Class    string `json:"class"`
	Kit      string `json:"kit"`  // the kit's rules
	Site     string `json:"site"` // the site's
	Decision string `json:"decision,omitempty"`
	Becomes  string `json:"becomes,omitempty"`
}

// Seat is a target with a role that two parts want.
type Seat struct {
	Role     item.Role    `json:"role"`
	Target   string       `json:"target"`
	Site     item.Address `json:"site"`
	Kit      item.Address `json:"kit"`
	Decision string       `json:"decision,omitempty"` // "site" or "kit"
}

// NeedRow is a need and how the site meets it.
type NeedRow struct {
	What     string `json:"what"`
	State    string `json:"state"` // met, inside, missing, too old, too new
	Optional bool   `json:"optional"`
	Says     string `json:"says"`
}

// FillRow is a fill-in and its value so far.
type FillRow struct {
	kit.Fillin
	Value string `json:"value,omitempty"`
	Given bool   `json:"given"`
}

// TokenRow is a token that both sides have with different values.
type TokenRow struct {
	Property string  `json:"property"`
	Site     string  `json:"site"`
	Kit      string  `json:"kit"`
	Distance float64 `json:"distance"` // OKLab; 0 when they are no colours
}

// LinkRow is a link that will lead nowhere.
type LinkRow struct {
	From item.Address `json:"from"`
	Slug string       `json:"slug"`
	Line int          `json:"line"`
}

// Plan is all that a delivery would do.
type Plan struct {
	Kit        string         `json:"kit"`
	Version    string         `json:"version"`
	KitDigest  item.Digest    `json:"kitDigest"`
	Policy     string         `json:"policy"`
	Terms      kit.Terms      `json:"terms"`
	VersionIs  string         `json:"versionIs"` // first, newer, same, older
	Rows       []Row          `json:"rows"`
	Questions  []Question     `json:"questions"`
	Touched    []Touch        `json:"touched"`
	Clashes    []Clash        `json:"clashes"`
	Seats      []Seat         `json:"seats"`
	Needs      []NeedRow      `json:"needs"`
	Fills      []FillRow      `json:"fills"`
	Tokens     []TokenRow     `json:"tokens"`
	Links      []LinkRow      `json:"links"`
	Settings   []SettingRow   `json:"settings"`
	Scripts    []string       `json:"scripts"`
	Notes      []string       `json:"notes"`
	StyleOrder []item.Address `json:"styleOrder"`
	BytesIn    int64          `json:"bytesIn"`
}

// Digest is the plan's identity: what a person looked at when they said yes.
func (p *Plan) Digest() item.Digest {
	b, err := kit.CanonicalJSON(p)
	if err != nil {
		panic(err) // a plan holds only plain values
	}
	return item.DigestOf(b)
}

// Put is one item as the delivery will write it.
type Put struct {
	KitAddress item.Address
	Head       item.Head
	// Content is nil for media, whose bytes are the kit's own.
	Content []byte
	Copy    int
}

// Rename is one name of the kit and what it became.
type Rename struct {
	From item.Address `json:"from"`
	To   item.Address `json:"to"`
}

// Premise is what the plan relied on: an item in a state, or its absence.
type Premise struct {
	Address item.Address `json:"address"`
	State   item.Digest  `json:"state"` // empty: not there
}

// Result is a plan and what staging would write.
type Result struct {
	Plan     Plan
	Puts     []Put
	Moved    map[item.Address]item.Address // kit address → site address
	Premises []Premise
	Kept     []Put // same or kept: only their origin is recorded
}

// DecisionError is a decision that does not fit.
type DecisionError struct {
	About   string
	Says    string
	Choices []Choice
}

func (e *DecisionError) Error() string {
	return fmt.Sprintf("the decision about %s does not fit: %s", e.About, e.Says)
}

// Make plans a delivery.
func Make(site Site, parcel Parcel, ask Ask) (*Result, error) {
	m := &maker{site: site, parcel: parcel, ask: ask, kit: closure.NewSmall(parcel.Collection), moved: map[item.Address]item.Address{},
		slugs: map[string]string{}, classes: map[string]string{}, used: map[string]bool{}, origins: map[item.Address]Origin{}, rows: map[item.Address]*Row{}, premises: map[item.Address]item.Digest{}}
	if ask.Policy == "" {
		m.ask.Policy = "careful"
	}
	known := false
	for _, p := range Policies {
		known = known || p == m.ask.Policy
	}
	if !known {
		return nil, &DecisionError{About: "policy", Says: fmt.Sprintf("there is no policy %q (policies: %v)", m.ask.Policy, Policies)}
	}
	m.plan = Plan{Kit: parcel.List.Kit, Version: parcel.List.Version, KitDigest: parcel.Digest, Policy: m.ask.Policy, Terms: parcel.List.Terms,
		Rows: []Row{}, Questions: []Question{}, Touched: []Touch{}, Clashes: []Clash{}, Seats: []Seat{}, Needs: []NeedRow{}, Fills: []FillRow{},
		Tokens: []TokenRow{}, Links: []LinkRow{}, Settings: []SettingRow{}, Scripts: []string{}, Notes: []string{}, StyleOrder: []item.Address{}}
	for _, step := range []func() error{m.remember, m.match, m.clashes, m.fills, m.write, m.seats, m.proposals, m.needs, m.tokens, m.order, m.touch, m.links, m.say, m.stray} {
		if err := step(); err != nil {
			return nil, err
		}
	}
	out := &Result{Plan: m.plan, Puts: m.puts, Kept: m.kept, Moved: m.moved}
	for a, s := range m.premises {
		out.Premises = append(out.Premises, Premise{a, s})
	}
	sort.Slice(out.Premises, func(i, j int) bool { return out.Premises[i].Address.Less(out.Premises[j].Address) })
	return out, nil
}

type maker struct {
	site     Site
	parcel   Parcel
	ask      Ask
	plan     Plan
	kit      *closure.Small
	origins  map[item.Address]Origin
	rows     map[item.Address]*Row
	list     []*Row
	moved    map[item.Address]item.Address // kit address → site address, where it differs or is kept
	slugs    map[string]string             // a kit's page's slug → that on the site, where it differs
	classes  map[string]string             // class → new class
	used     map[string]bool               // decisions that found their question
	puts     []Put
	kept     []Put
	premises map[item.Address]item.Digest
}

// rely notes what the plan takes for given.
func (m *maker) rely(a item.Address) {
	h, ok := m.site.Find(a)
	if !ok {
		m.premises[a] = ""
		return
	}
	m.premises[a] = h.State()
}

func (m *maker) question(about, kind, says string, choices []Choice) {
	m.plan.Questions = append(m.plan.Questions, Question{about, kind, says, choices})
}

// decided gives what a person decided about a key, if it still means the same.
func (m *maker) decided(key string, about item.Digest) (Decided, bool) {
	d, ok := m.ask.Decisions[key]
	if !ok {
		return d, false
	}
	m.used[key] = true
	if d.About != "" && about != "" && d.About != about {
		m.plan.Notes = append(m.plan.Notes, fmt.Sprintf("what was decided about %s is asked again: it has changed since", key))
		return Decided{}, false
	}
	return d, true
}

func (m *maker) facts(h item.Head) (*facts.Facts, error) { return m.kit.Facts(h) }
