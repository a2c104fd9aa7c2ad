package client

import (
	"context"
	"fmt"
	"strings"

	"compactparcel/internal/api"
)

// anyState is no state in particular.
const anyState api.KitState = ""

// kitVersion reads NAME@VERSION. NAME alone is its newest version in a state, or its newest where none is, and that is
// said.
func (a *app) kitVersion(ctx context.Context, c *api.ClientWithResponses, arg string, in api.KitState) (
	name, version string, err error,
) {
	if strings.Contains(arg, "@") {
		return splitKit(arg)
	}
	list, err := result(c.ListKitsWithResponse(ctx))
	if err != nil {
		return "", "", err
	}
	var newest *api.KitSummary
	for i, k := range list.Kits { // the newest first
		if k.Name == arg && (newest == nil || newest.State != in && k.State == in) {
			newest = &list.Kits[i]
		}
	}
	if newest == nil {
		return "", "", usage("there is no kit %q: cparcel kit list shows those that there are, and a version is named "+
			"as in hut-basics@2.0.0", arg)
	}
	fmt.Fprintf(a.err, "%s has no version named; this is %s@%s\n", arg, newest.Name, newest.Version)
	return newest.Name, newest.Version, nil
}

// kitAt gives the interface, and the kit that an argument names.
func (a *app) kitAt(ctx context.Context, arg string, in api.KitState) (
	c *api.ClientWithResponses, name, version string, err error,
) {
	if c, err = a.api(); err == nil {
		name, version, err = a.kitVersion(ctx, c, arg, in)
	}
	return c, name, version, err
}
