package edit

import (
	_ "embed"
	"fmt"
	"slices"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/core/says"

	"go.yaml.in/yaml/v3"
)

// Name says what an operation does. The set is closed: operations.yaml has a row for each.
type Name string

// The operations.
const (
	Text           Name = "text"
	Formatted      Name = "formatted"
	Link           Name = "link"
	LinkAdd        Name = "link-add"
	LinkEnd        Name = "link-end"
	Anchor         Name = "anchor"
	Alternative    Name = "alternative"
	Picture        Name = "picture"
	Classes        Name = "classes"
	Attribute      Name = "attribute"
	Insert         Name = "insert"
	Duplicate      Name = "duplicate"
	Remove         Name = "remove"
	MoveElement    Name = "move"
	Wrap           Name = "wrap"
	Tag            Name = "tag"
	MenuNew        Name = "menu-new"
	EntryAdd       Name = "entry-add"
	EntryChange    Name = "entry-change"
	EntryMove      Name = "entry-move"
	EntryRemove    Name = "entry-remove"
	Set            Name = "set"
	OwnCopy        Name = "own-copy"
	OwnValue       Name = "own-value"
	Share          Name = "share"
	Empty          Name = "empty"
	Show           Name = "show"
	Appearance     Name = "appearance"
	SameAppearance Name = "same-appearance"
	PageNew        Name = "page-new"
	PageTitle      Name = "page-title"
	PageAddress    Name = "page-address"
	PageWithout    Name = "page-without"
	PageVariant    Name = "page-variant"
	PageWidth      Name = "page-width"
	PageHidden     Name = "page-hidden"
	PageHome       Name = "page-home"
	PageRemove     Name = "page-remove"
	PageFold       Name = "page-fold"
	PageSplit      Name = "page-split"
	PartRole       Name = "part-role"
	PartWhere      Name = "part-where"
	PartOff        Name = "part-off"
	PartCopy       Name = "part-copy"
	PartTrigger    Name = "part-trigger"
	Field          Name = "field"
	RecordNew      Name = "record-new"
	Token          Name = "token"
	LookKeep       Name = "look-keep"
	LookWear       Name = "look-wear"
	LookDrop       Name = "look-drop"
	OwnLook        Name = "own-look"
	PartLook       Name = "part-look"
	FormNew        Name = "form-new"
	FormField      Name = "form-field"
	FormSet        Name = "form-set"
	FormMove       Name = "form-move"
	FormRemove     Name = "form-remove"
	RegionOpen     Name = "region-open"
	RegionClose    Name = "region-close"
	RegionFill     Name = "region-fill"
	MenuShown      Name = "menu-shown"
	Icon           Name = "icon"
	LinkCopy       Name = "link-copy"
	StylesMove     Name = "styles-move"
)

// Place says where something comes to stand beside an element. The set is closed.
type Place string

// The places.
const (
	Before Place = "before"
	After  Place = "after"
	Inside Place = "inside" // at its end
)

// Places lists all of them.
var Places = []Place{Before, After, Inside}

// Operation is one thing that is done to a site. Which members it needs, operations.yaml says.
type Operation struct {
	Op Name `json:"op"`
	// Page is the address of the page on which Element, a CSS selector, names one element as the page
	// is shown.
	Page    string `json:"page,omitempty"`
	Element string `json:"element,omitempty"`
	// Beside is another element of the page, and Place where by it.
	Beside string `json:"beside,omitempty"`
	Place  Place  `json:"place,omitempty"`
	// Value is the new text, address, list of classes, tag, or markup.
	Value string `json:"value,omitempty"`
	// Item is the menu or setting, Entry the entry of a menu by its place: 2, or 2.1 below it.
	Item  item.Address `json:"item,omitzero"`
	Entry string       `json:"entry,omitempty"`
	Label string       `json:"label,omitempty"`
	// Run names the words before, between and behind the elements that an element holds, from 1; From and
	// To are places in them, in characters, the second after the last.
	Run  int  `json:"run,omitempty"`
	From int  `json:"from,omitempty"`
	To   *int `json:"to,omitempty"`
	// Property is what of an appearance, which field of a record, which role of a variant, or which
	// blank of a section.
	Property string `json:"property,omitempty"`
	// State and Width say when an appearance holds: always, where they are empty.
	State State `json:"state,omitempty"`
	Width int   `json:"width,omitempty"` // in px: up to it
}

