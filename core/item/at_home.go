package item

// AtHome says how a page had a role of its surround where it comes from. The set is closed.
type AtHome string

// The ways.
const (
	HadPart AtHome = "part" // a part of the site stood there
	HadOwn  AtHome = "own"  // a landmark in its own body
	HadNone AtHome = "none" // nothing
)

// AtHomes lists all of them.
var AtHomes = []AtHome{HadPart, HadOwn, HadNone}

// SurroundRoles are the roles of what stands around a page's content.
var SurroundRoles = []Role{Header, Wrapper, Aside, Footer, Overlay}

// LeavingOut gives the metadata of a page that leaves roles out, each once and in the order of
// SurroundRoles, behind those that it left out already.
func (m Meta) LeavingOut(roles map[Role]bool) Meta {
	without := append([]Role{}, m.Without...)
	for _, r := range SurroundRoles {
		if roles[r] && !m.LeavesOut(r) {
			without = append(without, r)
		}
	}
	if len(without) > 0 {
		m.Without = without
	}
	return m
}

// LeavesOut tells whether a page leaves a role out.
func (m Meta) LeavesOut(r Role) bool {
	for _, w := range m.Without {
		if w == r {
			return true
		}
	}
	return false
}

// Taking gives the metadata of a page that takes a role's part again, having had it as its own
// element.
func (m Meta) Taking(r Role) Meta {
	var without []Role
	for _, w := range m.Without {
		if w != r {
			without = append(without, w)
		}
	}
	home := map[Role]AtHome{}
	for k, v := range m.AtHome {
		if k != r {
			home[k] = v
		}
	}
	m.Without, m.AtHome = without, nil
	if len(home) > 0 {
		m.AtHome = home
	}
	return m
}
