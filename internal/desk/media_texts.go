package desk

import (
	"context"
	"fmt"
	"strings"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/internal/store"
)

// MediaTexts lists the alternative texts that a site says of a picture.
func (d *Desk) MediaTexts(ctx context.Context, p Person, site string, draft int64, a item.Address) (
	[]edit.SaidText, error,
) {
	v, err := d.Look(ctx, p, site, draft)
	if err != nil {
		return nil, err
	}
	if err := hasMedia(v, site, a); err != nil {
		return nil, err
	}
	users, err := v.UsedBy(a)
	if err != nil {
		return nil, explain(site+" "+a.String(), err)
	}
	out, err := edit.Alternatives(v, users, a)
	return out, explain(site+" "+a.String(), err)
}

// WriteMediaText writes the alternative text of a picture wherever a text stands, or, without one, where none is
// written. One step.
func (d *Desk) WriteMediaText(
	ctx context.Context, p Person, site string, draft int64, a item.Address, was *string, text string,
) (*EditsDone, error) {
	what := site + " " + a.String()
	if text = strings.TrimSpace(text); len(text) > 1000 {
		return nil, problem(BadInput, what, To(Shorten), "an alternative text has up to 1,000 characters")
	}
	return d.step(ctx, p, site, draft, func(ctx context.Context, view *store.View) (string, []store.Change, error) {
		if err := hasMedia(view, site, a); err != nil {
			return "", nil, err
		}
		users, err := view.UsedBy(a)
		if err != nil {
			return "", nil, err
		}
		list, err := edit.WriteAlternative(view, users, a, was, text)
		if err != nil {
			return "", nil, err
		}
		if len(list) == 0 {
			if was == nil {
				return "", nil, problem(Refused, what, To(ReadAgain), "it has a text wherever it is shown")
			}
			return "", nil, problem(Refused, what, To(ReadAgain), "nothing says “%s” of it", *was)
		}
		changes, err := d.laidTexts(ctx, list)
		return fmt.Sprintf("wrote the alternative text of %s", a), changes, err
	})
}
