package folder

// Layout is the layout that a folder is read in. The set is closed.
type Layout string

// The layouts.
const (
	LayoutOurs       Layout = "ours"        // a site kept in our own folders
	LayoutStaticSite Layout = "static-site" // anybody's pages and files
)

// Layouts lists all of them.
var Layouts = []Layout{LayoutOurs, LayoutStaticSite}
