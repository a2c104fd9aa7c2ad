package plan

import (
	"fmt"

	"compactparcel/core/closure"
	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// given is what every stage is given: the inputs and the kit's history on the site, which
// never change, and the account that all stages keep.
type given struct {
	*inputs
	*history
	*account
}

// inputs are what a plan is made of.
type inputs struct {
	site   Site
	parcel Parcel
	ask    Request
	kit    closure.World
	home   item.Address // the page that the site's setting home names, if it is there
}

// pageAt gives the page that visitors of the site find at an address: at /, the one that the setting home names,
// whatever its own address is.
func (in *inputs) pageAt(slug string) (item.Address, bool) {
	if slug == "/" && !in.home.IsZero() {
		return in.home, true
	}
	return in.site.PageAt(slug)
}

// account is what the stages write down as they go: what is asked, told and relied on, and what
// became of each decision.
type account struct {
	questions     []Question
	notes         []string
	used          map[string]bool        // decisions that found their question
	subjects      map[string]item.Digest // what they decided
	settled       map[string]Decided     // for the deliveries to come
	preconditions map[item.Address]item.Digest
}

func newAccount() *account {
	return &account{
		used:          map[string]bool{},
		subjects:      map[string]item.Digest{},
		settled:       map[string]Decided{},
		preconditions: map[item.Address]item.Digest{},
	}
}

func (a *account) question(key string, kind QuestionKind, message string, choices []Choice) {
	a.questions = append(a.questions, Question{key, kind, message, choices})
}

func (a *account) note(format string, args ...any) {
	a.notes = append(a.notes, fmt.Sprintf(format, args...))
}

// addPrecondition notes what the plan takes for given.
func (g given) addPrecondition(a item.Address) {
	h, ok := g.site.Find(a)
	if !ok {
		g.preconditions[a] = ""
		return
	}
	g.preconditions[a] = h.State()
}

// decided gives what a person decided about a key, if it still means the same.
func (g given) decided(key string, about item.Digest) (Decided, bool) {
	d, ok := g.ask.Decisions[key]
	if !ok {
		d, ok = g.prior.Decisions[key]
		return d, ok && carries(key) && !d.isAbout(about, key)
	}
	g.used[key] = true
	if about != "" {
		g.subjects[key] = about
	}
	if d.SubjectDigest != "" && about != "" && d.SubjectDigest != about {
		g.note("the decision about %s is asked again: what it decided has changed since", key)
		return Decided{}, false
	}
	return d, true
}

func (in *inputs) facts(h item.Head) (*facts.Facts, error) { return in.kit.Facts(h) }

// rowList is the rows of a plan, in the order of the kit. Their standings and decisions are
// filled in by the stages that find them.
type rowList struct {
	list []*Row
	rows map[item.Address]*Row // by the kit's address
}

func (l *rowList) add(row *Row) {
	l.list = append(l.list, row)
	l.rows[row.Address] = row
}
