package desk

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"strings"
	"time"

	"compactparcel/internal/store"
)

// Lifetimes of sign-ins.
const (
	SessionLife  = 14 * 24 * time.Hour
	SessionRenew = 15 * time.Minute // after which the cookie is rotated
	rotateGrace  = time.Minute      // for requests under way with the old cookie
	setupLife    = 24 * time.Hour
)

func secret(prefix string) (string, string) {
	var raw [32]byte
	rand.Read(raw[:])
	s := prefix + base64.RawURLEncoding.EncodeToString(raw[:])
	return s, hashSecret(s)
}

func hashSecret(s string) string {
	sum := sha256.Sum256([]byte(s))
	return hex.EncodeToString(sum[:])
}

// hashing bounds how many passwords are worked on at once: each takes 19 MB.
var hashing = make(chan struct{}, 4)

// checkSlowly is checkPassword, a few at a time.
func checkSlowly(ctx context.Context, hash, password string) (bool, error) {
	select {
	case hashing <- struct{}{}:
		defer func() { <-hashing }()
		return checkPassword(hash, password), nil
	case <-ctx.Done():
		return false, ctx.Err()
	}
}

// Limits of what is sent to sign in, in bytes.
const (
	maxUserName = 80
	maxPassword = 1000
)

// Device is what a sign-in comes from.
type Device struct {
	Place string // its address
	Agent string // what it calls itself
}

// SignIn checks name and password and gives a session's secret.
func (d *Desk) SignIn(ctx context.Context, name, password string, from Device) (Person, string, error) {
	if len(name) > maxUserName || len(password) > maxPassword {
		return Person{}, "", problem(BadInput, "sign-in", To(CheckAndRetry),
			"a name can have at most %d bytes, a password %d", maxUserName, maxPassword)
	}
	giveBack, ok := d.limits.try(name, from.Place, d.Now())
	if !ok {
		d.Log.Warn("sign-in refused: too many attempts", "place", from.Place)
		return Person{}, "", problem(TooMany, "sign-in", To(WaitAMinute), "there were too many attempts")
	}
	u, err := d.checkUser(ctx, name, password)
	if err != nil {
		return Person{}, "", explain("sign-in", err)
	}
	if u == nil {
		d.Log.Warn("sign-in refused: wrong name or password", "place", from.Place)
		return Person{}, "", problem(NotSignedIn, "sign-in", To(CheckAndRetry), "wrong name or password")
	}
	giveBack()
	p := Person{ID: u.ID, Name: u.Name, Role: Role(u.Role)}
	s, err := d.newSession(
		ctx,
		store.Session{
			UserID:    u.ID,
			Family:    store.NewID(),
			StartedAt: d.Now(),
			Place:     from.Place,
			Agent:     cut(from.Agent, 200),
		},
	)
	return p, s, explain("sign-in", err)
}

// checkUser gives the account of a name and its password; nil when they do not fit.
func (d *Desk) checkUser(ctx context.Context, name, password string) (*store.User, error) {
	u, err := d.Store.Read(ctx).Users().ActiveByName(name)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	hash := u.Password
	if err != nil {
		hash = nobody()
	}
	fits, failed := checkSlowly(ctx, hash, password)
	if failed != nil || err != nil || !fits {
		return nil, failed
	}
	return u, nil
}

// cut shortens a text to so many characters.
func cut(s string, n int) string {
	r := []rune(strings.ToValidUTF8(s, "�"))
	return string(r[:min(len(r), n)])
}

// newSession begins a session, or gives a running one a new secret.
func (d *Desk) newSession(ctx context.Context, row store.Session) (string, error) {
	s, hash := secret("")
	now := d.Now()
	row.Hash, row.CreatedAt, row.RenewedAt, row.ExpiresAt = hash, now, now, now.Add(SessionLife)
	return s, d.Store.Read(ctx).Sessions().Create(&row)
}

// BySession gives who a session's secret belongs to, and a new secret when it is
// time to rotate it.
func (d *Desk) BySession(ctx context.Context, secret string) (p Person, renewed string, err error) {
	now := d.Now()
	s, err := d.Store.Read(ctx).Sessions().Valid(hashSecret(secret), now)
	if errors.Is(err, store.ErrNotFound) {
		return p, "", problem(NotSignedIn, "session", To(SignInAgain), "the session has ended")
	}
	if err != nil {
		return p, "", explain("session", err)
	}
	if p, err = d.person(ctx, s.UserID); err != nil {
		return p, "", err
	}
	p.session = s.Family
	if now.Sub(s.RenewedAt) <= SessionRenew {
		return p, "", nil
	}
	switch err := d.Store.Read(ctx).Sessions().Retire(s, now, now.Add(rotateGrace)); {
	case errors.Is(err, store.ErrMoved): // another request of the same browser did it
		return p, "", nil
	case err != nil:
		return p, "", explain("session", err)
	}
	renewed, err = d.newSession(ctx, *s)
	return p, renewed, explain("session", err)
}

// person gives an account that may act. Only one that is not there, or is switched off, is
// not signed in.
func (d *Desk) person(ctx context.Context, id int64) (Person, error) {
	u, err := d.Store.Read(ctx).Users().Active(id)
	if errors.Is(err, store.ErrNotFound) {
		return Person{}, problem(NotSignedIn, "session", To(AskAdmin), "this account is gone or switched off")
	}
	if err != nil {
		return Person{}, explain("session", err)
	}
	return Person{ID: u.ID, Name: u.Name, Role: Role(u.Role)}, nil
}

// SignOut ends a session, with all its secrets.
func (d *Desk) SignOut(ctx context.Context, secret string) error {
	s, err := d.Store.Read(ctx).Sessions().ByHash(hashSecret(secret))
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err == nil {
		_, err = d.Store.Read(ctx).Sessions().EndFamily(s.UserID, s.Family)
	}
	return explain("session", err)
}
