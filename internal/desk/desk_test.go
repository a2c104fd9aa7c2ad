package desk_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"io"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/making"
	"compactparcel/core/plan"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var (
	ctx       = context.Background()
	nobody    = desk.Person{}
	viewer    = desk.Person{ID: 101, Name: "visitor", Role: desk.Viewer}
	librarian = desk.Person{ID: 102, Name: "tomas", Role: desk.Librarian}
	keeper    = desk.Person{ID: 103, Name: "ida", Role: desk.Keeper}
	admin     = desk.Person{ID: 104, Name: "warden", Role: desk.Admin}
)

func folderOf(in map[string]string) fstest.MapFS {
	out := fstest.MapFS{}
	for p, text := range in {
		out[p] = &fstest.MapFile{Data: []byte(text)}
	}
	return out
}

func problem(t *testing.T, err error, want desk.ProblemType, says string) {
	t.Helper()
	var p *desk.Problem
	require.ErrorAs(t, err, &p)
	assert.Equal(t, want, p.Type, p.Error())
	assert.Contains(t, p.Error(), says)
	assert.NotEmpty(t, p.Remedy.Code, "every problem has a remedy: %s", p.Error())
}

func address(s string) item.Address { return item.MustAddress(s) }

const header = `{"format":1,"items":[{"kind":"page","key":"home","slug":"/"},{"kind":"part","key":"top",` +
	`"role":"header","styles":["stylesheet/base"]}],"style-order":["stylesheet/base"]}`

func newDesk(t *testing.T) *desk.Desk {
	d := desk.New(harness.Records(t), slog.New(slog.DiscardHandler))
	for name, words := range map[string]string{"one": "One", "two": "Two"} {
		_, err := d.Adopt(
			ctx,
			keeper,
			name,
			folderOf(map[string]string{
				"site.json":            header,
				"settings.json":        `{"title":"` + words + `"}`,
				"pages/home.html":      "<!doctype html><html><body>" + words + "</body></html>",
				"surround/top.html":    `<header class="top"><cp-menu name="main"></cp-menu></header>`,
				"menus/main.json":      `{"title":"` + words + `","entries":[]}`,
				"stylesheets/base.css": ".top{color:red}.rest{top:0}",
			}),
			desk.PartsNone,
		)
		require.NoError(t, err)
	}
	return d
}

func TestRights(t *testing.T) {
	d := newDesk(t)
	acts := []struct {
		name  string
		needs desk.Person
		act   func(p desk.Person) error
	}{
		{"looking", viewer, func(p desk.Person) error { _, err := d.Sites(ctx, p); return err }},
		{
			"the library",
			viewer,
			func(p desk.Person) error { _, _, err := d.Library(ctx, p, desk.LibraryQuery{}); return err },
		},
		{"kits", viewer, func(p desk.Person) error { _, err := d.Kits(ctx, p); return err }},
		{"saving", librarian, func(p desk.Person) error {
			_, err := d.LibraryAdd(ctx, p, "one", []item.Address{address("part/top")})
			return err
		}},
		{"beginning a kit", librarian, func(p desk.Person) error {
			_, err := d.NewKit(ctx, p, "rights", "1.0.0", making.Draft{})
			return err
		}},
		{
			"uploading",
			librarian,
			func(p desk.Person) error {
				_,
					err := d.KitUpload(ctx, p, strings.NewReader("x"), "", "")
				return err
			},
		},
		{"adopting", keeper, func(p desk.Person) error {
			_, err := d.Adopt(ctx, p, "UPPER", folderOf(nil), desk.PartsNone)
			return err
		}},
		{"editing", keeper, func(p desk.Person) error {
			_, err := d.EditItem(ctx, p, desk.Edit{Site: "one", Address: address("block/none"), Delete: true})
			return err
		}},
		{"going live", keeper, func(p desk.Person) error { _, err := d.GoLive(ctx, p, "one", 999); return err }},
		{"discarding", keeper, func(p desk.Person) error { return d.Discard(ctx, p, "one", 999) }},
		{
			"undoing",
			keeper,
			func(p desk.Person) error { _, err := d.DeliveryUndo(ctx, p, 999, desk.Undo{}); return err },
		},
		{"people", admin, func(p desk.Person) error { _, err := d.Users(ctx, p); return err }},
		{
			"making an account",
			admin,
			func(p desk.Person) error { return d.NewUser(ctx, p, "x", "short", desk.Viewer) },
		},
	}
	for _, a := range acts {
		problem(t, a.act(nobody), desk.NotSignedIn, "nobody is signed in")
		below := true
		for _, p := range []desk.Person{viewer, librarian, keeper, admin} {
			below = below && p.Role != a.needs.Role
			var pr *desk.Problem
			err := a.act(p)
			forbidden := errors.As(err, &pr) && pr.Type == desk.Forbidden
			assert.Equal(t, below, forbidden, "%s by a %s: %v", a.name, p.Role, err)
		}
	}
}

