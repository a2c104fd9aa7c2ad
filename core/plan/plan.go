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
	"strings"

	"compactparcel/core/blend"
	"compactparcel/core/closure"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/render"
)

// Site is all that planning knows of the receiving site.
type Site interface {
	closure.World
	item.Collection
	// UsedBy gives the items whose source names an address, whether or not it is there.
	UsedBy(item.Address) ([]item.Address, error)
	Pages() []item.Head
	// GeneratedPages lists what no page item stands for: records' pages, the answer to unknown
	// addresses and the like.
	GeneratedPages() ([]render.GeneratedPage, error)
	Parts() []item.Head
	Sheets() []item.Head // stylesheets and tokens
	StyleOrder() ([]item.Address, error)
	// Origins gives the origins of what this kit delivered before.
	Origins(kit string) ([]Origin, error)
	// BaselineContent gives the content of an item as it was delivered, T included; nil when it is
	// not remembered.
	BaselineContent(Origin) ([]byte, error)
	// PriorDelivery gives what was said at the kit's last delivery that is live.
	PriorDelivery(kit string) (PriorDelivery, error)
	// MediaWith finds a media item by its exact digest.
	MediaWith(item.Digest) (item.Address, bool)
}

// Origin is what is remembered of an item that a kit delivered.
type Origin struct {
	KitAddress item.Address
	Version    string
	// Item is where it is now; zero when the site deleted it.
	Item item.Address
	// NormalizedDigest is the item's as it was delivered, T included.
	NormalizedDigest item.Digest
	Copy             int
	// Doc names the content as it was delivered, for Base; empty when it is not remembered.
	Doc   item.Digest
	Bytes int64
	// Meta is the metadata as it was delivered; nil when it is not remembered.
	Meta *item.Meta
}

// PriorDelivery is what was said when a kit was delivered to a site the last time.
type PriorDelivery struct {
	Version   string             `json:"-"`
	KitDigest item.Digest        `json:"-"`
	Format    int                `json:"-"`
	Fills     map[string]string  `json:"fills"`
	Decisions map[string]Decided `json:"decisions"`
}

// Parcel is the kit to deliver.
type Parcel struct {
	List   *kit.PackingList
	Digest item.Digest
	item.Collection
	// Shelf is nil when the library is not asked.
	Shelf Shelf
	// Blends remembers the blends of earlier plans; nil: nothing does.
	Blends BlendMemory
}

// Decided is a person's decision and what it was about: a digest of both sides.
type Decided struct {
	Decision Decision     `json:"decision"`
	To       item.Address `json:"to,omitzero"` // of map
	// Side decides all conflicts of a blend.
	Side blend.Decision `json:"side,omitempty"`
	// Name is the site's field, of "as".
	Name          string      `json:"name,omitempty"`
	SubjectDigest item.Digest `json:"subjectDigest,omitempty"`
	// IfFits says that it was not given for this site alone: where it does not fit it is left out, and told.
	IfFits bool `json:"ifFits,omitempty"`
}

// PageRequest is what a new page shall be called and where it shall stand.
type PageRequest struct {
	Title string `json:"title,omitempty"`
	Slug  string `json:"slug,omitempty"`
}

// Request is what a person has said so far.
type Request struct {
	Policy    Policy             `json:"policy"`
	Decisions map[string]Decided `json:"decisions"`
	Fills     map[string]string  `json:"fills"`
	// Seats says what is done with places that two parts want; empty: ask.
	Seats SeatOption `json:"seats,omitempty"`
	// Only names the kit's items that shall come; what they need comes, too. Empty: all.
	Only []item.Address `json:"only,omitempty"`
	// Next asks for the next one of a series: what holds blanks, and what shows it, comes as another copy,
	// with its blanks empty. What was filled in the last time is only a hint.
	Next bool `json:"next,omitempty"`
	// Menu is a menu of the site that gets an entry for each page that is new; zero: none does.
	Menu item.Address `json:"menu,omitzero"`
	// Pages says by kit address what new pages are called and where they stand.
	Pages map[string]PageRequest `json:"pages,omitempty"`
}

// ItemVersion is one side of an item.
type ItemVersion struct {
	Address          item.Address `json:"address"`
	NormalizedDigest item.Digest  `json:"normalizedDigest"`
	State            item.Digest  `json:"state,omitempty"`
	Title            string       `json:"title,omitempty"`
	Bytes            int64        `json:"bytes"`
}

// Choice is a decision that is open, and its effect.
type Choice struct {
	Decision Decision `json:"decision"`
	// To is the name that goes with the decision: the site's field, of as.
	To     string `json:"to,omitempty"`
	Effect string `json:"effect"`
}

