package desk

import (
	"context"
	"errors"
	"net/url"

	"compactparcel/core/form"
)

// TryForm tells what would become of what is filled into a form, live or of a draft. Nothing is kept and nothing
// is sent.
func (d *Desk) TryForm(ctx context.Context, p Person, site, name string, draft int64, sent url.Values,
) (*form.Form, form.Trial, error) {
	if err := p.may(Keeper, "form/"+name+" of "+site); err != nil {
		return nil, form.Trial{}, err // whom the mails go to is told
	}
	v, err := d.Look(ctx, p, site, draft)
	if err != nil {
		return nil, form.Trial{}, err
	}
	what := "form/" + name + " of " + site
	f, err := formOf(v, name)
	if errors.Is(err, ErrNoForm) {
		return nil, form.Trial{}, problem(NotFound, what, To(ShowItems, "site", site), "%v", err)
	}
	if err != nil {
		return nil, form.Trial{}, explain(what, err)
	}
	receivers, err := receiversOf(v)
	if err != nil {
		return nil, form.Trial{}, problem(BadInput, what, To(FixContent), "%v", err)
	}
	return f, f.Try(sent, receivers[name]), nil
}
