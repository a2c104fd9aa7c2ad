package store

import (
	"time"

	"compactparcel/core/item"

	"gorm.io/gorm/clause"
)

// PictureState says how far a picture is. The set is closed.
type PictureState string

// The states of a picture.
const (
	PictureWaiting PictureState = "waiting"
	PictureMade    PictureState = "made"
	PictureFailed  PictureState = "failed" // the page cannot be shown within the limits
)

// Picture is a picture of a preview, known by the digest of what it shows and how it is made.
type Picture struct {
	Picture item.Digest `gorm:"primaryKey"`
	ShownAt string      // an address of a preview that shows it
	Width   int
	State   PictureState
	// Doc is the picture (PNG), Small what lists show (WebP): both lie with the pictures.
	Doc, Small item.Digest
	Height     int
	Cut        bool   // the page is higher
	Seen       string // JSON
	Message    string // why it failed
	Attempts   int
	WantedAt   time.Time
	LeaseUntil *time.Time
}

// DeliveryPicture is a page that a delivery touches, in pictures at a width.
type DeliveryPicture struct {
	DeliveryID    int64       `gorm:"primaryKey;autoIncrement:false"`
	Slug          string      `gorm:"primaryKey"`
	Width         int         `gorm:"primaryKey;autoIncrement:false"`
	BeforePicture item.Digest // empty: it was not known
	AfterPicture  item.Digest
}

// Pictures is the repository of pictures, and the queue of those that are wanted.
type Pictures struct{ t *Tx }

// Pictures gives the pictures.
func (t *Tx) Pictures() Pictures { return Pictures{t} }

// maxPictures bounds how many pictures one statement names.
const maxPictures = 500

// ByKeys gives those that are known.
func (r Pictures) ByKeys(keys []item.Digest) (map[item.Digest]Picture, error) {
	out := map[item.Digest]Picture{}
	for from := 0; from < len(keys); from += maxPictures {
		var list []Picture
		if err := r.t.db.Where("picture IN ?",
			keys[from:min(from+maxPictures, len(keys))]).Find(&list).Error; err != nil {
			return nil, err
		}
		for _, p := range list {
			out[p.Picture] = p
		}
	}
	return out, nil
}

// Want puts pictures into the queue. One that is there is wanted anew: what is looked at now comes first.
func (r Pictures) Want(list []Picture) error {
	if len(list) == 0 {
		return nil
	}
	return r.t.db.Clauses(clause.OnConflict{DoUpdates: clause.AssignmentColumns([]string{"wanted_at", "shown_at"})}).
		CreateInBatches(list, maxPictures).Error
}

// Take leases the picture that was wanted last; ErrNotFound where none is.
func (r Pictures) Take(now time.Time, lease time.Duration) (*Picture, error) {
	p, err := one[Picture](r.t.db.Clauses(clause.Locking{Strength: "UPDATE", Options: "SKIP LOCKED"}).
		Where("state = ? AND (lease_until IS NULL OR lease_until < ?)", PictureWaiting, now).
		Order("wanted_at DESC").Limit(1))
	if err != nil {
		return nil, err
	}
	until := now.Add(lease)
	p.LeaseUntil, p.Attempts = &until, p.Attempts+1
	return p, r.t.db.Model(&Picture{}).Where("picture = ?", p.Picture).
		Updates(map[string]any{"lease_until": until, "attempts": p.Attempts}).Error
}

// Finish writes what became of a picture.
func (r Pictures) Finish(p *Picture) error {
	p.LeaseUntil = nil
	return r.t.db.Model(&Picture{}).Where("picture = ?", p.Picture).Updates(map[string]any{
		"state": p.State, "doc": p.Doc, "small": p.Small, "height": p.Height, "cut": p.Cut, "seen": p.Seen,
		"message": p.Message, "lease_until": nil}).Error
}

// Release lets a picture wait until it is tried again.
func (r Pictures) Release(p *Picture, until time.Time) error {
	return r.t.db.Model(&Picture{}).Where("picture = ?", p.Picture).Update("lease_until", until).Error
}

// Drop forgets a picture: what it was to show is there no more, or its file is lost.
func (r Pictures) Drop(key item.Digest) error {
	return r.t.db.Where("picture = ?", key).Delete(&Picture{}).Error
}

// DropAll forgets all pictures: their files are not here. They are made again when they are wanted.
func (r Pictures) DropAll() error { return r.t.db.Where("1 = 1").Delete(&Picture{}).Error }

// Count tells how many are in a state.
func (r Pictures) Count(state PictureState) (int64, error) {
	var n int64
	err := r.t.db.Model(&Picture{}).Where("state = ?", state).Count(&n).Error
	return n, err
}

// Sweep forgets what nobody asked for since a time, what is still wanted since another, and what is more than so
// many, those that were wanted last staying; what is kept with a delivery stays.
func (r Pictures) Sweep(unused, unmade time.Time, most int) error {
	var last []time.Time
	err := r.t.db.Model(&Picture{}).Order("wanted_at DESC").Offset(most).Limit(1).Pluck("wanted_at", &last).Error
	if err != nil {
		return err
	}
	if len(last) > 0 && last[0].After(unused) {
		unused = last[0].Add(time.Microsecond)
	}
	if err := r.t.db.Where("state = ? AND wanted_at < ?", PictureWaiting,
		unmade).Delete(&Picture{}).Error; err != nil {
		return err
	}
	return r.t.db.Where("wanted_at < ? AND NOT EXISTS (SELECT 1 FROM delivery_pictures d WHERE "+
		"d.before_picture = pictures.picture OR d.after_picture = pictures.picture)", unused).
		Delete(&Picture{}).Error
}

// Holds tells whether a file is that of a picture.
func (r Pictures) Holds(d item.Digest) (bool, error) {
	var n int64
	err := r.t.db.Model(&Picture{}).Where("doc = ? OR small = ?", d, d).Count(&n).Error
	return n > 0, err
}

// Keep keeps pictures with a delivery; what was known of a page before stays where nothing newer is.
func (r Pictures) Keep(list []DeliveryPicture) error {
	for _, p := range list {
		var set []string
		if p.BeforePicture != "" {
			set = append(set, "before_picture")
		}
		if p.AfterPicture != "" {
			set = append(set, "after_picture")
		}
		if len(set) == 0 {
			continue
		}
		if err := r.t.db.Clauses(clause.OnConflict{DoUpdates: clause.AssignmentColumns(set)}).Create(
			&p).Error; err != nil {
			return err
		}
	}
	return nil
}

// Kept lists the pictures that are kept with a delivery, by page and width.
func (r Pictures) Kept(delivery int64) (list []DeliveryPicture, err error) {
	err = r.t.db.Where("delivery_id = ?", delivery).Order("slug, width").Find(&list).Error
	return list, err
}
