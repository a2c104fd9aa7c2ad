package desk

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"compactparcel/internal/store"

	"gorm.io/gorm"
)

// ByToken gives who an access token belongs to, with no more rights than its scope.
func (d *Desk) ByToken(ctx context.Context, token string) (Person, error) {
	unknown := problem(NotSignedIn, "access token", To(SignInAgain), "it is not known here, or its time is over")
	if len(token) > maxSecret {
		return Person{}, unknown
	}
	var t store.AccessToken
	now := d.Now()
	err := d.Store.DB(ctx).
		Where("hash = ? AND (expires_at IS NULL OR expires_at > ?)", hashSecret(token), now).
		Take(&t).
		Error
	if errors.Is(err, store.ErrNotFound) {
		return Person{}, unknown
	}
	if err != nil {
		return Person{}, explain("access token", err)
	}
	if t.UsedAt == nil || now.Sub(*t.UsedAt) > time.Minute {
		if err := d.Store.DB(ctx).
			Model(&store.AccessToken{}).
			Where("id = ?", t.ID).
			Update("used_at", now).
			Error; err != nil {
			return Person{}, explain("access token", err)
		}
	}
	p, err := d.person(ctx, t.UserID)
	p.Role, p.bounded = weaker(p.Role, Role(t.Scope)), t.Scope != "" || t.ExpiresAt != nil
	return p, err
}

// maxSecret is the longest secret that is looked at, in bytes.
const maxSecret = 200

// MaxTokenLife is the longest time that a token with an end can have.
const MaxTokenLife = 5 * 365 * 24 * time.Hour

// TokenWish is an access token that somebody wants.
type TokenWish struct {
	Name string
	// Scope is the most that it may do; empty means all that its person may.
	Scope Role
	// Life is how long it lasts; 0 means until it is revoked.
	Life time.Duration
}

// NewToken makes an access token; its text is told only now. A token with a scope or an
// end makes no other, which could outlive it.
func (d *Desk) NewToken(ctx context.Context, p Person, w TokenWish) (string, *store.AccessToken, error) {
	if err := p.may(Viewer, "access token"); err != nil {
		return "", nil, err
	}
	if p.bounded {
		return "", nil, problem(Forbidden, "access token", To(SignInByPassword),
			"a token with a scope or an end makes no other")
	}
	if w.Name = strings.TrimSpace(w.Name); w.Name == "" || len(w.Name) > 80 {
		return "", nil, problem(BadInput, "access token", Form("web-room-laptop"), "its name has 1 to 80 bytes")
	}
	if w.Scope != "" && w.Scope.rank() < 0 {
		return "", nil, problem(BadInput, "access token", OneOf("viewer", "librarian", "keeper", "admin"),
			"there is no role %q", w.Scope)
	}
	if w.Life < 0 || w.Life > MaxTokenLife {
		return "", nil, problem(BadInput, "access token", Form("a number of days from 1 to 1825, or none"),
			"it cannot last so long, or has ended already")
	}
	if w.Scope != "" && p.Role.rank() < w.Scope.rank() {
		return "", nil, problem(Forbidden, "access token", To(ChooseSmallerScope, "role", string(p.Role)),
			"you have the role %s, so it cannot have more", p.Role)
	}
	text, hash := secret("cpt_")
	t := &store.AccessToken{UserID: p.ID, Name: w.Name, Hash: hash, Scope: string(w.Scope), CreatedAt: d.Now()}
	if w.Life > 0 {
		end := t.CreatedAt.Add(w.Life)
		t.ExpiresAt = &end
	}
	err := d.Store.Tx(ctx, func(tx *gorm.DB) error {
		if err := tx.Create(t).Error; err != nil {
			return err
		}
		return d.audit(tx, p, "make-token", w.Name, w.says())
	})
	return text, t, explain("access token", err)
}

func (w TokenWish) says() string {
	says := "all that its person may"
	if w.Scope != "" {
		says = "as " + string(w.Scope)
	}
	if w.Life > 0 {
		says += fmt.Sprintf(", for %d days", int(w.Life.Hours()/24))
	}
	return says
}

