package demo

import (
	"context"
	"errors"
	"fmt"
	"net/url"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/internal/desk"
)

// keptPieces are what the librarian keeps for reuse, by the site that it is from.
var keptPieces = map[string][]string{
	"kestrel-refuge": {"section/opening-hours", "section/latest-notices", "part/site-header", "part/site-footer",
		"part/not-found", "page/getting-here", "page/bunks-and-prices"},
	"blackwater-bothy": {"part/header", "part/footer", "page/rooms", "page/how-to-find-us", "page/contact"},
}

// asked are entries of the form by which people ask for a bunk.
var asked = []url.Values{
	{"name": {"Mara Quill"}, "mail": {"mara@quill.example"}, "night": {"2027-06-12"}, "people": {"2"},
		"words": {"We come over the ridge, after six."}},
	{"name": {"Jonas Fell"}, "mail": {"jonas@fell.example"}, "night": {"2027-06-19"}, "people": {"5"}},
	{"name": {"The Tarn Walkers"}, "mail": {"walks@tarn.example"}, "night": {"2027-07-03"}, "people": {"9"},
		"words": {"Is there room for a dog?"}},
}

// LiveIn does what a week of work leaves behind: pieces kept for reuse, a draft that somebody is in the middle of,
// with a fault in it, a delivery that waits for an answer, and entries in a form. What was done before is not done
// again: what the library keeps is put there last, and tells that all of it was done.
func LiveIn(ctx context.Context, d *desk.Desk, p desk.Person) error {
	kept, _, err := d.Library(ctx, p, desk.LibraryQuery{})
	if err != nil || len(kept) > 0 {
		return err
	}
	if err := beginSummer(ctx, d, p); err != nil && !is(err, desk.Exists) {
		return fmt.Errorf("demo: a draft: %w", err)
	}
	if _, err := d.DeliveryOpen(ctx, p, "winter-notices", "0.4.0", "larch-saddle", plan.Request{}); err != nil {
		return fmt.Errorf("demo: a delivery that waits: %w", err)
	}
	for _, sent := range asked {
		if _, err := d.ReceiveEntry(ctx, "kestrel-refuge", "booking", sent, "192.0.2.1"); err != nil &&
			!errors.Is(err, desk.ErrTooFast) {
			return fmt.Errorf("demo: an entry: %w", err)
		}
	}
	for _, site := range []string{"kestrel-refuge", "blackwater-bothy"} {
		var list []item.Address
		for _, a := range keptPieces[site] {
			list = append(list, item.MustAddress(a))
		}
		if _, err := d.LibraryAdd(ctx, p, site, list); err != nil && !is(err, desk.Exists) {
			return fmt.Errorf("demo: keeping pieces of %s: %w", site, err)
		}
	}
	return nil
}

// beginSummer makes a draft that somebody is in the middle of.
func beginSummer(ctx context.Context, d *desk.Desk, p desk.Person) error {
	dr, err := d.OpenDraft(ctx, p, "kestrel-refuge", "summer at Kestrel")
	if err != nil {
		return err
	}
	_, err = d.Edit(ctx, p, desk.Edits{Site: "kestrel-refuge", Draft: dr.ID, List: []edit.Operation{
		{Op: edit.Text, Page: "/", Element: "main h1", Value: "Long evenings, late stove"},
		{Op: edit.Text, Page: "/", Element: ".hero p", Value: "Lorem ipsum dolor sit amet."}, // words to come
	}})
	return err
}