func TestTheLibraryKeepsPiecesOfTheSameNameApart(t *testing.T) {
	d := newDesk(t)
	_, err := d.LibraryAdd(ctx, librarian, "one", []item.Address{address("part/top")})
	require.NoError(t, err)
	saved, err := d.LibraryAdd(ctx, librarian, "two", []item.Address{address("part/top")})
	require.NoError(t, err)
	assert.Equal(t, address("menu/two-main"), saved.Moved[address("menu/main")],
		"another menu of this name came from site one")
	it, err := d.Item(ctx, viewer, desk.LibraryName, address("menu/two-main"), 0)
	require.NoError(t, err)
	assert.Contains(t, string(it.Content), "Two")
	again, err := d.LibraryAdd(ctx, librarian, "one", []item.Address{address("part/top")})
	require.NoError(t, err)
	assert.Empty(t, again.Added, "saved again, unchanged")
	sheet, err := d.Item(ctx, viewer, desk.LibraryName, address("stylesheet/base"), 0)
	require.NoError(t, err)
	assert.Contains(t, string(sheet.Content), ".rest", "a sheet that other pieces will lean on comes whole")
	found, _, err := d.Library(ctx, viewer, desk.LibraryQuery{Words: "top", Kind: "part"})
	require.NoError(t, err)
	assert.NotEmpty(t, found)
	_, err = d.LibraryAdd(ctx, librarian, "one", []item.Address{address("part/none")})
	problem(t, err, desk.NotFound, "part/none")
}

