package desk

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"encoding/hex"
	"fmt"
	"strings"
	"sync"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/store"

	"golang.org/x/crypto/argon2"
	"golang.org/x/time/rate"
	"gorm.io/gorm"
)

// Lifetimes of sign-ins.
const (
	SessionLife  = 14 * 24 * time.Hour
	SessionRenew = 15 * time.Minute // after which the cookie is rotated
	rotateGrace  = time.Minute      // for requests under way with the old cookie
	setupLife    = 24 * time.Hour
)

// MinPassword is the shortest password, in characters.
const MinPassword = 10

// Password hashing parameters: argon2id, RFC 9106 and OWASP's second choice.
const (
	argonTime   = 2
	argonMemory = 19 * 1024
	argonLanes  = 1
)

func hashPassword(password string) string {
	var salt [16]byte
	rand.Read(salt[:])
	key := argon2.IDKey([]byte(password), salt[:], argonTime, argonMemory, argonLanes, 32)
	b64 := base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, argonMemory, argonTime, argonLanes, b64.EncodeToString(salt[:]), b64.EncodeToString(key))
}

func checkPassword(hash, password string) bool {
	parts := strings.Split(hash, "$")
	if len(parts) != 6 || parts[1] != "argon2id" {
		return false
	}
	var memory, t uint32
	var lanes uint8
	if _, err := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &memory, &t, &lanes); err != nil {
		return false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[4])
	want, err2 := base64.RawStdEncoding.DecodeString(parts[5])
	if err1 != nil || err2 != nil {
		return false
	}
	got := argon2.IDKey([]byte(password), salt, t, memory, lanes, uint32(len(want)))
	return subtle.ConstantTimeCompare(got, want) == 1
}

// nobody is checked when a name is unknown, so that the time tells nothing.
var nobody = sync.OnceValue(func() string { return hashPassword("nobody has this password") })

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
