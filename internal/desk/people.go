package desk

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/store"
)

// NewUser makes an account.
func (d *Desk) NewUser(ctx context.Context, p Person, name, password string, role Role) error {
	if err := p.may(Admin, "user "+name); err != nil {
		return err
	}
	return d.makeUser(ctx, p, name, password, role)
}

func (d *Desk) makeUser(ctx context.Context, p Person, name, password string, role Role) error {
	if err := checkNewUser(name, password, role); err != nil {
		return err
	}
	row := newUser(name, password, role, d.Now())
	return explain("user "+name, d.Store.Tx(ctx, func(tx *store.Tx) error { return d.addUser(tx, p, row) }))
}

func checkNewUser(name, password string, role Role) error {
	if len(name) > maxUserName || item.CheckKey(name) != nil || strings.Contains(name, "/") {
		return problem(BadInput, "user "+cut(name, maxUserName),
			Form("ida-moor: up to 80 lower-case letters, digits and dashes"), "this cannot be a name to sign in with")
	}
	if role.rank() < 0 {
		return problem(BadInput, "user "+name, OneOf("viewer", "librarian", "keeper", "admin"), "there is no role %q",
			role)
	}
	return checkPasswordLength("user "+name, password)
}

func checkPasswordLength(what, password string) error {
	if len([]rune(password)) < MinPassword || len(password) > maxPassword {
		return problem(BadInput, what, To(ChooseOtherPassword, "least", fmt.Sprint(MinPassword)),
			"a password needs at least %d characters and at most %d bytes", MinPassword, maxPassword)
	}
	return nil
}

func newUser(name, password string, role Role, now time.Time) store.User {
	return store.User{Name: name, Role: string(role), Password: hashPassword(password), CreatedAt: now}
}

func (d *Desk) addUser(tx *store.Tx, p Person, row store.User) error {
	err := tx.Users().Create(&row)
	if store.IsDuplicate(err) {
		return problem(Exists, "user "+row.Name, To(ChooseOtherName), "there is already one")
	}
	if err != nil {
		return err
	}
	return d.audit(tx, p, "make-user", row.Name, row.Role)
}

// Users lists all accounts.
func (d *Desk) Users(ctx context.Context, p Person) ([]store.User, error) {
	if err := p.may(Admin, "users"); err != nil {
		return nil, err
	}
	out, err := d.Store.Read(ctx).Users().List()
	return out, explain("users", err)
}

// SetupLink gives the secret of a one-time link that makes the first admin, or
// "" when there are users already.
func (d *Desk) SetupLink(ctx context.Context) (string, error) {
	if n, err := d.Store.Read(ctx).Users().Count(); err != nil || n > 0 {
		return "", err
	}
	s, hash := secret("")
	err := d.Store.Tx(ctx, func(tx *store.Tx) error {
		return tx.SetupLinks().Replace(&store.SetupLink{Hash: hash, ExpiresAt: d.Now().Add(setupLife)})
	})
	return s, err
}

// Setup makes the first admin by a one-time link, which is used up first: of several who
// send it at once, one is the admin.
func (d *Desk) Setup(ctx context.Context, link, name, password string) error {
	if err := checkNewUser(name, password, Admin); err != nil {
		return err
	}
	row := newUser(name, password, Admin, d.Now())
	used := problem(Forbidden, "set-up", To(NewSetupLink), "this link was used or has expired")
	err := d.Store.Tx(ctx, func(tx *store.Tx) error {
		good, err := tx.SetupLinks().Use(hashSecret(link), d.Now())
		if err != nil {
			return err
		}
		n, err := tx.Users().Count()
		if err != nil {
			return err
		}
		if !good || n > 0 {
			return used
		}
		return d.addUser(tx, Person{Name: "set-up"}, row)
	})
	return explain("set-up", err)
}

// UserChange is what an admin changes of an account; nil leaves it.
type UserChange struct {
	Role     *Role
	Disabled *bool
	Password *string // a new one, for somebody who has lost theirs
}