func TestAKitInTheMaking(t *testing.T) {
	d := newDesk(t)
	_, err := d.NewKit(ctx, librarian, "Bad Name", "1.0.0", making.Draft{})
	problem(t, err, desk.BadInput, "Bad Name")
	_, err = d.NewKit(ctx, librarian, "tops", "1.0.0", making.Draft{Title: "Tops"})
	require.NoError(t, err)
	_, err = d.NewKit(ctx, librarian, "tops", "1.0.0", making.Draft{})
	problem(t, err, desk.Exists, "this version")
	_, err = d.KitSeal(ctx, librarian, "tops", "1.0.0", 0, "")
	problem(t, err, desk.NotClean, "the kit is empty")
	_, err = d.KitAdd(ctx, librarian, "tops", "1.0.0", []making.Pick{{From: "one", Address: address("part/none")}})
	problem(t, err, desk.NotFound, "one has no part/none")
	k, err := d.KitAdd(ctx, librarian, "tops", "1.0.0",
		[]making.Pick{{From: "one", Address: address("part/top")}, {From: "two", Address: address("menu/main")}})
	require.NoError(t, err)
	assert.Contains(t, k.Check[0].Message, "two sources have different items")
	_, err = d.KitSeal(ctx, librarian, "tops", "1.0.0", 0, "")
	problem(t, err, desk.NotClean, "two sources")
	k, err = d.KitExclude(ctx, librarian, "tops", "1.0.0", address("menu/main"), false)
	require.NoError(t, err)
	_, err = d.KitExclude(ctx, librarian, "tops", "1.0.0", address("menu/none"), false)
	problem(t, err, desk.NotFound, "was not added")
	_, err = d.KitDescribe(
		ctx,
		librarian,
		"tops",
		"1.0.0",
		0,
		func(w *making.Draft) { w.Fillins = map[string]kit.Fillin{"x": {Label: "X", Type: "smell"}} },
	)
	problem(t, err, desk.BadInput, "known type")
	_, err = d.KitSeal(ctx, librarian, "tops", "1.0.0", k.Etag-1, "")
	problem(t, err, desk.Stale, "since you checked it")
	_, _, err = d.KitFile(ctx, viewer, "tops", "1.0.0")
	problem(t, err, desk.Refused, "not sealed yet")
	k, err = d.KitSeal(ctx, librarian, "tops", "1.0.0", k.Etag, "")
	require.NoError(t, err)
	assert.Equal(t, desk.Sealed, k.State)
	_, err = d.KitSeal(ctx, librarian, "tops", "1.0.0", 0, "")
	problem(t, err, desk.Refused, "already sealed")
	f, v, err := d.KitFile(ctx, viewer, "tops", "1.0.0")
	require.NoError(t, err)
	b, err := io.ReadAll(f)
	f.Close()
	require.NoError(t, err)
	assert.EqualValues(t, v.FileBytes, len(b))
	first, err := d.KitNextVersion(ctx, viewer, "tops", "1.0.0")
	require.NoError(t, err)
	assert.EqualValues(t, "first", first.Step)
	assert.True(t, first.Enough)
	_, err = d.NewKit(ctx, librarian, "tops", "1.0.1", making.Draft{Title: "Tops"})
	require.NoError(t, err)
	next, err := d.KitAdd(ctx, librarian, "tops", "1.0.1",
		[]making.Pick{{From: "two", Address: address("menu/main")}})
	require.NoError(t, err)
	advice, err := d.KitNextVersion(ctx, viewer, "tops", "1.0.1")
	require.NoError(t, err)
	assert.EqualValues(t, "major", advice.Step, "the part is gone")
	assert.Equal(t, "2.0.0", advice.Next)
	assert.False(t, advice.Enough)
	_, err = d.KitSeal(ctx, librarian, "tops", "1.0.1", next.Etag, "  ")
	problem(t, err, desk.NotClean, "ask for 2.0.0: part/top is gone")
	_, err = d.KitSeal(ctx, librarian, "tops", "1.0.1", next.Etag, "nobody leaned on it")
	require.NoError(t, err)
	var said string
	require.NoError(
		t,
		d.Store.DB(ctx).
			Raw("SELECT message FROM audit_events WHERE act = 'seal' ORDER BY id DESC LIMIT 1").
			Scan(&said).
			Error,
	)
	assert.Contains(t, said, "nobody leaned on it", "the reason is recorded")
	sealed, err := d.KitNextVersion(ctx, viewer, "tops", "1.0.1")
	require.NoError(t, err)
	assert.Equal(t, advice.Next, sealed.Next, "of a sealed version the same is told")
	_, err = d.KitNextVersion(ctx, viewer, "tops", "9.0.0")
	problem(t, err, desk.NotFound, "does not exist")
	again, err := d.KitUpload(ctx, librarian, bytes.NewReader(b), "", "")
	require.NoError(t, err, "the very same kit may come in again")
	assert.Equal(t, k.Digest, again.Kits[0].Digest)
	it, err := d.KitItem(ctx, viewer, "tops", "1.0.0", address("menu/main"))
	require.NoError(t, err)
	assert.Contains(t, string(it.Content), "One")
}

