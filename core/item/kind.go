package item

// Kind says what an item is.
type Kind string

// The kinds, as the glossary names them.
const (
	Page       Kind = "page"
	Section    Kind = "section"
	Block      Kind = "block"
	Part       Kind = "part"
	Stylesheet Kind = "stylesheet"
	Tokens     Kind = "tokens"
	Media      Kind = "media"
	Menu       Kind = "menu"
	Form       Kind = "form"
	RecordType Kind = "record-type"
	Record     Kind = "record"
	Component  Kind = "component"
	Setting    Kind = "setting"
)

// KindInfo is the one declaration of a kind: its words, and where it lies in a
// folder or a kit.
type KindInfo struct {
	Kind        Kind   `json:"kind"`
	Description string `json:"description"`
	Folder      string `json:"folder"`
	// Ext is the file ending after the key; empty where the key carries its own.
	Ext string `json:"ext"`
	// Markup tells that the content is HTML.
	Markup bool `json:"markup"`
}

// Kinds lists all kinds in the order in which they are shown.
var Kinds = []KindInfo{
	{Page, "a whole document", "pages", ".html", true},
	{Section, "a band of a page", "sections", ".html", true},
	{Block, "a small fragment", "blocks", ".html", true},
	{Part, "a header, a footer and the like", "surround", ".html", true},
	{Stylesheet, "CSS", "stylesheets", ".css", false},
	{Tokens, "palette, type and spacing", "tokens", ".tokens.json", false},
	{Media, "a picture, a video, a font or another file", "media", "", false},
	{Menu, "a list of links", "menus", ".json", false},
	{Form, "a form by its schema", "forms", ".json", false},
	{RecordType, "the fields that records of a type have", "record-types", ".json", false},
	{Record, "a post, a product, a room", "records", ".html", true},
	{Component, "a custom element with its script", "components", ".js", false},
	{Setting, "a named fact about the site", "settings", ".json", false},
}

var kindIndex = func() map[Kind]KindInfo {
	m := make(map[Kind]KindInfo, len(Kinds))
	for _, k := range Kinds {
		m[k.Kind] = k
	}
	return m
}()

// Info gives the declaration of a kind; ok is false for a word that is none.
func (k Kind) Info() (KindInfo, bool) { i, ok := kindIndex[k]; return i, ok }

// IsMarkup tells whether items of this kind hold HTML.
func (k Kind) IsMarkup() bool { return kindIndex[k].Markup }

// Role says what a part is for.
type Role string

// RoleInfo is the one declaration of a part role.
type RoleInfo struct {
	Role        Role   `json:"role"`
	Description string `json:"description"`
	// Default is the placement a part of this role has when none is given.
	Default string `json:"default"`
}

// The part roles.
const (
	Header     Role = "header"
	Footer     Role = "footer"
	Aside      Role = "aside"
	Wrapper    Role = "wrapper"
	NotFound   Role = "not-found"
	Search     Role = "search"
	RecordRole Role = "record"
	Listing    Role = "listing"
	Overlay    Role = "overlay"
)

// Roles lists all part roles.
var Roles = []RoleInfo{
	{Header, "stands at the top of the page", "everywhere"},
	{Footer, "stands at the foot of the page", "everywhere"},
	{Aside, "stands beside the content", "everywhere"},
	{Wrapper, "stands around the page's own content", "everywhere"},
	{NotFound, "is the not-found page", "not-found"},
	{Search, "shows what a search found", "search"},
	{RecordRole, "shows one record", ""},
	{Listing, "shows many records", ""},
	{Overlay, "appears by a trigger", "everywhere"},
}

// ValidRole tells whether r is a part role.
func ValidRole(r Role) bool {
	for _, x := range Roles {
		if x.Role == r {
			return true
		}
	}
	return false
}

// RoleNames are the words of the roles.
func RoleNames() []string {
	var out []string
	for _, r := range Roles {
		out = append(out, string(r.Role))
	}
	return out
}
