package desk

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"strings"
	"sync"
	"time"

	"compactparcel/internal/store"

	"golang.org/x/time/rate"
)

// Lifetimes of sign-ins.
const (
	SessionLife  = 14 * 24 * time.Hour
	SessionRenew = 15 * time.Minute // after which the cookie is rotated
	rotateGrace  = time.Minute      // for requests under way with the old cookie
	setupLife    = 24 * time.Hour
)

// limiter slows repeated sign-in attempts down, per name and per place.
type limiter struct {
	mu sync.Mutex
	by map[string]*rate.Limiter
}

func (l *limiter) allow(key string, burst int) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.by == nil || len(l.by) > 10_000 {
		l.by = map[string]*rate.Limiter{}
	}
	if l.by[key] == nil {
		l.by[key] = rate.NewLimiter(rate.Every(10*time.Second), burst)
	}
	return l.by[key].Allow()
}

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

// SignIn checks name and password and gives a session's secret.
func (d *Desk) SignIn(ctx context.Context, name, password, place string) (Person, string, error) {
	if !d.limits.allow("name "+strings.ToLower(name), 6) || !d.limits.allow("place "+place, 30) {
		return Person{}, "", problem(TooMany, "sign-in", "wait a minute, then try again", "there were too many attempts")
	}
	var u store.User
	err := d.Store.DB(ctx).Where("name = ? AND disabled = FALSE", name).Take(&u).Error
	if store.IsGone(err) {
		return Person{}, "", explain("sign-in", err)
	}
	hash := u.Password
	if err != nil {
		hash = nobody()
	}
	if !checkPassword(hash, password) || err != nil {
		return Person{}, "", problem(NotSignedIn, "sign-in", "check both, and try again", "name and password do not fit")
	}
	p := Person{ID: u.ID, Name: u.Name, Role: Role(u.Role)}
	s, err := d.newSession(ctx, u.ID)
	return p, s, err
}

func (d *Desk) newSession(ctx context.Context, user int64) (string, error) {
	s, hash := secret("")
	now := d.Now()
	if err := d.Store.DB(ctx).Where("expires_at < ?", now).Delete(&store.Session{}).Error; err != nil {
		return "", explain("sign-in", err)
	}
	row := store.Session{Hash: hash, UserID: user, CreatedAt: now, RenewedAt: now, ExpiresAt: now.Add(SessionLife)}
	return s, explain("sign-in", d.Store.DB(ctx).Create(&row).Error)
}

// BySession gives who a session's secret belongs to, and a new secret when it is
// time to rotate it.
func (d *Desk) BySession(ctx context.Context, secret string) (p Person, renewed string, err error) {
	var s store.Session
	now := d.Now()
	if err := d.Store.DB(ctx).Where("hash = ? AND expires_at > ?", hashSecret(secret), now).Take(&s).Error; err != nil {
		if store.IsGone(err) {
			return p, "", explain("session", err)
		}
		return p, "", problem(NotSignedIn, "session", "sign in again", "the session has ended")
	}
	if p, err = d.person(ctx, s.UserID); err != nil {
		return p, "", err
	}
	if now.Sub(s.RenewedAt) > SessionRenew {
		won := d.Store.DB(ctx).Model(&store.Session{}).Where("hash = ? AND renewed_at = ?", s.Hash, s.RenewedAt).Updates(map[string]any{"renewed_at": now, "expires_at": now.Add(rotateGrace)})
		if won.Error == nil && won.RowsAffected == 1 {
			renewed, err = d.newSession(ctx, s.UserID)
		}
	}
	return p, renewed, err
}

func (d *Desk) person(ctx context.Context, id int64) (Person, error) {
	var u store.User
	if err := d.Store.DB(ctx).Where("id = ? AND disabled = FALSE", id).Take(&u).Error; err != nil {
		return Person{}, problem(NotSignedIn, "session", "ask an admin", "this account is gone or switched off")
	}
	return Person{ID: u.ID, Name: u.Name, Role: Role(u.Role)}, nil
}

// SignOut ends a session.
func (d *Desk) SignOut(ctx context.Context, secret string) error {
	return explain("session", d.Store.DB(ctx).Where("hash = ?", hashSecret(secret)).Delete(&store.Session{}).Error)
}