func TestADelivery(t *testing.T) {
	d := newDesk(t)
	_, err := d.NewKit(ctx, librarian, "tops", "1.0.0",
		making.Draft{Title: "Tops", Terms: kit.Terms{License: "CC0-1.0"}})
	require.NoError(t, err)
	_, err = d.KitAdd(ctx, librarian, "tops", "1.0.0", []making.Pick{{From: "one", Address: address("part/top")}})
	require.NoError(t, err)
	_, err = d.KitSeal(ctx, librarian, "tops", "1.0.0", 0, "")
	require.NoError(t, err)
	site := func() *store.Collection {
		c, err := d.Store.Read(ctx).Collections().ByName(store.Site, "two")
		require.NoError(t, err)
		return c
	}
	before := site().Digest
	_, err = d.DeliveryOpen(ctx, librarian, "tops", "9.0.0", "two", plan.Request{})
	problem(t, err, desk.NotFound, "tops@9.0.0")
	_, err = d.DeliveryOpen(ctx, librarian, "tops", "1.0.0", "two", plan.Request{Policy: "reckless"})
	problem(t, err, desk.BadDecision, "no policy")
	all, err := d.Deliveries(ctx, viewer)
	require.NoError(t, err)
	assert.Empty(t, all, "what does not fit leaves no trace")

	del, err := d.DeliveryOpen(ctx, librarian, "tops", "1.0.0", "two", plan.Request{})
	require.NoError(t, err)
	require.Len(t, del.Planned.Questions, 1, "the menu: a class that differs is kept apart, unasked")
	del, err = d.DeliveryDecide(
		ctx,
		librarian,
		del.ID,
		del.Etag,
		&desk.Answer{
			Decisions: map[string]plan.Decided{
				"menu/main": {Decision: plan.Take},
			},
		},
	)
	require.NoError(t, err)
	assert.NotEmpty(t, del.Asked.Decisions["menu/main"].SubjectDigest, "a decision is bound to what it is about")
	del, err = d.DeliveryDecide(ctx, librarian, del.ID, 0,
		&desk.Answer{Decisions: map[string]plan.Decided{"menu/main": {}}})
	require.NoError(t, err)
	assert.Len(t, del.Planned.Questions, 1, "taken back")
	_, err = d.DeliveryDecide(ctx, librarian, del.ID, 1, &desk.Answer{})
	problem(t, err, desk.Stale, "since you read it")
	del, err = d.DeliveryDecide(ctx, librarian, del.ID, 0,
		&desk.Answer{Decisions: map[string]plan.Decided{"menu/main": {Decision: plan.Take}}})
	require.NoError(t, err)
	_, err = d.DeliveryStage(ctx, librarian, del.ID, item.DigestOf([]byte("another plan")))
	problem(t, err, desk.Stale, "since the plan was made")
	del, err = d.DeliveryStage(ctx, librarian, del.ID, del.PlanDigest)
	require.NoError(t, err)
	again, err := d.DeliveryStage(ctx, librarian, del.ID, "")
	require.NoError(t, err, "staging twice is staging once")
	assert.Equal(t, del.DraftID, again.DraftID)
	_, err = d.DeliveryDecide(ctx, librarian, del.ID, 0, &desk.Answer{Fills: map[string]string{"x": "y"}})
	problem(t, err, desk.BadDecision, "no fill-in of this name")
	_, err = d.GoLive(ctx, keeper, "one", *del.DraftID)
	problem(t, err, desk.NotFound, "not a draft of one")
	_, err = d.GoLive(ctx, keeper, "two", *del.DraftID)
	require.NoError(t, err, "a delivery's draft goes live with its receipt")
	del, err = d.Delivery(ctx, viewer, del.ID)
	require.NoError(t, err)
	assert.Equal(t, desk.Live, del.State)
	assert.NotEqual(t, before, site().Digest)
	assert.Equal(t, before, del.Receipted.Before)
	assert.Equal(t, site().Digest, del.Receipted.After)
	_, err = d.DeliveryUndo(ctx, keeper, del.ID, desk.Undo{})
	require.NoError(t, err)
	assert.Equal(t, before, site().Digest)
	history, err := d.History(ctx, viewer, "two", 0)
	require.NoError(t, err)
	var acts []string
	for _, r := range history {
		acts = append(acts, r.Act)
	}
	assert.Equal(t, []string{"undo", "deliver", "adopt"}, acts)
	var said int64
	require.NoError(t,
		d.Store.DB(ctx).Model(&store.AuditEvent{}).Where("by_user = 'ida' AND act = 'undo'").Count(&said).Error)
	assert.EqualValues(t, 1, said)
}

