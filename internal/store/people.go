package store

import (
	"time"

	"gorm.io/gorm/clause"
)

// Users is the repository of accounts.
type Users struct{ t *Tx }

// Users gives the accounts.
func (t *Tx) Users() Users { return Users{t} }

// Create keeps a new account. Its error is a duplicate (IsDuplicate) where the name is taken.
func (r Users) Create(u *User) error { return r.t.db.Create(u).Error }

// Count counts the accounts.
func (r Users) Count() (int64, error) {
	var n int64
	err := r.t.db.Model(&User{}).Count(&n).Error
	return n, err
}

// List gives all accounts by name.
func (r Users) List() ([]User, error) {
	return all[User](r.t.db.Order("name"))
}

// Lock takes all accounts for this transaction, so that two admins do not switch each other
// off, and gives them as they are now.
func (r Users) Lock() ([]User, error) {
	return all[User](r.t.db.Clauses(clause.Locking{Strength: "UPDATE"}).Order("id"))
}

// ByName gives an account; ErrNotFound where there is none.
func (r Users) ByName(name string) (*User, error) {
	return one[User](r.t.db.Where("name = ?", name))
}

// Active gives an account that is not switched off.
func (r Users) Active(id int64) (*User, error) {
	return one[User](r.t.db.Where("id = ? AND disabled = FALSE", id))
}

// ActiveByName is Active by name.
func (r Users) ActiveByName(name string) (*User, error) {
	return one[User](r.t.db.Where("name = ? AND disabled = FALSE", name))
}

// UserChange is what changes of an account; what is nil stays.
type UserChange struct {
	Role, Password *string
	Disabled       *bool
}

// IsZero tells that nothing changes.
func (c UserChange) IsZero() bool { return c.Role == nil && c.Password == nil && c.Disabled == nil }

// Change changes an account.
func (r Users) Change(id int64, c UserChange) error {
	set := map[string]any{}
	if c.Role != nil {
		set["role"] = *c.Role
	}
	if c.Password != nil {
		set["password"] = *c.Password
	}
	if c.Disabled != nil {
		set["disabled"] = *c.Disabled
	}
	return r.t.db.Model(&User{}).Where("id = ?", id).Updates(set).Error
}

// SwapPassword gives an account another password if it still has the one that u has.
func (r Users) SwapPassword(u *User, password string) error {
	return swap(r.t.db.Model(&User{}).Where("id = ? AND password = ?", u.ID, u.Password),
		map[string]any{"password": password})
}

// Sessions is the repository of sign-ins of browsers.
type Sessions struct{ t *Tx }

// Sessions gives the sign-ins.
func (t *Tx) Sessions() Sessions { return Sessions{t} }

// Create keeps a new sign-in, or a renewed one.
func (r Sessions) Create(s *Session) error { return r.t.db.Create(s).Error }

// Valid gives the sign-in of a secret's hash that has not ended.
func (r Sessions) Valid(hash string, now time.Time) (*Session, error) {
	return one[Session](r.t.db.Where("hash = ? AND expires_at > ?", hash, now))
}

// ByHash gives a sign-in, ended or not.
func (r Sessions) ByHash(hash string) (*Session, error) {
	return one[Session](r.t.db.Where("hash = ?", hash))
}

// Retire lets a secret end soon, since another takes its place; ErrMoved when somebody else
// has done so already.
func (r Sessions) Retire(s *Session, now, end time.Time) error {
	return swap(r.t.db.Model(&Session{}).Where("hash = ? AND renewed_at = ?", s.Hash, s.RenewedAt),
		map[string]any{"renewed_at": now, "expires_at": end})
}

// Of lists a user's sign-ins that have not ended, the newest first.
func (r Sessions) Of(user int64, now time.Time) ([]Session, error) {
	return all[Session](r.t.db.Where("user_id = ? AND expires_at > ?", user, now).Order("created_at DESC"))
}

// Lives tells whether a sign-in of a user has not ended.
func (r Sessions) Lives(user int64, family string, now time.Time) (there bool, err error) {
	var n int64
	err = r.t.db.Model(&Session{}).Where("user_id = ? AND family = ? AND expires_at > ?", user, family, now).
		Count(&n).Error
	return n > 0, err
}

// SignOutEverywhere ends all sign-ins and all access tokens of a user.
func (t *Tx) SignOutEverywhere(user int64) error {
	if err := t.db.Where("user_id = ?", user).Delete(&Session{}).Error; err != nil {
		return err
	}
	return t.Tokens().EndOthers(user, 0)
}

// EndFamily ends one sign-in of a user, all its secrets, and tells whether it was there.
func (r Sessions) EndFamily(user int64, family string) (bool, error) {
	x := r.t.db.Where("user_id = ? AND family = ?", user, family).Delete(&Session{})
	return x.RowsAffected > 0, x.Error
}

// EndOthers ends all sign-ins of a user but one.
func (r Sessions) EndOthers(user int64, family string) error {
	return r.t.db.Where("user_id = ? AND family <> ?", user, family).Delete(&Session{}).Error
}

// Tokens is the repository of access tokens.
type Tokens struct{ t *Tx }

// Tokens gives the access tokens.
func (t *Tx) Tokens() Tokens { return Tokens{t} }

// Create keeps a new token.
func (r Tokens) Create(x *AccessToken) error { return r.t.db.Create(x).Error }

// Valid gives the token of a hash that has not ended.
func (r Tokens) Valid(hash string, now time.Time) (*AccessToken, error) {
	return one[AccessToken](r.t.db.Where("hash = ? AND (expires_at IS NULL OR expires_at > ?)", hash, now))
}

// Used notes that a token was used.
func (r Tokens) Used(id int64, now time.Time) error {
	return r.t.db.Model(&AccessToken{}).Where("id = ?", id).Update("used_at", now).Error
}

// Of lists a user's tokens.
func (r Tokens) Of(user int64) ([]AccessToken, error) {
	return all[AccessToken](r.t.db.Where("user_id = ?", user).Order("id"))
}

// ByID gives a token: of one user, or of any where user is 0.
func (r Tokens) ByID(id, user int64) (*AccessToken, error) {
	q := r.t.db.Where("id = ?", id)
	if user != 0 {
		q = q.Where("user_id = ?", user)
	}
	return one[AccessToken](q)
}

// EndOthers ends all tokens of a user but one.
func (r Tokens) EndOthers(user, token int64) error {
	return r.t.db.Where("user_id = ? AND id <> ?", user, token).Delete(&AccessToken{}).Error
}

// Delete ends a token.
func (r Tokens) Delete(x *AccessToken) error { return r.t.db.Delete(x).Error }

// SetupLinks is the repository of the one-time link.
type SetupLinks struct{ t *Tx }

// SetupLinks gives the one-time link.
func (t *Tx) SetupLinks() SetupLinks { return SetupLinks{t} }

// Replace puts a link in the place of any other.
func (r SetupLinks) Replace(l *SetupLink) error {
	if err := r.t.db.Where("TRUE").Delete(&SetupLink{}).Error; err != nil {
		return err
	}
	return r.t.db.Create(l).Error
}

// Use takes a link that has not ended away, and tells whether it was there.
func (r SetupLinks) Use(hash string, now time.Time) (bool, error) {
	x := r.t.db.Where("hash = ? AND expires_at > ?", hash, now).Delete(&SetupLink{})
	return x.RowsAffected == 1, x.Error
}
