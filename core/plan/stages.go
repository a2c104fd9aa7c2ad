package plan

import (
	"fmt"
	"reflect"
	"slices"
	"sort"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/render"
)

// makeOf plans a delivery with what was said.
//
// What an item of the kit is on the site depends on T, and T on what is decided about all
// items: so what was compared under another T than comes out is compared again.
//
// Each stage is a function of what those before it gave.
func makeOf(site Site, parcel Parcel, ask Request) (*Result, error) {
	if ask.Policy == "" {
		ask.Policy = Careful
	}
	if !slices.Contains(PolicyNames(), string(ask.Policy)) {
		return nil, &DecisionError{
			Key: "policy",
			Message: fmt.Sprintf("there is no policy %q (policies: %s)", ask.Policy,
				strings.Join(PolicyNames(), ", ")),
		}
	}
	var told []string
	parcel.Collection, told = withoutSiteOnly(parcel.Collection)
	home, _, err := render.HomeOf(site)
	if err != nil {
		return nil, err
	}
	in := &inputs{site: site, parcel: parcel, ask: ask, kit: worldOf(parcel.Collection), home: home.Address}
	history, err := readHistory(in)
	if err != nil {
		return nil, err
	}
	history.notes = append(told, history.notes...)
	under := newTransform()
	for n := 0; ; n++ {
		g := given{in, history, newAccount()}
		decided, err := decideItems(g, history.said(under))
		if err != nil {
			return nil, err
		}
		named, err := nameAll(g, decided)
		if err != nil {
			return nil, err
		}
		if n == maxPasses || !decided.compared || named.t.same(decided.under) {
			return finish(g, decided, named)
		}
		under = named.t
	}
}

// maxPasses bounds how often items are compared again under the T that it led to.
const maxPasses = 3

// finish writes what was decided under a T, and tells what that leads to.
func finish(g given, decided decidedItems, named naming) (*Result, error) {
	out, err := writeAll(g, decided, named)
	if err != nil {
		return nil, err
	}
	plan := gather(g, decided, named, out)
	if err := followUp(g, decided, named, out, &plan); err != nil {
		return nil, err
	}
	if plan.LeftOut, err = unusedDecisions(g, plan.Rows); err != nil {
		return nil, err
	}
	result := resultOf(g, plan)
	result.Writes, result.Kept, result.Deletions, result.Moved = out.writes, out.kept, decided.deletions, named.t.moved
	return result, nil
}

// decidedItems is what belongs together, and what was decided about it.
type decidedItems struct {
	surrounding
	matching
	selection
	needing
	t         *transform // with the names of items
	deletions []item.Head
}

func decideItems(g given, under *transform) (out decidedItems, err error) {
	if out.surrounding, err = readSurrounds(g); err != nil {
		return out, err
	}
	if out.matching, err = match(g, out.surrounding, under); err != nil {
		return out, err
	}
	if err = pagesAsked(g.inputs, out.rowList); err != nil {
		return out, err
	}
	if out.selection, err = selectItems(g.inputs, out.rowList); err != nil {
		return out, err
	}
	if out.needing, err = needs(g); err != nil {
		return out, err
	}
	if out.t, out.deletions, err = decide(g, out.rowList, out.selection, out.needing, out.under); err != nil {
		return out, err
	}
	out.t, err = settleSlugs(g.inputs, out.rowList, out.t)
	return out, err
}

// naming is what becomes of the kit's names, fill-ins, fields and tokens: T, and what is told of
// it.
type naming struct {
	t       *transform // whole
	groups  []NameGroup
	clashes []Clash
	fills   []FillRow
	fields  []FieldRow
	tokens  []TokenRow
	taking  tokenValues
}

func nameAll(g given, of decidedItems) (out naming, err error) {
	if out.groups, out.clashes, out.t, err = nameClashes(g, of); err != nil {
		return out, err
	}
	if out.fills, err = listFills(g, of.rowList); err != nil {
		return out, err
	}
	if out.fields, out.t, err = mapFields(g, of.rowList, out.t); err != nil {
		return out, err
	}
	out.tokens, out.t, out.taking, err = compareTokens(g, of.rowList, out.t)
	return out, err
}

// output is what the delivery writes.
type output struct {
	written
	bytesIn  int64 // of the kit's
	seats    []Seat
	settings []SettingRow
}