func TestFoldersAndZipsOfStrangers(t *testing.T) {
	d := newDesk(t)
	for _, name := range []string{"UPPER", "a/b", "a--b", "library", "a.b", strings.Repeat("x", 40), ""} {
		t.Run(name, func(t *testing.T) {
			_, err := d.Adopt(ctx, keeper, name, folderOf(map[string]string{"index.html": "x"}), desk.PartsNone)
			problem(t, err, desk.BadInput, "name")
		})
	}
	_, err := d.Adopt(ctx, keeper, "one", folderOf(map[string]string{"index.html": "x"}), desk.PartsNone)
	problem(t, err, desk.Exists, "already")
	_, err = d.Adopt(ctx, keeper, "three", folderOf(map[string]string{"site.json": "{"}), desk.PartsNone)
	problem(t, err, desk.BadInput, "site.json")
	_, err = d.Site(ctx, viewer, "three")
	problem(t, err, desk.NotFound, "does not exist")
	zipped := func(names ...string) (*bytes.Reader, int64) {
		var b bytes.Buffer
		w := zip.NewWriter(&b)
		for _, n := range names {
			f, err := w.Create(n)
			require.NoError(t, err)
			f.Write([]byte("<!doctype html>"))
		}
		require.NoError(t, w.Close())
		return bytes.NewReader(b.Bytes()), int64(b.Len())
	}
	r, n := zipped("my-site/index.html", "my-site/a/b.html")
	inner, err := desk.ZipFolder(r, n)
	require.NoError(t, err)
	got, err := d.Adopt(ctx, keeper, "zipped", inner, desk.PartsNone)
	require.NoError(t, err)
	assert.Equal(t, 2, got.Site.Pages, "a single outer folder is looked into")
	assert.Equal(t, folder.LayoutStaticSite, got.Report.Layout)
	r, n = zipped("my-site/index.html", "__MACOSX/my-site/._index.html", ".note")
	inner, err = desk.ZipFolder(r, n)
	require.NoError(t, err)
	assert.FileExists(t, writeOut(t, inner, "index.html"), "what machines put beside it does not count")
	r, n = zipped("en/index.html")
	whole := append([]byte{}, readAll(t, r)...)
	whole = append(whole[:len(whole)-2], byte(len(folder.ZipAsItIs)), 0)
	whole = append(whole, folder.ZipAsItIs...)
	outer, err := desk.ZipFolder(bytes.NewReader(whole), n+int64(len(folder.ZipAsItIs)))
	require.NoError(t, err)
	assert.FileExists(t, writeOut(t, outer, "en/index.html"), "the client's zip is the root as it is")
	r, n = zipped("../out.html")
	_, err = desk.ZipFolder(r, n)
	problem(t, err, desk.Refused, "../out.html")
	_, err = desk.ZipFolder(strings.NewReader("no zip"), 6)
	problem(t, err, desk.Refused, "cannot be read as a zip")
	var out bytes.Buffer
	rel, _, err := d.PublishZip(ctx, viewer, desk.Publication{Site: "zipped"}, &out)
	require.NoError(t, err)
	z, err := zip.NewReader(bytes.NewReader(out.Bytes()), int64(out.Len()))
	require.NoError(t, err)
	assert.Len(t, z.File, len(rel.Files)+1, "and their list")
}