// whose gives whose things somebody asks for: their own, or by an admin another's.
func (d *Desk) whose(ctx context.Context, p Person, user, what string) (int64, error) {
	if err := p.may(Viewer, what); err != nil {
		return 0, err
	}
	if user == "" || user == p.Name {
		return p.ID, nil
	}
	if err := p.may(Admin, what+" of "+cut(user, maxUserName)); err != nil {
		return 0, err
	}
	var u store.User
	err := d.Store.DB(ctx).Where("name = ?", user).Take(&u).Error
	return u.ID, explain("user "+cut(user, maxUserName), err)
}

// Tokens lists somebody's access tokens: one's own when user is empty.
func (d *Desk) Tokens(ctx context.Context, p Person, user string) ([]store.AccessToken, error) {
	id, err := d.whose(ctx, p, user, "access tokens")
	if err != nil {
		return nil, err
	}
	var out []store.AccessToken
	err = d.Store.DB(ctx).Where("user_id = ?", id).Order("id").Find(&out).Error
	return out, explain("access tokens", err)
}

// DropToken ends an access token: one's own, or by an admin anybody's.
func (d *Desk) DropToken(ctx context.Context, p Person, id int64) error {
	if err := p.may(Viewer, "access token"); err != nil {
		return err
	}
	return explain("access token", d.Store.Tx(ctx, func(tx *gorm.DB) error {
		q := tx.Where("id = ?", id)
		if p.may(Admin, "") != nil {
			q = q.Where("user_id = ?", p.ID)
		}
		var t store.AccessToken
		err := q.Take(&t).Error
		if errors.Is(err, store.ErrNotFound) {
			return problem(NotFound, "access token", To(CheckName),
				"there is none with the number %d that you may end", id)
		}
		if err != nil {
			return err
		}
		if err := tx.Delete(&t).Error; err != nil {
			return err
		}
		return d.audit(tx, p, "drop-token", t.Name, "")
	}))
}

// SignedIn is one sign-in of a browser.
type SignedIn struct {
	ID        string
	Agent     string
	Place     string
	StartedAt time.Time
	SeenAt    time.Time // within a quarter of an hour
	ExpiresAt time.Time
	Here      bool // it is the one that asks
}

// Sessions lists somebody's sign-ins, the latest first: one's own when user is empty.
func (d *Desk) Sessions(ctx context.Context, p Person, user string) ([]SignedIn, error) {
	id, err := d.whose(ctx, p, user, "sign-ins")
	if err != nil {
		return nil, err
	}
	var rows []store.Session
	if err := d.Store.DB(ctx).
		Where("user_id = ? AND expires_at > ?", id, d.Now()).
		Order("created_at DESC").
		Find(&rows).
		Error; err != nil {
		return nil, explain("sign-ins", err)
	}
	var out []SignedIn
	seen := map[string]bool{}
	for _, r := range rows {
		if !seen[r.Family] { // the newest secret of a sign-in stands for it
			seen[r.Family] = true
			out = append(out,
				SignedIn{r.Family, r.Agent, r.Place, r.StartedAt, r.RenewedAt, r.ExpiresAt, r.Family == p.session})
		}
	}
	return out, nil
}

// EndSession ends one sign-in, or all but the one that asks when id is empty: one's own, or
// by an admin those of user.
func (d *Desk) EndSession(ctx context.Context, p Person, user, id string) error {
	who, err := d.whose(ctx, p, user, "sign-ins")
	if err != nil {
		return err
	}
	return explain("sign-ins", d.Store.Tx(ctx, func(tx *gorm.DB) error {
		q := tx.Where("user_id = ?", who)
		if id != "" {
			q = q.Where("family = ?", id)
		} else {
			q = q.Where("family <> ?", p.session)
		}
		r := q.Delete(&store.Session{})
		if r.Error != nil {
			return r.Error
		}
		if id != "" && r.RowsAffected == 0 {
			return problem(NotFound, "sign-in", To(CheckName), "there is none of this name, or it has ended")
		}
		return d.audit(tx, p, "end-session", user, id)
	}))
}