// ChangeUser changes an account. One that is switched off, or gets another password, is
// signed out everywhere. There is always an admin.
func (d *Desk) ChangeUser(ctx context.Context, p Person, name string, c UserChange) (*store.User, error) {
	what := "user " + name
	if err := p.may(Admin, what); err != nil {
		return nil, err
	}
	var set store.UserChange
	var says []string
	if c.Role != nil {
		if c.Role.rank() < 0 {
			return nil, problem(BadInput, what, OneOf("viewer", "librarian", "keeper", "admin"), "there is no role %q",
				*c.Role)
		}
		role := string(*c.Role)
		set.Role = &role
		says = append(says, "role "+string(*c.Role))
	}
	if c.Disabled != nil {
		set.Disabled = c.Disabled
		says = append(says, map[bool]string{true: "switched off", false: "switched on"}[*c.Disabled])
	}
	if c.Password != nil {
		if err := checkPasswordLength(what, *c.Password); err != nil {
			return nil, err
		}
		hash := hashPassword(*c.Password)
		set.Password = &hash
		says = append(says, "new password")
	}
	if set.IsZero() {
		return nil, problem(BadInput, what, To(NameAChange), "no change was named")
	}
	var u store.User
	err := d.Store.Tx(ctx, func(tx *store.Tx) error {
		all, err := tx.Users().Lock()
		if err != nil {
			return err
		}
		i := slices.IndexFunc(all, func(x store.User) bool { return x.Name == name })
		if i < 0 {
			return store.ErrNotFound
		}
		if c.Role != nil {
			all[i].Role = string(*c.Role)
		}
		if c.Disabled != nil {
			all[i].Disabled = *c.Disabled
		}
		if !slices.ContainsFunc(all, func(x store.User) bool { return x.Role == string(Admin) && !x.Disabled }) {
			return problem(Refused, what, To(MakeOtherAdmin), "it is the last admin")
		}
		u = all[i]
		if err := tx.Users().Change(u.ID, set); err != nil {
			return err
		}
		if u.Disabled || c.Password != nil {
			if err := tx.SignOutEverywhere(u.ID); err != nil {
				return err
			}
		}
		return d.audit(tx, p, "change-user", name, strings.Join(says, ", "))
	})
	if err != nil {
		return nil, explain(what, err)
	}
	return &u, nil
}

// ChangePassword gives a person a new password; the old one must fit. All other sign-ins of
// theirs end.
func (d *Desk) ChangePassword(ctx context.Context, p Person, old, password string, from Device) error {
	if err := p.may(Viewer, "password"); err != nil {
		return err
	}
	if err := p.ownAccount("password"); err != nil {
		return err
	}
	if err := checkPasswordLength("password", password); err != nil {
		return err
	}
	giveBack, ok := d.limits.try(p.Name, from.Place, d.Now())
	if !ok {
		return problem(TooMany, "password", To(WaitAMinute), "there were too many attempts")
	}
	u, err := d.checkUser(ctx, p.Name, cut(old, maxPassword))
	if err != nil {
		return explain("password", err)
	}
	if u == nil {
		return problem(BadInput, "password", To(CheckAndRetry), "the old password is wrong")
	}
	giveBack()
	hash := hashPassword(password)
	return explain("password", d.Store.Tx(ctx, func(tx *store.Tx) error {
		if err := tx.Users().SwapPassword(u, hash); err != nil {
			return err
		}
		if err := tx.Sessions().EndOthers(u.ID, p.session); err != nil {
			return err
		}
		if err := tx.Tokens().EndOthers(u.ID, p.token); err != nil {
			return err
		}
		return d.audit(tx, p, "change-password", p.Name, "")
	}))
}

// ResetPassword gives an account a new password and switches it on, for whoever runs the
// service and needs nobody's leave.
func (d *Desk) ResetPassword(ctx context.Context, name, password string) error {
	what := "user " + name
	if err := checkPasswordLength(what, password); err != nil {
		return err
	}
	hash := hashPassword(password)
	return explain(what, d.Store.Tx(ctx, func(tx *store.Tx) error {
		u, err := tx.Users().ByName(name)
		if err != nil {
			return err
		}
		on := false
		if err := tx.Users().Change(u.ID, store.UserChange{Password: &hash, Disabled: &on}); err != nil {
			return err
		}
		if err := tx.SignOutEverywhere(u.ID); err != nil {
			return err
		}
		return d.audit(tx, Person{Name: "operator"}, "reset-password", name, "")
	}))
}
