package plan

import (
	"compactparcel/core/closure"
	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// maker is a plan while it is made, by what the stages read and write: the inputs never
// change; each stage adds to what those before it found.
type maker struct {
	inputs
	history
	surrounding
	matching
	naming
	deciding
	outcome
	reading
	plan Plan
}

// inputs are what a plan is made of.
type inputs struct {
	site   Site
	parcel Parcel
	ask    Request
	kit    closure.World
}

// history is what the kit delivered before, and what was said then (loadHistory).
type history struct {
	origins map[item.Address]Origin // by the kit's address
	prior   PriorDelivery
	values  map[string]string // of fill-ins: given now, or before
}

// surrounding is what new pages leave out (readSurrounds).
type surrounding struct {
	surrounds []SurroundRow
	leaving   map[item.Address]map[item.Role]bool // by page of the kit
	uncovered map[item.Address]bool               // pages that lose landmarks of their own
}

// matching is which items of both sides belong together (match, selectItems, needs).
type matching struct {
	rows        map[item.Address]*Row
	list        []*Row
	found       map[item.Address]item.Address // pictures of the kit that the site has under other names
	claimed     map[item.Address]item.Address // by the site's item: of which of the kit's it is the counterpart
	counterpart map[item.Address]item.Address // and the other way round
	chosen      map[item.Address]string       // when only some were asked for: those that come, and why
	without     map[item.Address]string       // items that are left out, and the need for which
}

// naming is T: what becomes of the kit's names here (match, clashes, fields, tokens).
type naming struct {
	moved      map[item.Address]item.Address // kit address → site address, where it differs or is kept
	slugs      map[string]string             // a kit's page's slug → that on the site, where it differs
	names      facts.Renames                 // of classes, custom properties, animations and fonts
	worn       map[facts.Name]bool           // names for which the site's rules hold and the kit's stay out
	fieldNames map[item.Address]map[string]string
	marked     bool          // the kit's elements and rules get a class of their own
	renames    facts.Renames // of all of T; nil until they are asked for
	under      *transform    // T, as the standings were found under it
	compared   bool          // something was compared under it
}

// deciding is what was made of decisions, by their keys.
type deciding struct {
	used     map[string]bool        // those that found their question
	subjects map[string]item.Digest // what they decided
	settled  map[string]Decided     // what T does about single names, for the deliveries to come
}

// outcome is what the delivery will do (write, blends, takeTokens, seats, proposals).
type outcome struct {
	writes        []PlannedWrite
	kept          []PlannedWrite
	deletions     []item.Head
	blending      []*blended
	taking        map[item.Address]map[string]string // the site's tokens that take the kit's value
	preconditions map[item.Address]item.Digest
}

// reading is what was read and is asked for again.
type reading struct {
	users map[item.Address][]item.Address
}

func newMaker(site Site, parcel Parcel, ask Request) *maker {
	return &maker{
		inputs:  inputs{site: site, parcel: parcel, ask: ask, kit: worldOf(parcel.Collection)},
		history: history{origins: map[item.Address]Origin{}},
		matching: matching{
			rows:        map[item.Address]*Row{},
			found:       map[item.Address]item.Address{},
			claimed:     map[item.Address]item.Address{},
			counterpart: map[item.Address]item.Address{},
			without:     map[item.Address]string{},
		},
		naming: naming{
			moved:      map[item.Address]item.Address{},
			slugs:      map[string]string{},
			names:      facts.Renames{},
			worn:       map[facts.Name]bool{},
			fieldNames: map[item.Address]map[string]string{},
		},
		deciding: deciding{
			used:     map[string]bool{},
			subjects: map[string]item.Digest{},
			settled:  map[string]Decided{},
		},
		outcome: outcome{preconditions: map[item.Address]item.Digest{}},
		reading: reading{users: map[item.Address][]item.Address{}},
	}
}
