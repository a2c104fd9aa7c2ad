package item

// SettingInfo is the one declaration of a setting that the engine knows.
type SettingInfo struct {
	Key         string `json:"key"`
	Description string `json:"description"`
	Portable    bool   `json:"portable"`
}

// Settings lists the settings that the engine knows. Any other is site-only
// until its metadata says otherwise.
var Settings = []SettingInfo{
	{"title", "the site's name", false},
	{"strapline", "a line under the name", false},
	{"logo", "the site's mark, with a size at each width", true},
	{"icon", "the small picture in a browser's tab", true},
	{"language", "the language of the pages (BCP 47)", true},
	{"home", "the page at /", true},
	{"address", "where the live site is served, as https://hut.example/: for its site map", false},
	{"robots", "whether search engines may list the site: \"index\" or \"noindex\"", false},
	{"style-order", "the order of the stylesheets on every page", false},
	{"head-scripts", "the scripts in the heads of pages, and which of them may travel", false},
	{"scripts", "whether scripts run in previews: \"approved\" or \"blocked\"", false},
	{"profiles", "the site's addresses in social networks: a list of name and url", false},
	{"looks", "named sets of token values, to be tried and worn", true},
	{"forms", "who gets what visitors send with a form, and what is answered, by the form's name", false},
	{"outside", "whether previews load frames, pictures, fonts and styles from elsewhere: \"shown\" or \"blocked\"",
		false},
}

// SiteOnly tells whether a setting is each site's own whatever anybody says of it: who is
// trusted, where the site stands, what it is called.
func SiteOnly(key string) bool {
	for _, s := range Settings {
		if s.Key == key {
			return !s.Portable
		}
	}
	return false
}

// IsPortable tells whether a setting may enter a kit. What the metadata say counts for
// settings that the engine does not know, and to keep at home one that could travel.
func (m Meta) IsPortable(key string) bool {
	if SiteOnly(key) {
		return false
	}
	if m.Portable != nil {
		return *m.Portable
	}
	for _, s := range Settings {
		if s.Key == key {
			return s.Portable
		}
	}
	return false
}

// Scripts is the setting that lets a site's scripts run in its previews.
var Scripts = Address{Setting, "scripts"}

// Outside is the setting that keeps a site's previews from loading what lies elsewhere.
var Outside = Address{Setting, "outside"}

// StyleOrder is the setting that holds a collection's stylesheet order: a JSON
// list of addresses.
var StyleOrder = Address{Setting, "style-order"}

// ShownOnPages tells whether pages can look otherwise when a setting changes.
func ShownOnPages(key string) bool { return key != "forms" && key != "looks" && key != Outside.Key }
