package desk

import (
	"context"
	"strings"

	"compactparcel/core/item"
	"compactparcel/internal/store"

	"gorm.io/gorm"
)

// NewUser makes an account.
func (d *Desk) NewUser(ctx context.Context, p Person, name, password string, role Role) error {
	if err := p.may(Admin, "user "+name); err != nil {
		return err
	}
	return d.makeUser(ctx, p, name, password, role)
}

func (d *Desk) makeUser(ctx context.Context, p Person, name, password string, role Role) error {
	if item.CheckKey(name) != nil || strings.Contains(name, "/") || len(name) > 80 {
		return problem(BadInput, "user "+name, "use lower-case letters, digits and dashes", "this cannot be a name to sign in with")
	}
	if len([]rune(password)) < MinPassword {
		return problem(BadInput, "user "+name, "choose a longer one", "a password has at least %d characters", MinPassword)
	}
	if role.rank() < 0 {
		return problem(BadInput, "user "+name, "choose viewer, librarian, keeper or admin", "there is no role %q", role)
	}
	err := d.Store.Tx(ctx, func(tx *gorm.DB) error {
		if err := tx.Create(&store.User{Name: name, Role: string(role), Password: hashPassword(password), CreatedAt: d.Now()}).Error; err != nil {
			return err
		}
		return d.audit(tx, p, "make-user", name, string(role))
	})
	if store.IsDuplicate(err) {
		return problem(Exists, "user "+name, "choose another name", "there is one already")
	}
	return explain("user "+name, err)
}

// Users lists all accounts.
func (d *Desk) Users(ctx context.Context, p Person) ([]store.User, error) {
	if err := p.may(Admin, "users"); err != nil {
		return nil, err
	}
	var out []store.User
	err := d.Store.DB(ctx).Order("name").Find(&out).Error
	return out, explain("users", err)
}

// SetupLink gives the secret of a one-time link that makes the first admin, or
// "" when there are users already.
func (d *Desk) SetupLink(ctx context.Context) (string, error) {
	var n int64
	if err := d.Store.DB(ctx).Model(&store.User{}).Count(&n).Error; err != nil || n > 0 {
		return "", err
	}
	s, hash := secret("")
	err := d.Store.Tx(ctx, func(tx *gorm.DB) error {
		if err := tx.Where("TRUE").Delete(&store.SetupLink{}).Error; err != nil {
			return err
		}
		return tx.Create(&store.SetupLink{Hash: hash, ExpiresAt: d.Now().Add(setupLife)}).Error
	})
	return s, err
}

// Setup makes the first admin by a one-time link.
func (d *Desk) Setup(ctx context.Context, link, name, password string) error {
	var l store.SetupLink
	if err := d.Store.DB(ctx).Where("hash = ? AND expires_at > ?", hashSecret(link), d.Now()).Take(&l).Error; err != nil {
		return problem(Forbidden, "set-up", "start the service again for a new link, as long as there is no user", "this link was used, or its time is over")
	}
	if err := d.makeUser(ctx, Person{Name: "set-up"}, name, password, Admin); err != nil {
		return err
	}
	return d.Store.DB(ctx).Where("hash = ?", l.Hash).Delete(&store.SetupLink{}).Error
}
