package desk

import (
	"context"
	"strings"
	"time"

	"compactparcel/internal/store"

	"gorm.io/gorm"
)

// ByToken gives who an access token belongs to.
func (d *Desk) ByToken(ctx context.Context, token string) (Person, error) {
	var t store.AccessToken
	if err := d.Store.DB(ctx).Where("hash = ?", hashSecret(token)).Take(&t).Error; err != nil {
		if store.IsGone(err) {
			return Person{}, explain("access token", err)
		}
		return Person{}, problem(NotSignedIn, "access token", "sign in again: cparcel sign-in", "it is not known here")
	}
	now := d.Now()
	if t.UsedAt == nil || now.Sub(*t.UsedAt) > time.Minute {
		d.Store.DB(ctx).Model(&store.AccessToken{}).Where("id = ?", t.ID).Update("used_at", now)
	}
	return d.person(ctx, t.UserID)
}

// NewToken makes an access token; its text is told only now.
func (d *Desk) NewToken(ctx context.Context, p Person, name string) (string, *store.AccessToken, error) {
	if err := p.may(Viewer, "access token"); err != nil {
		return "", nil, err
	}
	if name = strings.TrimSpace(name); name == "" || len(name) > 80 {
		return "", nil, problem(BadInput, "access token", "name it after the machine or the use", "its name has 1 to 80 characters")
	}
	text, hash := secret("cpt_")
	t := &store.AccessToken{UserID: p.ID, Name: name, Hash: hash, CreatedAt: d.Now()}
	err := d.Store.Tx(ctx, func(tx *gorm.DB) error {
		if err := tx.Create(t).Error; err != nil {
			return err
		}
		return d.audit(tx, p, "make-token", name, "")
	})
	return text, t, explain("access token", err)
}

// Tokens lists a person's access tokens.
func (d *Desk) Tokens(ctx context.Context, p Person) ([]store.AccessToken, error) {
	var out []store.AccessToken
	err := d.Store.DB(ctx).Where("user_id = ?", p.ID).Order("id").Find(&out).Error
	return out, explain("access tokens", err)
}

// DropToken ends one of a person's access tokens.
func (d *Desk) DropToken(ctx context.Context, p Person, id int64) error {
	r := d.Store.DB(ctx).Where("user_id = ? AND id = ?", p.ID, id).Delete(&store.AccessToken{})
	if r.Error == nil && r.RowsAffected == 0 {
		return problem(NotFound, "access token", "look at the list", "you have none with the number %d", id)
	}
	return explain("access token", r.Error)
}