func TestSessionsAndTokens(t *testing.T) {
	d := newDesk(t)
	require.NoError(t, d.NewUser(ctx, admin, "berta", "a long password", desk.Viewer))
	problem(t, d.NewUser(ctx, admin, "berta", "a long password", desk.Viewer), desk.Exists, "already")
	problem(t, d.NewUser(ctx, admin, "Berta!", "a long password", desk.Viewer), desk.BadInput, "name to sign in")
	problem(t, d.NewUser(ctx, admin, "carl", "a long password", "king"), desk.BadInput, "no role")
	p, secret, err := d.SignIn(ctx, "berta", "a long password", desk.Device{Place: "here"})
	require.NoError(t, err)
	assert.Equal(t, desk.Viewer, p.Role)
	var row store.User
	require.NoError(t, d.Store.DB(ctx).Where("name = 'berta'").Take(&row).Error)
	assert.True(t, strings.HasPrefix(row.Password, "$argon2id$v=19$m=19456,t=2,p=1$"))

	clock := time.Now().UTC().Truncate(time.Microsecond)
	d.Now = func() time.Time { return clock }
	_, renewed, err := d.BySession(ctx, secret)
	require.NoError(t, err)
	assert.Empty(t, renewed, "not yet")
	clock = clock.Add(2 * desk.SessionRenew)
	_, renewed, err = d.BySession(ctx, secret)
	require.NoError(t, err)
	require.NotEmpty(t, renewed, "the cookie is rotated")
	_, _, err = d.BySession(ctx, secret)
	require.NoError(t, err, "requests under way with the old one are answered")
	clock = clock.Add(5 * time.Minute)
	_, _, err = d.BySession(ctx, secret)
	problem(t, err, desk.NotSignedIn, "has ended")
	_, _, err = d.BySession(ctx, renewed)
	require.NoError(t, err)
	require.NoError(t, d.SignOut(ctx, renewed))
	_, _, err = d.BySession(ctx, renewed)
	problem(t, err, desk.NotSignedIn, "has ended")

	text, token, err := d.NewToken(ctx, p, desk.TokenWish{Name: "laptop"})
	require.NoError(t, err)
	assert.NotContains(t, token.Hash, text, "kept hashed")
	who, err := d.ByToken(ctx, text)
	require.NoError(t, err)
	assert.Equal(t, "berta", who.Name)
	require.NoError(t, d.Store.DB(ctx).Model(&store.User{}).Where("name = 'berta'").Update("disabled", true).Error)
	_, err = d.ByToken(ctx, text)
	problem(t, err, desk.NotSignedIn, "switched off")
	problem(t, d.DropToken(ctx, viewer, token.ID), desk.NotFound, "no token with the number")
	require.NoError(t, d.DropToken(ctx, p, token.ID))
	_, err = d.ByToken(ctx, text)
	problem(t, err, desk.NotSignedIn, "is unknown")
}

