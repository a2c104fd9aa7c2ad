package store

import (
	"time"

	"compactparcel/core/item"
)

// Outlet is a folder in which a site's live state is published.
type Outlet struct {
	ID            int64
	CollectionID  int64
	Name          string
	Folder        string
	Base          string
	Links         string
	Forms         string // where forms are sent: "here", an address with {form}, or nowhere
	ReleaseNumber int
	SiteDigest    item.Digest
	Message       string
	// Attempts counts those that failed in a row, TryAt is when it is tried again.
	Attempts    int
	TryAt       *time.Time
	ByUser      string
	PublishedAt *time.Time
	CreatedAt   time.Time
}

// Outlets is the repository of outlets.
type Outlets struct{ t *Tx }

// Outlets gives the outlets.
func (t *Tx) Outlets() Outlets { return Outlets{t} }

// Of lists the outlets of a site by name.
func (r Outlets) Of(collection int64) ([]Outlet, error) {
	return all[Outlet](r.t.db.Where("collection_id = ?", collection).Order("name"))
}

// List gives the outlets of all sites.
func (r Outlets) List() ([]Outlet, error) { return all[Outlet](r.t.db) }

// Create keeps a new outlet. Its error is a duplicate where the name is taken.
func (r Outlets) Create(o *Outlet) error { return r.t.db.Create(o).Error }

// ByName gives an outlet of a site.
func (r Outlets) ByName(collection int64, name string) (*Outlet, error) {
	return one[Outlet](r.t.db.Where("collection_id = ? AND name = ?", collection, name))
}

// Delete forgets an outlet, and tells whether it was there.
func (r Outlets) Delete(collection int64, name string) (bool, error) {
	x := r.t.db.Where("collection_id = ? AND name = ?", collection, name).Delete(&Outlet{})
	return x.RowsAffected > 0, x.Error
}

// Note writes down how an outlet stands after somebody has published to it.
func (r Outlets) Note(o *Outlet) error {
	return r.t.db.Model(&Outlet{}).Where("id = ?", o.ID).Updates(map[string]any{
		"release_number": o.ReleaseNumber, "site_digest": o.SiteDigest, "message": o.Message, "attempts": o.Attempts,
		"try_at": o.TryAt, "published_at": o.PublishedAt,
	}).Error
}

// Behind gives the sites with an outlet that shows an older state, when its time to be tried
// has come.
func (r Outlets) Behind(now time.Time) ([]int64, error) {
	var collections []int64
	err := r.t.db.Table("outlets").
		Joins("JOIN collections ON collections.id = outlets.collection_id").
		Where("collections.digest <> outlets.site_digest AND (outlets.try_at IS NULL OR outlets.try_at <= ?)", now).
		Distinct().Pluck("outlets.collection_id", &collections).Error
	return collections, err
}
