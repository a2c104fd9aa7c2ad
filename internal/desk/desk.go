// Package desk holds the use cases: what a person does, one file each. Each
// checks the right, reads, calls the core, writes in one transaction, and says
// what happened.
package desk

import (
	"context"
	"log/slog"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/blob"
	"compactparcel/internal/mail"
	"compactparcel/internal/store"
)

// Role says what a person may do; each may do all that those before it may.
type Role string

// The roles.
const (
	Viewer    Role = "viewer"    // look
	Librarian Role = "librarian" // the library, kits, deliveries up to staging
	Keeper    Role = "keeper"    // change sites
	Admin     Role = "admin"     // people
)

// Roles lists the roles from the least to the most.
var Roles = []Role{Viewer, Librarian, Keeper, Admin}

func (r Role) rank() int {
	for i, x := range Roles {
		if x == r {
			return i
		}
	}
	return -1
}

// Person is who acts.
type Person struct {
	ID      int64
	Name    string
	Role    Role
	Request string // the request's id, for the audit

	session string // the sign-in it comes from, if any
	token   int64  // the access token it comes with, if any
	bounded bool   // that has a scope or an end
	scoped  bool   // that has a scope
}

// weaker is the lesser of two roles; an empty one counts as the greatest.
func weaker(a, b Role) Role {
	if b == "" || a != "" && a.rank() < b.rank() {
		return a
	}
	return b
}

// May gives a problem unless the person has at least a role: for the floor above, which asks
// before it reads what was sent. Each use case asks again.
func (p Person) May(needed Role, what string) error { return p.may(needed, what) }

// SignedIn names the sign-in that a person's request comes from; "" of a token.
func (p Person) SignedIn() string { return p.session }

// may gives a problem unless the person has at least a role.
func (p Person) may(needed Role, what string) error {
	if p.Name == "" {
		return problem(NotSignedIn, what, To(SignInAgain), "nobody is signed in")
	}
	if p.Role.rank() < needed.rank() {
		return problem(Forbidden, what, To(AskForRole, "role", string(needed)),
			"%s has the role %s; this needs the role %s", p.Name, p.Role, needed)
	}
	return nil
}

// Desk is where use cases are done.
type Desk struct {
	Store *store.Store
	Log   *slog.Logger
	Now   func() time.Time
	// Scratch holds the files of requests; nil means the system's folder.
	Scratch *blob.Scratch
	// OutletRoot is the folder below which sites are published by going live; empty
	// means that there are no outlets.
	OutletRoot string

	// FormsAt is where forms of visitors are received, as browsers see it; empty: nowhere.
	FormsAt string
	// SweepMore removes what others than the desk keep; it may be nil.
	SweepMore func(context.Context) error
	// KitFaces gives pictures of items of a kit in the making, those that are ready before the context ends;
	// nil: none are made.
	KitFaces func(ctx context.Context, version int64, list []item.Address) map[item.Address][]byte
	// RunPage gives a page of the live site as documents, as it is once its scripts have run, and at how many widths it
	// is still to be run; nil: none is.
	RunPage func(ctx context.Context, site, slug string) (docs [][]byte, waiting int, err error)
	// Mails sends mails; nil: there is no mail server.
	Mails mail.Sender

	limits       limiter
	formLimits   limiter
	answerLimits limiter

	blends     *blendMemory
	goingOn    background
	publishing locks // one publication of a site at a time
	mailPause  mailPause
	pictures   chan struct{} // as many as are worked on at once
}

// New makes a desk.
func New(s *store.Store, log *slog.Logger) *Desk {
	return &Desk{
		Store:        s,
		Log:          log,
		Now:          func() time.Time { return time.Now().UTC().Truncate(time.Microsecond) },
		blends:       newBlendMemory(),
		pictures:     make(chan struct{}, picturesAtOnce),
		limits:       limiter{perName: signInName, perPlace: signInPlace},
		formLimits:   limiter{perName: oneForm, perPlace: allForms},
		answerLimits: limiter{perName: answered, perPlace: answered},
	}
}

// audit writes who did what, in the transaction of what was done.
func (d *Desk) audit(tx *store.Tx, p Person, act, subject, says string) error {
	return tx.Audit(&store.AuditEvent{
		At: d.Now(), ByUser: p.Name, Act: act, Subject: subject, Message: says, RequestID: p.Request,
	})
}

// site gives a site by name.
func (d *Desk) site(ctx context.Context, name string) (*store.Collection, error) {
	c, err := d.Store.Read(ctx).Collections().ByName(store.Site, name)
	if err != nil {
		return nil, explain("site "+name, err)
	}
	return c, nil
}

// collection gives a site by name, or the library by the name "library".
func (d *Desk) collection(ctx context.Context, name string) (*store.Collection, error) {
	if name == LibraryName {
		return d.library(ctx)
	}
	return d.site(ctx, name)
}
