package pictures

import (
	"context"
	"time"

	"compactparcel/internal/store"
)

// Await has pictures made and waits until none of them is to come, or the context ends, which is no error. It tells how
// many are to come whenever it has looked and there are some.
func (p *Pictures) Await(ctx context.Context, list []Wanted, tell func(waiting int)) error {
	for {
		found, err := p.Want(ctx, list)
		if over := ctx.Err() != nil; over || err != nil {
			return unless(over, err)
		}
		waiting := 0
		for _, f := range found {
			if f.Picture != nil && f.Picture.State == store.PictureWaiting {
				waiting++
			}
		}
		if waiting == 0 || !p.HasBrowser() {
			return nil
		}
		tell(waiting)
		select {
		case <-ctx.Done():
			return nil
		case <-time.After(300 * time.Millisecond):
		}
	}
}

// unless gives an error that is none where nobody waits any more.
func unless(over bool, err error) error {
	if over {
		return nil
	}
	return err
}