// Written is the choice as a decision is written: "take", "as:beds".
func (c Choice) Written() string {
	if c.To != "" {
		return string(c.Decision) + ":" + c.To
	}
	return string(c.Decision)
}

// Row is one item of the plan.
type Row struct {
	Address   item.Address `json:"address"` // in the kit
	Standing  Standing     `json:"standing"`
	Decision  Decision     `json:"decision,omitempty"` // empty: a question
	DecidedBy DecidedBy    `json:"decidedBy,omitempty"`
	// Becomes is the address on the site after the delivery.
	Becomes       item.Address `json:"becomes,omitzero"`
	Kit           *ItemVersion `json:"kit,omitempty"`
	Site          *ItemVersion `json:"site,omitempty"`
	Why           string       `json:"why"`
	Choices       []Choice     `json:"choices"`
	SubjectDigest item.Digest  `json:"subjectDigest"`
	// Order tells that a stylesheet is new and where it goes.
	Order string `json:"order,omitempty"`
	// Candidates are what on the site is like it; the first is taken for its counterpart.
	Candidates []Candidate `json:"candidates,omitempty"`
	// Needed says why an item comes that was not chosen.
	Needed string `json:"needed,omitempty"`
	// Base is the version that both sides are held against; empty when it is not known.
	Base string `json:"base,omitempty"`
	// Conflicts are those of a blend, decided or not.
	Conflicts []blend.Conflict `json:"conflicts,omitempty"`

	unedited bool // on the site, since it was delivered
	plain    bool // the same on both sides but for names that are kept apart
	inUse    bool // a withdrawn one
}

// Question is what the plan cannot decide by itself.
type Question struct {
	// Key names it in decisions.
	Key     string       `json:"key"`
	Kind    QuestionKind `json:"kind"`
	Message string       `json:"message"`
	Choices []Choice     `json:"choices"`
}

// TouchedPage is a page that the delivery reaches, and the ways. What no page item stands
// for has only its slug.
type TouchedPage struct {
	Page item.Address `json:"page"`
	Slug string       `json:"slug"`
	Ways []string     `json:"ways"`
}

// Seat is a target with a role that two parts want.
type Seat struct {
	Key    string    `json:"key"`
	Role   item.Role `json:"role"`
	Target string    `json:"target"`
	// Site is the site's part; zero where pages have the role as their own element, which
	// Pages counts.
	Site      item.Address `json:"site,omitzero"`
	Pages     int          `json:"pages,omitempty"`
	Kit       item.Address `json:"kit"`
	Decision  Decision     `json:"decision,omitempty"` // site, kit or narrow
	DecidedBy DecidedBy    `json:"decidedBy,omitempty"`
	Choices   []Choice     `json:"choices"`
}

// FillRow is a fill-in and its value so far.
type FillRow struct {
	kit.Fillin
	Key   string `json:"key"`
	Value string `json:"value,omitempty"`
	Given bool   `json:"given"`
	// Before tells that the value is the one given at the last delivery.
	Before bool `json:"before,omitempty"`
	// Hint is what was given the last time, where it is asked anew.
	Hint string `json:"hint,omitempty"`
}

// VersionStanding says how a kit's version stands to what was delivered before. The set is
// closed.
type VersionStanding string

// The standings of versions.
const (
	FirstDelivery  VersionStanding = "first"
	NewerVersion   VersionStanding = "newer"
	SameVersion    VersionStanding = "same"
	RebuiltVersion VersionStanding = "rebuilt" // the same version with other contents
	OlderVersion   VersionStanding = "older"
)

// VersionStandings lists all of them.
var VersionStandings = []VersionStanding{FirstDelivery, NewerVersion, SameVersion, RebuiltVersion, OlderVersion}

// Plan is all that a delivery would do.
type Plan struct {
	Kit            string          `json:"kit"`
	Version        string          `json:"version"`
	KitDigest      item.Digest     `json:"kitDigest"`
	Policy         Policy          `json:"policy"`
	Terms          kit.Terms       `json:"terms"`
	VersionIs      VersionStanding `json:"versionIs"`
	Rows           []Row           `json:"rows"`
	Questions      []Question      `json:"questions"`
	Touched        []TouchedPage   `json:"touched"`
	Groups         []NameGroup     `json:"groups"`
	Clashes        []Clash         `json:"clashes"`
	Seats          []Seat          `json:"seats"`
	Surrounds      []SurroundRow   `json:"surrounds"`
	Needs          []NeedRow       `json:"needs"`
	Fills          []FillRow       `json:"fills"`
	Tokens         []TokenRow      `json:"tokens"`
	Fields         []FieldRow      `json:"fields"`
	StyleOverrides []StyleOverride `json:"styleOverrides"`
	Contrasts      []ContrastRow   `json:"contrasts"`
	Literals       []string        `json:"literals"`
	Links          []LinkRow       `json:"links"`
	Settings       []SettingRow    `json:"settings"`
	Scripts        []string        `json:"scripts"`
	Hosts          []HostRow       `json:"hosts"`
	Notes          []string        `json:"notes"`
	LeftOut        []LeftOut       `json:"leftOut"`
	StyleOrder     []item.Address  `json:"styleOrder"`
	BytesIn        int64           `json:"bytesIn"`
}

