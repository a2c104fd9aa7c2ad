package item

import "io"

// Until is a collection whose contents can be read until stop gives an error: what works
// through it ends when nobody waits for its result any more.
func Until(c Collection, stop func() error) Collection { return until{c, stop} }

type until struct {
	Collection
	stop func() error
}

// Open opens an item's content, or gives the error of stop.
func (u until) Open(h Head) (io.ReadCloser, error) {
	if err := u.stop(); err != nil {
		return nil, err
	}
	return u.Collection.Open(h)
}