//go:embed operations.yaml
var table []byte

// Row is the declaration of one operation.
type Row struct {
	Op       Name     `yaml:"op"`
	Does     string   `yaml:"does"`
	Inputs   []string `yaml:"inputs"`
	Refusals []string `yaml:"refusals"`
	Touches  string   `yaml:"touches"`
	Command  string   `yaml:"command"`
	Law      string   `yaml:"law"`
}

// Rows lists the operations as operations.yaml declares them.
var Rows = rows()

func rows() (out []Row) {
	if err := yaml.Unmarshal(table, &out); err != nil {
		panic(err) // it is part of the program
	}
	return out
}

// Missing lists the members that an operation needs and does not have.
func (r Row) Missing(op Operation) (out []string) {
	for _, needed := range r.Inputs {
		if op.member(needed) == "" {
			out = append(out, needed)
		}
	}
	return out
}

// Names lists the operations.
func Names() []Name {
	out := make([]Name, len(Rows))
	for i, r := range Rows {
		out[i] = r.Op
	}
	return out
}

// RefusedError tells why an operation of a list cannot be done. Nothing of the list is.
type RefusedError struct {
	N   int // from 1
	Op  Name
	Why says.Message
}

func (e *RefusedError) Error() string { return fmt.Sprintf("operation %d, %s: %s", e.N, e.Op, e.Why) }

// Applied is what a list of operations comes to.
type Applied struct {
	Changes []Change
	// Says tells of each operation, in order, what it does.
	Says []string
}

// editor works a list of operations off, each on what the ones before it left.
type editor struct {
	below Site
	over  *item.Over
	order []item.Address // of what changed
}

// Apply does a list of operations, all or nothing. Its error is a *RefusedError where one cannot be
// done.
func Apply(s Site, list []Operation) (*Applied, error) {
	e := &editor{below: s, over: item.NewOver(s)}
	out := &Applied{}
	for i, op := range list {
		says, err := e.do(op)
		if why, refused := err.(refusal); refused { //nolint:errorlint // it is made here and never wrapped
			return nil, &RefusedError{i + 1, op.Op, why.Message}
		}
		if err != nil {
			return nil, err
		}
		out.Says = append(out.Says, says)
	}
	for _, a := range e.order {
		h, stays := e.over.Find(a)
		was, there := s.Find(a)
		if !stays {
			if there {
				out.Changes = append(out.Changes, Change{Head: was, Gone: true})
			}
			continue
		}
		if there && was.State() == h.State() {
			continue // it is as it was
		}
		b, err := item.Read(e.over, h)
		if err != nil {
			return nil, err
		}
		out.Changes = append(out.Changes, Change{Head: h, Content: b})
	}
	return out, nil
}

// refusal is why an operation cannot be done.
type refusal struct{ says.Message }

func (r refusal) Error() string { return r.String() }

func refuse(format string, args ...any) error { return refusal{says.New(format, args...)} }