// PlannedWrite is one item as the delivery will write it.
type PlannedWrite struct {
	KitAddress item.Address
	Head       item.Head
	// Content is nil where the bytes are the kit's own: for media, and where T changes
	// nothing.
	Content []byte
	// Copy counts the copies of an item that was delivered again; the first is 1.
	Copy int
	// Baseline is the item as T gives it, whatever is written: the base of later deliveries.
	// Its content is nil where it is the kit's own.
	Baseline        item.Head
	BaselineContent []byte

	facts *facts.Facts // of the content, where they are known
}

// NameChange is one name of the kit and what it became.
type NameChange struct {
	From item.Address `json:"from"`
	To   item.Address `json:"to"`
}

// Precondition is what the plan relied on: an item in a state, or its absence.
type Precondition struct {
	Address item.Address `json:"address"`
	State   item.Digest  `json:"state"` // empty: not there
}

// Result is a plan and what staging would write.
type Result struct {
	Plan          Plan
	Writes        []PlannedWrite
	Moved         map[item.Address]item.Address // kit address → site address
	Preconditions []Precondition
	Kept          []PlannedWrite // same or kept: only their origin is recorded
	// Deletions are items of the site that go: withdrawn from the kit, and given up.
	Deletions []item.Head
	// Decisions are all decisions that hold, those of earlier deliveries too that still do.
	Decisions map[string]Decided
	// Fills are the values of all blanks, those too that nothing takes this time.
	Fills map[string]string
	// Subjects are the digests of what the decisions of the request decide, by their keys.
	Subjects map[string]item.Digest
}

// DecisionError is a decision that does not fit.
type DecisionError struct {
	Key     string
	Message string
	Choices []Choice
}

func (e *DecisionError) Error() string {
	return fmt.Sprintf("the decision about %s is not possible: %s", e.Key, e.Message)
}

// withoutSiteOnly leaves the settings of a kit out that no kit may bring, whatever it says of
// them, and tells so. A kit of today is refused for it; one on the shelf may be older.
func withoutSiteOnly(c item.Collection) (item.Collection, []string) {
	var told []string
	over := item.NewOver(c)
	for _, h := range c.Heads() {
		if h.Address.Kind == item.Setting && item.SiteOnly(h.Address.Key) {
			over.Drop(h.Address)
			told = append(told, fmt.Sprintf("The kit carries %s, which is each site's own: it is left out.",
				h.Address))
		}
	}
	if told == nil {
		return c, nil
	}
	return over, told
}

// isAbout tells whether a decision of an earlier delivery was about something else. What was
// said of a token or a single name holds whatever the kit's next version makes of it.
func (d Decided) isAbout(other item.Digest, key string) bool {
	switch kind, _ := ParseKey(key); kind {
	case AboutGroup, AboutSeat, AboutNeed, AboutField:
		return d.SubjectDigest != "" && other != "" && d.SubjectDigest != other
	default:
		return false
	}
}

// about is the digest of what a decision decides, of the facts that it rests on.
func about(facts ...string) item.Digest { return item.DigestOf([]byte(strings.Join(facts, "\x00"))) }

// carries tells whether what was decided about a key holds for later deliveries: what a
// class, a seat or a need means does not change with the kit's version.
func carries(key string) bool {
	kind, _ := ParseKey(key)
	switch kind {
	case AboutClass, AboutProperty, AboutAnimation, AboutFont, AboutID, AboutGroup, AboutSeat, AboutSurround,
		AboutNeed,
		AboutToken, AboutField:
		return true
	case AboutItem, AboutConflict, AboutFill, AboutSetting, AboutPage:
	}
	return false
}

// worldOf is a collection as a world; one that knows its facts is asked for them.
func worldOf(c item.Collection) closure.World {
	if w, ok := c.(closure.World); ok {
		return w
	}
	return closure.NewSmall(c)
}