// Another password ends all access tokens; one with a scope does nothing to the account that it belongs to; and what
// goes on after a request was admitted asks again.
func TestTokensEndWithThePassword(t *testing.T) {
	d := newDesk(t)
	require.NoError(t, d.NewUser(ctx, admin, "berta", "a long password", desk.Admin))
	p, _, err := d.SignIn(ctx, "berta", "a long password", desk.Device{})
	require.NoError(t, err)
	who := map[string]desk.Person{}
	for name, scope := range map[string]desk.Role{"all": "", "viewer": desk.Viewer} {
		t.Run(name, func(t *testing.T) {
			text, _, err := d.NewToken(ctx, p, desk.TokenWish{Name: name, Scope: scope})
			require.NoError(t, err)
			who[name], err = d.ByToken(ctx, text)
			require.NoError(t, err)
		})
	}
	limited := who["viewer"]
	tokens, err := d.Tokens(ctx, who["all"], "")
	require.NoError(t, err)
	for _, act := range []func() error{
		func() error { return d.DropToken(ctx, limited, tokens[0].ID) },
		func() error { return d.DropToken(ctx, limited, tokens[1].ID) },
		func() error { return d.EndSession(ctx, limited, "", "") },
		func() error { _, err := d.Sessions(ctx, limited, ""); return err },
		func() error { _, err := d.Tokens(ctx, limited, ""); return err },
		func() error {
			return d.ChangePassword(ctx, limited, "a long password", "another password", desk.Device{})
		},
	} {
		if err := act(); err != nil { // it may end itself, and nothing else
			problem(t, err, desk.Forbidden, "limited to a role")
		} else {
			_, err = d.Again(ctx, limited)
			problem(t, err, desk.NotSignedIn, "has ended")
		}
	}
	now, err := d.Again(ctx, who["all"])
	require.NoError(t, err)
	assert.Equal(t, desk.Admin, now.Role)
	require.NoError(t, d.ResetPassword(ctx, "berta", "a third password"))
	for _, p := range []desk.Person{who["all"], p} {
		_, err = d.Again(ctx, p)
		problem(t, err, desk.NotSignedIn, "ended")
	}
}

func TestTheSweep(t *testing.T) {
	d := newDesk(t)
	says, err := d.Sweep(ctx, json.RawMessage(`{}`))
	require.NoError(t, err)
	assert.Equal(t, "0 files, 0 texts and 0 scratch files removed", says, "nothing is old enough")
}

// Texts that a draft had in between go when it is closed; those of an open one stay, since its steps can be
// taken back, and so does what is live, was live, or came with a delivery.
func TestTextsInBetweenAreSwept(t *testing.T) {
	r := newRace(t)
	r.live("block/note", "<p>first</p>")
	dr, err := r.lay(keeper, 0, "block/note", "<p>between</p>")
	require.NoError(t, err)
	_, err = r.lay(keeper, dr.ID, "block/note", "<p>second</p>")
	require.NoError(t, err)
	sweep := func(after time.Duration) int {
		at := time.Now().UTC()
		held, err := r.Store.Held(ctx)
		require.NoError(t, err)
		n, err := r.Store.SweepDocs(ctx, held, at.Add(after))
		require.NoError(t, err)
		return n
	}
	assert.Zero(t, sweep(time.Hour), "the draft is open")
	_, err = r.DraftUndo(ctx, keeper, "hut", dr.ID)
	require.NoError(t, err)
	assert.Equal(t, "<p>between</p>", r.text(dr.ID, "block/note"))
	_, err = r.DraftRedo(ctx, keeper, "hut", dr.ID)
	require.NoError(t, err)
	_, err = r.GoLive(ctx, keeper, "hut", dr.ID)
	require.NoError(t, err)
	assert.Zero(t, sweep(-time.Hour), "it is young")
	assert.Equal(t, 1, sweep(time.Hour))
	assert.Equal(t, "<p>second</p>", r.text(0, "block/note"))
	_, err = r.BringBack(ctx, keeper, desk.BringBack{Site: "hut", Revision: 2})
	require.NoError(t, err, "what was live is there")
	assert.Zero(t, sweep(time.Hour))
}

func readAll(t *testing.T, r io.Reader) []byte {
	t.Helper()
	b, err := io.ReadAll(r)
	require.NoError(t, err)
	return b
}

// writeOut copies one file of a folder to the disk.
func writeOut(t *testing.T, fsys fs.FS, name string) string {
	t.Helper()
	b, err := fs.ReadFile(fsys, name)
	require.NoError(t, err)
	p := filepath.Join(t.TempDir(), filepath.Base(name))
	require.NoError(t, os.WriteFile(p, b, 0o644))
	return p
}
