package desk

import (
	"context"
	"encoding/json"
	"errors"
	"sort"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/render"
	"compactparcel/core/solve"
	"compactparcel/internal/store"

	"github.com/Masterminds/semver/v3"
)

// KitResolution says which other kits must be there with a kit on a site.
type KitResolution struct {
	Fits bool
	Kits []ChosenKit
	// Unmet are optional needs that go unmet.
	Unmet []string
	// Chain tells, when nothing fits, the demands that cannot hold together.
	Chain []string
}

// ChosenKit is a kit at a version. Here tells that the site has it already.
type ChosenKit struct {
	Kit     string
	Version string
	Here    bool
}

// KitResolve finds versions of all kits that a sealed kit needs, for one site: those
// that were delivered there and fit, else the highest of the shelf.
func (d *Desk) KitResolve(ctx context.Context, p Person, name, version, site string) (*KitResolution, error) {
	what := "kit " + name + "@" + version
	if _, err := d.sealed(ctx, p, name, version); err != nil {
		return nil, err
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return nil, err
	}
	out, err := d.choose(ctx, c, name, version)
	return out, explain(what, err)
}

func (d *Desk) choose(ctx context.Context, c *store.Collection, name, version string) (*KitResolution, error) {
	q, err := d.question(ctx, c)
	if err != nil {
		return nil, err
	}
	q.Want = map[string]string{name: "=" + version}
	world, err := d.shelfWorld(ctx, q.Installed)
	if err != nil {
		return nil, err
	}
	out := &KitResolution{Kits: []ChosenKit{}, Unmet: []string{}, Chain: []string{}}
	answer, err := world.Solve(q)
	var failure *solve.Failure
	if errors.As(err, &failure) {
		for _, demand := range failure.Chain {
			out.Chain = append(out.Chain, demand.Message())
		}
		return out, nil
	}
	if err != nil {
		return nil, err
	}
	out.Fits = true
	for k, v := range answer.Kits {
		if k != name {
			out.Kits = append(out.Kits, ChosenKit{k, v, q.Installed[k] == v})
		}
	}
	sort.Slice(out.Kits, func(i, j int) bool { return out.Kits[i].Kit < out.Kits[j].Kit })
	for _, u := range answer.Unmet {
		out.Unmet = append(out.Unmet, u.Message())
	}
	return out, nil
}

// question says what a site has: the kits that were delivered to it, its components.
func (d *Desk) question(ctx context.Context, c *store.Collection) (solve.Question, error) {
	q := solve.Question{
		Installed:      map[string]string{},
		SiteComponents: map[string]string{},
		Engine:         render.Engine,
		Stop:           ctx.Err,
	}
	view, err := d.Store.Live(ctx, c)
	if err != nil {
		return q, err
	}
	for _, h := range view.Heads() {
		if _, err := semver.StrictNewVersion(h.Meta.Version); err == nil && h.Address.Kind == item.Component {
			q.SiteComponents[h.Address.Key] = h.Meta.Version
		}
	}
	origins, err := view.OriginsOf()
	if err != nil {
		return q, err
	}
	for _, o := range origins {
		if kit.CheckName(o.Kit) == nil && kit.CheckVersion(o.Version) == nil &&
			(q.Installed[o.Kit] == "" || newer(o.Version, q.Installed[o.Kit])) {
			q.Installed[o.Kit] = o.Version
		}
	}
	return q, nil
}

// shelfWorld is what can be chosen from: the sealed kits of the shelf, and what a site
// has that is on it no more.
func (d *Desk) shelfWorld(ctx context.Context, installed map[string]string) (*solve.World, error) {
	rows, err := d.Store.Read(ctx).Kits().List()
	if err != nil {
		return nil, err
	}
	var releases []solve.Release
	have := map[string]bool{}
	for _, r := range rows {
		if r.State != Sealed {
			continue
		}
		var list kit.PackingList
		if err := json.Unmarshal([]byte(r.KitVersion.List), &list); err != nil {
			return nil, err
		}
		releases = append(releases, releaseOf(&list))
		have[list.Kit+"@"+list.Version] = true
	}
	for name, version := range installed {
		if !have[name+"@"+version] {
			releases = append(releases, solve.Release{Kit: name, Version: version})
		}
	}
	return solve.NewWorld(releases)
}

// releaseOf tells what a kit needs and brings.
func releaseOf(list *kit.PackingList) solve.Release {
	r := solve.Release{Kit: list.Kit, Version: list.Version, Needs: list.Needs.Kits, Engine: list.Engine,
		Components: map[string]string{}, WantsComponents: map[string]string{}, Brings: map[string]string{}}
	for name, c := range list.Needs.Components {
		if c.Optional {
			r.WantsComponents[name] = c.Range
		} else {
			r.Components[name] = c.Range
		}
	}
	for _, e := range list.Items {
		if e.Kind == item.Component && kit.CheckVersion(e.Version) == nil {
			r.Brings[e.Key] = e.Version
		}
	}
	return r
}
