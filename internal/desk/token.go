package desk

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"compactparcel/internal/store"
)

// ByToken gives who an access token belongs to, with no more rights than its scope.
func (d *Desk) ByToken(ctx context.Context, token string) (Person, error) {
	unknown := problem(NotSignedIn, "access token", To(SignInAgain), "it is unknown here or has expired")
	if len(token) > maxSecret {
		return Person{}, unknown
	}
	now := d.Now()
	t, err := d.Store.Read(ctx).Tokens().Valid(hashSecret(token), now)
	if errors.Is(err, store.ErrNotFound) {
		return Person{}, unknown
	}
	if err != nil {
		return Person{}, explain("access token", err)
	}
	if t.UsedAt == nil || now.Sub(*t.UsedAt) > time.Minute {
		if err := d.Store.Read(ctx).Tokens().Used(t.ID, now); err != nil {
			return Person{}, explain("access token", err)
		}
	}
	return d.personWith(ctx, t)
}

// personWith gives who comes with an access token, with the rights that it leaves them.
func (d *Desk) personWith(ctx context.Context, t *store.AccessToken) (Person, error) {
	p, err := d.person(ctx, t.UserID)
	p.Role, p.bounded = weaker(p.Role, Role(t.Scope)), t.Scope != "" || t.ExpiresAt != nil
	p.token, p.scoped = t.ID, t.Scope != ""
	return p, err
}

// ownAccount tells why somebody may not look after their account: with a token of a scope nobody does what one with
// that role alone could not do.
func (p Person) ownAccount(what string) error {
	if p.scoped {
		return problem(Forbidden, what, To(SignInByPassword),
			"a token that is limited to a role cannot look after the account that it belongs to")
	}
	return nil
}

// Again gives somebody as they may act now, by the sign-in or token that they came with: for what goes on after a
// request was admitted.
func (d *Desk) Again(ctx context.Context, p Person) (Person, error) {
	if p.token != 0 {
		t, err := d.Store.Read(ctx).Tokens().ByID(p.token, p.ID)
		if errors.Is(err, store.ErrNotFound) || err == nil && t.ExpiresAt != nil && !t.ExpiresAt.After(d.Now()) {
			return Person{}, problem(NotSignedIn, "access token", To(SignInAgain), "it has ended")
		}
		if err != nil {
			return Person{}, explain("access token", err)
		}
		now, err := d.personWith(ctx, t)
		now.Request = p.Request
		return now, err
	}
	there, err := d.Store.Read(ctx).Sessions().Lives(p.ID, p.session, d.Now())
	if err != nil {
		return Person{}, explain("session", err)
	}
	if !there {
		return Person{}, problem(NotSignedIn, "session", To(SignInAgain), "the session has ended")
	}
	now, err := d.person(ctx, p.ID)
	now.session, now.Request = p.session, p.Request
	return now, err
}

// maxSecret is the longest secret that is looked at, in bytes.
const maxSecret = 200

// MaxTokenLife is the longest time that a token with an end can have.
const MaxTokenLife = 5 * 365 * 24 * time.Hour

// TokenWish is an access token that somebody wants.
type TokenWish struct {
	Name string
	// Scope is the most that it may do; empty means everything its owner may do.
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
			"a token that is limited in scope or time cannot make another")
	}
	if w.Name = strings.TrimSpace(w.Name); w.Name == "" || len(w.Name) > 80 {
		return "", nil, problem(BadInput, "access token", Form("web-room-laptop"), "a name needs 1 to 80 bytes")
	}
	if w.Scope != "" && w.Scope.rank() < 0 {
		return "", nil, problem(BadInput, "access token", OneOf("viewer", "librarian", "keeper", "admin"),
			"there is no role %q", w.Scope)
	}
	if w.Life < 0 || w.Life > MaxTokenLife {
		return "", nil, problem(BadInput, "access token", Form("a number of days from 1 to 1825, or none"),
			"it would last too long, or has already ended")
	}
	if w.Scope != "" && p.Role.rank() < w.Scope.rank() {
		return "", nil, problem(Forbidden, "access token", To(ChooseSmallerScope, "role", string(p.Role)),
			"you have the role %s, and it cannot have a higher one", p.Role)
	}
	text, hash := secret("cpt_")
	t := &store.AccessToken{UserID: p.ID, Name: w.Name, Hash: hash, Scope: string(w.Scope), CreatedAt: d.Now()}
	if w.Life > 0 {
		end := t.CreatedAt.Add(w.Life)
		t.ExpiresAt = &end
	}
	err := d.Store.Tx(ctx, func(tx *store.Tx) error {
		if err := tx.Tokens().Create(t); err != nil {
			return err
		}
		return d.audit(tx, p, "make-token", w.Name, w.says())
	})
	return text, t, explain("access token", err)
}

func (w TokenWish) says() string {
	says := "everything its owner may do"
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
	if err := p.ownAccount(what); err != nil {
		return 0, err
	}
	if user == "" || user == p.Name {
		return p.ID, nil
	}
	if err := p.may(Admin, what+" of "+cut(user, maxUserName)); err != nil {
		return 0, err
	}
	u, err := d.Store.Read(ctx).Users().ByName(user)
	return u.ID, explain("user "+cut(user, maxUserName), err)
}

// Tokens lists somebody's access tokens: one's own when user is empty.
func (d *Desk) Tokens(ctx context.Context, p Person, user string) ([]store.AccessToken, error) {
	id, err := d.whose(ctx, p, user, "access tokens")
	if err != nil {
		return nil, err
	}
	out, err := d.Store.Read(ctx).Tokens().Of(id)
	return out, explain("access tokens", err)
}

// DropToken ends an access token: one's own, or by an admin anybody's.
func (d *Desk) DropToken(ctx context.Context, p Person, id int64) error {
	if err := p.may(Viewer, "access token"); err != nil {
		return err
	}
	if id != p.token { // it may end itself
		if err := p.ownAccount("access token"); err != nil {
			return err
		}
	}
	return explain("access token", d.Store.Tx(ctx, func(tx *store.Tx) error {
		of := p.ID
		if p.may(Admin, "") == nil {
			of = 0 // anybody's
		}
		t, err := tx.Tokens().ByID(id, of)
		if errors.Is(err, store.ErrNotFound) {
			return problem(NotFound, "access token", To(CheckName),
				"you have no token with the number %d", id)
		}
		if err != nil {
			return err
		}
		if err := tx.Tokens().Delete(t); err != nil {
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
	rows, err := d.Store.Read(ctx).Sessions().Of(id, d.Now())
	if err != nil {
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
	return explain("sign-ins", d.Store.Tx(ctx, func(tx *store.Tx) error {
		if id == "" {
			if err := tx.Sessions().EndOthers(who, p.session); err != nil {
				return err
			}
			return d.audit(tx, p, "end-session", user, id)
		}
		was, err := tx.Sessions().EndFamily(who, id)
		if err != nil {
			return err
		}
		if !was {
			return problem(NotFound, "sign-in", To(CheckName), "there is none of this name, or it has expired")
		}
		return d.audit(tx, p, "end-session", user, id)
	}))
}
