package facts

import (
	"net/url"
	"slices"
	"strings"

	"compactparcel/core/markup"
)

// LoadKind says what a browser loads when it shows a document. The set is closed.
type LoadKind string

// The kinds of what is loaded.
const (
	LoadsPicture LoadKind = "picture"
	LoadsMedia   LoadKind = "media" // sound and video
	LoadsFrame   LoadKind = "frame" // another document within the page
	LoadsStyles  LoadKind = "styles"
	LoadsScript  LoadKind = "script"
	LoadsFile    LoadKind = "file" // what a stylesheet names: pictures and fonts
)

// LoadKinds lists all of them.
var LoadKinds = []LoadKind{LoadsPicture, LoadsMedia, LoadsFrame, LoadsStyles, LoadsScript, LoadsFile}

// loadedBy says which attributes of which elements are loaded without anybody's doing (HTML
// standard, where each element is defined). A link depends on its relation.
var loadedBy = map[string]struct {
	attrs map[string]bool
	kind  LoadKind
}{
	"img": {set("src srcset"), LoadsPicture}, "input": {set("src"), LoadsPicture},
	"image": {set("href xlink:href"), LoadsPicture}, "feimage": {set("href xlink:href"), LoadsPicture},
	"use": {set("href xlink:href"), LoadsPicture}, "body": {set("background"), LoadsPicture},
	"video": {set("src poster"), LoadsMedia}, "audio": {set("src"), LoadsMedia},
	"track": {set("src"), LoadsMedia}, "source": {set("src srcset"), LoadsMedia},
	"iframe": {set("src"), LoadsFrame}, "frame": {set("src"), LoadsFrame}, "embed": {set("src"), LoadsFrame},
	"object": {set("data"), LoadsFrame}, "script": {set("src"), LoadsScript},
}

// loads gives what kind of thing an attribute of an element loads; "" for none.
func loads(n *markup.Node, attr string) LoadKind {
	by, ok := loadedBy[n.Tag]
	if ok && by.attrs[attr] {
		return by.kind
	}
	if n.Tag != "link" || attr != "href" && attr != "imagesrcset" {
		return ""
	}
	for _, rel := range strings.Fields(strings.ToLower(n.Value("rel"))) {
		switch rel {
		case "stylesheet":
			return LoadsStyles
		case "icon", "apple-touch-icon", "mask-icon":
			return LoadsPicture
		case "modulepreload":
			return LoadsScript
		case "preload", "prefetch", "manifest":
			return LoadsFile
		}
	}
	return ""
}

// loadFrom is loads for what stands in a stylesheet.
func loadFrom(where Place) LoadKind {
	switch where {
	case InImport:
		return LoadsStyles
	case InURL:
		return LoadsFile
	default:
		return ""
	}
}

// Load is one thing that a browser fetches from another host when it shows a document.
type Load struct {
	Host string // in lower case, with its port
	Kind LoadKind
	Line int
}

// Loads lists what a browser fetches from other hosts when it shows the document: each host and
// kind once, where it comes first.
func (f *Facts) Loads() []Load {
	var out []Load
	for _, r := range f.Refs {
		if r.Space != External || r.Loads == "" {
			continue
		}
		u, err := url.Parse(r.Name)
		if err != nil || u.Host == "" || u.Scheme != "" && u.Scheme != "http" && u.Scheme != "https" {
			continue
		}
		l := Load{strings.ToLower(u.Host), r.Loads, r.Line}
		if !slices.ContainsFunc(out, func(o Load) bool { return o.Host == l.Host && o.Kind == l.Kind }) {
			out = append(out, l)
		}
	}
	return out
}