func (e *editor) do(op Operation) (string, error) {
	i := slices.IndexFunc(Rows, func(r Row) bool { return r.Op == op.Op })
	if i < 0 {
		return "", refuse("there is no such operation")
	}
	if missing := Rows[i].Missing(op); len(missing) > 0 {
		return "", refuse("it needs %s", missing[0])
	}
	switch op.Op {
	case EntryAdd, EntryChange, EntryMove, EntryRemove:
		return e.menu(op)
	case MenuNew:
		return e.newMenu(op)
	case LinkAdd, LinkEnd, Anchor:
		return e.link(op)
	case MenuShown:
		return e.menuShown(op)
	case FormNew, FormField, FormSet, FormMove, FormRemove:
		return e.forms(op)
	case RegionOpen, RegionClose, RegionFill:
		return e.region(op)
	case Set:
		return e.set(op)
	case Text:
		return e.text(op)
	case Formatted:
		return e.inline(op)
	case Link, Alternative, Picture, Classes:
		return e.attribute(op)
	case Attribute:
		return e.component(op)
	case Icon:
		return e.icon(op)
	case OwnCopy, OwnValue, Share:
		return e.section(op)
	case LinkCopy:
		return e.linked(op)
	case StylesMove:
		return e.moveStyles(op)
	case Appearance, SameAppearance:
		return e.appearance(op)
	case PageNew, PageTitle, PageAddress, PageWithout, PageVariant, PageWidth, PageHidden, PageHome, PageRemove:
		return e.page(op)
	case PageFold, PageSplit:
		return e.pages(op)
	case PartRole, PartWhere, PartOff, PartCopy, PartTrigger:
		return e.part(op)
	case Field, RecordNew:
		return e.record(op)
	case Token, LookKeep, LookWear, LookDrop, OwnLook, PartLook:
		return e.look(op)
	default:
		return e.structure(op)
	}
}

// member gives what an operation says of one of its inputs.
func (o Operation) member(name string) string {
	switch name {
	case "page":
		return o.Page
	case "element":
		return o.Element
	case "beside":
		return o.Beside
	case "place":
		return string(o.Place)
	case "value":
		return o.Value
	case "entry":
		return o.Entry
	case "label":
		return o.Label
	case "property":
		return o.Property
	case "item":
		if o.Item.IsZero() {
			return ""
		}
		return o.Item.String()
	}
	return ""
}

// put lays a changed text over an item.
func (e *editor) put(h item.Head, b []byte) error {
	if !h.Address.Kind.IsMarkup() { // a browser reads any markup
		if f := facts.Extract(h.Address.Kind, h.Meta.Context, b); f.Broken != "" {
			return refuse("%s would not be readable: %s", h.Address, f.Broken)
		}
	}
	e.note(h.Address)
	e.over.Set(h, b)
	return nil
}

// putHead changes what is known of an item beside its content.
func (e *editor) putHead(h item.Head) error {
	b, err := item.Read(e.over, h)
	if err != nil {
		return err
	}
	return e.put(h, b)
}

// drop takes an item out.
func (e *editor) drop(a item.Address) {
	e.note(a)
	e.over.Drop(a)
}

func (e *editor) note(a item.Address) {
	if !slices.Contains(e.order, a) {
		e.order = append(e.order, a)
	}
}

// state is the site as the operations so far left it.
type state struct {
	*item.Over
	e *editor
}

// LinkedFrom gives the items that link to a slug.
func (s state) LinkedFrom(slug string) ([]item.Address, error) {
	out, err := s.e.below.LinkedFrom(slug)
	if err != nil {
		return nil, err
	}
	for _, a := range s.e.order {
		if _, there := s.Find(a); there && !slices.Contains(out, a) {
			out = append(out, a) // who asks looks at each
		}
	}
	return out, nil
}

// leads tells whether an address leads somewhere on the site as it is by now.
func (e *editor) leads(slug string) (bool, error) {
	if a, ok := item.FileAt(e.over, slug); ok {
		if _, found := e.over.Find(a); found {
			return true, nil
		}
	}
	r := render.New(e.over)
	if _, ok := r.PageAt(slug); ok {
		return true, nil
	}
	made, err := r.GeneratedPages()
	return slices.ContainsFunc(made, func(m render.GeneratedPage) bool { return m.Slug == slug }), err
}