func writeAll(g given, of decidedItems, named naming) (out output, err error) {
	plain, blending, err := write(g, of.rowList, of.selection, newRewriter(g, of.surrounding, named.t))
	if err != nil {
		return out, err
	}
	blends, err := blendAll(g, blending)
	if err != nil {
		return out, err
	}
	out.writes = slices.Concat(of.brought, plain.writes, blends.writes)
	out.kept = slices.Concat(plain.kept, blends.kept)
	out.bytesIn = bytesOf(out.writes)
	if out.writes, err = enterPages(g, out.writes); err != nil {
		return out, err
	}
	values, err := takeTokens(g, named.taking)
	if err != nil {
		return out, err
	}
	if out.seats, out.writes, err = settleSeats(g, append(out.writes, values...)); err != nil {
		return out, err
	}
	settings, proposed, err := propose(g, of.rowList, named.t)
	out.settings, out.writes = settings, append(out.writes, proposed...)
	return out, err
}

// followUp puts into the plan what the writes lead to.
func followUp(g given, of decidedItems, named naming, out output, plan *Plan) (err error) {
	if plan.Contrasts, plan.Literals, err = contrasts(g, of.rowList, named.tokens, out.writes); err != nil {
		return err
	}
	if plan.StyleOrder, err = order(g, of.rowList, named.t, out.writes); err != nil {
		return err
	}
	if plan.StyleOverrides, err = pieceOverrides(g, of.rowList, out.writes); err != nil {
		return err
	}
	pages, err := pageOverrides(g, out, of.deletions, plan.StyleOrder)
	if err != nil {
		return err
	}
	plan.StyleOverrides = append(plan.StyleOverrides, pages...)
	if plan.Touched, err = findTouchedPages(g.site, out.writes); err != nil {
		return err
	}
	if plan.Links, plan.Scripts, err = findLinks(g.inputs, of.rowList, named.t, out.writes, of.deletions); err != nil {
		return err
	}
	if plan.Hosts, err = findHosts(g.inputs, out.writes); err != nil {
		return err
	}
	tellLeftScripts(g, of.rowList)
	plan.Rows, plan.Notes = of.sorted(), slices.Concat(g.history.notes, g.account.notes)
	plan.neverNull()
	return nil
}

// gather is the plan as far as the stages before the last gave it.
func gather(g given, of decidedItems, named naming, out output) Plan {
	return Plan{
		Kit:       g.parcel.List.Kit,
		Version:   g.parcel.List.Version,
		KitDigest: g.parcel.Digest,
		Policy:    g.ask.Policy,
		Terms:     g.parcel.List.Terms,
		VersionIs: g.versionIs,
		Questions: g.questions,
		Groups:    named.groups,
		Clashes:   named.clashes,
		Fills:     named.fills,
		Fields:    named.fields,
		Tokens:    named.tokens,
		Seats:     out.seats,
		Settings:  out.settings,
		BytesIn:   out.bytesIn,
		Needs:     of.needs,
		Surrounds: toldSurrounds(g.inputs, of.surrounding, of.rowList),
	}
}

// neverNull makes lists of a plan empty that would be null in JSON.
func (p *Plan) neverNull() {
	v := reflect.ValueOf(p).Elem()
	for i := range v.NumField() {
		if f := v.Field(i); f.Kind() == reflect.Slice && f.IsNil() {
			f.Set(reflect.MakeSlice(f.Type(), 0, 0))
		}
	}
}

func bytesOf(writes []PlannedWrite) (n int64) {
	for _, p := range writes {
		n += p.Head.Bytes
	}
	return n
}

// resultOf is the result of a plan, without what is written.
func resultOf(g given, plan Plan) *Result {
	out := &Result{Plan: plan, Decisions: map[string]Decided{}, Subjects: g.subjects, Fills: g.values}
	for key, d := range g.prior.Decisions {
		if carries(key) || d.Decision == Map || d.Decision == Keep {
			out.Decisions[key] = d
		}
	}
	for key, d := range g.settled {
		out.Decisions[key] = d
	}
	for key, d := range g.ask.Decisions {
		out.Decisions[key] = d
	}
	for a, s := range g.preconditions {
		out.Preconditions = append(out.Preconditions, Precondition{a, s})
	}
	sort.Slice(out.Preconditions, func(i, j int) bool {
		return out.Preconditions[i].Address.Less(out.Preconditions[j].Address)
	})
	return out
}
