package preview

import (
	"encoding/json"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/render"
)

// home says whose pages a state shows: by that it is known what they may do.
type home int

const (
	ofSite    home = iota // a site's own settings decide
	ofLibrary             // ours, and kits that are being made here
	ofKit                 // anybody's: who looks at a kit tells nobody by it
)

// policy says what the pages of a state may do (Content Security Policy 3): show what visitors
// would see, run what was approved, and be framed by the console alone. Frames keep their own
// policies.
func (s *shown) policy(host string, framers []string) (string, error) {
	scripts, err := s.scripts(host)
	if err != nil {
		return "", err
	}
	elsewhere, frames := "", "'none'"
	outside, err := s.outside()
	if err != nil {
		return "", err
	}
	if outside {
		elsewhere, frames = " http: https:", "'self' http: https:"
	}
	return "default-src 'none'; img-src 'self' data:" + elsewhere + "; media-src 'self'" + elsewhere +
		"; font-src 'self' data:" + elsewhere + "; style-src 'self' 'unsafe-inline'" + elsewhere +
		"; frame-src " + frames + "; script-src " + scripts +
		"; connect-src 'self'; manifest-src 'self'; form-action 'self'; base-uri 'self'; frame-ancestors " +
		strings.Join(framers, " "), nil
}

// scripts lists what may run: the engine's own, which open overlays; the components of a library
// or kit, which have an origin of their own there; and all of a site whose scripts are approved.
func (s *shown) scripts(host string) (string, error) {
	if s.home != ofSite {
		list := []string{host + render.EngineRoot}
		paths, err := s.r.ComponentScripts(maxComponents)
		if err != nil {
			return "", err
		}
		for _, path := range paths {
			list = append(list, host+path)
		}
		return strings.Join(list, " "), nil
	}
	v, err := s.setting(item.Scripts)
	if v == "approved" {
		return "'self'", err
	}
	return host + render.EngineRoot, err
}

// maxComponents bounds how many components run in one state's previews: a header has its limits.
const maxComponents = 60

// outside tells whether what lies on other hosts is shown.
func (s *shown) outside() (bool, error) {
	if s.home != ofSite {
		return s.home == ofLibrary, nil
	}
	v, err := s.setting(item.Outside)
	return v != "blocked", err
}

// setting gives the value of a setting that holds a word; "" where it holds none.
func (s *shown) setting(a item.Address) (string, error) {
	head, ok := s.view.Find(a)
	if !ok {
		return "", nil
	}
	b, err := item.Read(s.view, head)
	if err != nil {
		return "", err
	}
	var v string
	if json.Unmarshal(b, &v) != nil {
		v = ""
	}
	return v, nil
}
