package desk

import (
	"context"
	"encoding/json"
	"io"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/internal/store"

	"github.com/Masterminds/semver/v3"
)

// shelf is what the library holds beside a kit: a plan.Shelf.
type shelf struct {
	d            *Desk
	ctx          context.Context
	kit, version string // the one that is delivered
	site         *store.Collection
	chosen       map[string]string // by the solver: kit → version
}

// Component looks for a component among the library's items and the sealed kits.
func (s *shelf) Component(name, fits string) (best item.Head, from string, ok bool, err error) {
	c, err := semver.NewConstraint(fits)
	if err != nil {
		return best, "", false, err
	}
	var highest *semver.Version
	consider := func(h item.Head, holder string) {
		v, err := semver.NewVersion(h.Meta.Version)
		if err == nil && c.Check(v) && (highest == nil || v.GreaterThan(highest)) {
			best, from, ok, highest = h, holder, true, v
		}
	}
	at := item.Address{Kind: item.Component, Key: name}
	lib, err := s.d.library(s.ctx)
	if err != nil {
		return best, "", false, err
	}
	held, err := s.d.Store.Live(s.ctx, lib)
	if err != nil {
		return best, "", false, err
	}
	for _, h := range held.Heads() {
		if h.Address == at {
			consider(h, "the library")
		}
	}
	rows, err := s.d.Store.Read(s.ctx).Kits().List()
	if err != nil {
		return best, "", false, err
	}
	for _, r := range rows {
		var list kit.PackingList
		if r.State != Sealed || json.Unmarshal([]byte(r.List), &list) != nil {
			continue
		}
		for _, e := range list.Items {
			if e.Address() != at {
				continue
			}
			_, view, err := s.d.parcelView(s.ctx, &r.KitVersion)
			if err != nil {
				return best, "", false, err
			}
			if h, there := view.Find(at); there {
				consider(h, "the kit "+r.Name+"@"+r.Version)
			}
		}
	}
	return best, from, ok, nil
}

// Open gives the content of what Component found.
func (s *shelf) Open(h item.Head) (io.ReadCloser, error) { return s.d.Store.Content(s.ctx, h) }

// Kit looks for the version of a kit that the solver chooses for the site; when none holds
// together, for the highest that fits.
func (s *shelf) Kit(name, fits string) (string, error) {
	if s.chosen == nil {
		s.chosen = map[string]string{}
		choice, err := s.d.choose(s.ctx, s.site, s.kit, s.version)
		if err != nil {
			return "", err
		}
		for _, k := range choice.Kits {
			s.chosen[k.Kit] = k.Version
		}
	}
	if v := s.chosen[name]; v != "" {
		return v, nil
	}
	c, err := semver.NewConstraint(fits)
	if err != nil {
		return "", err
	}
	rows, err := s.d.Store.Read(s.ctx).Kits().List()
	if err != nil {
		return "", err
	}
	best := ""
	for _, r := range rows {
		v, err := semver.NewVersion(r.Version)
		if err == nil && r.Name == name && r.State == Sealed && c.Check(v) && (best == "" || newer(r.Version, best)) {
			best = r.Version
		}
	}
	return best, nil
}
