package desk_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/making"
	"compactparcel/core/plan"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"
	"compactparcel/test/harness"

	driver "github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"
)

// failing makes one statement of a store fail: the at-th, counted from 1, once.
type failing struct {
	at, count atomic.Int64
}

func (f *failing) into(s *store.Store) {
	fail := func(tx *gorm.DB) {
		if n := f.count.Add(1); n == f.at.Load() {
			tx.AddError(driver.ErrInvalidConn)
		}
	}
	c := s.DB(ctx).Callback()
	c.Query().Before("gorm:query").Register("fault", fail)
	c.Row().Before("gorm:row").Register("fault", fail)
	c.Raw().Before("gorm:raw").Register("fault", fail)
	c.Create().Before("gorm:create").Register("fault", fail)
	c.Update().Before("gorm:update").Register("fault", fail)
	c.Delete().Before("gorm:delete").Register("fault", fail)
}

// everything is all that a test looks at to see that nothing is half done.
func everything(t *testing.T, s *store.Store) string {
	t.Helper()
	var out strings.Builder
	for _, q := range []string{"SELECT CONCAT(kind, ' ', name, ' ', revision, ' ', digest) FROM collections " +
		"ORDER BY id",
		"SELECT CONCAT(id, ' ', name, ' ', state, ' ', version, ' ', IFNULL(live_at, '')) FROM drafts ORDER BY id",
		"SELECT CONCAT(draft_id, ' ', item_key, ' ', doc) FROM draft_items ORDER BY 1",
		"SELECT CONCAT(id, ' ', state, ' ', etag) FROM deliveries ORDER BY id",
		"SELECT CONCAT(id, ' ', state, ' ', etag, ' ', making) FROM kit_versions ORDER BY id",
		"SELECT CONCAT(kit_key, ' ', version, ' ', item_id) FROM origins ORDER BY id",
		"SELECT CONCAT(name, ' ', folder) FROM outlets",
		"SELECT CONCAT(name, ' ', role, ' ', disabled, ' ', password) FROM users", "SELECT name FROM access_tokens",
		"SELECT CONCAT(team, ' ', name) FROM trust_keys",
		"SELECT CONCAT(collection_id, ' ', policy) FROM site_trust"} {
		var rows []string
		require.NoError(t, s.DB(ctx).Raw(q).Scan(&rows).Error, q)
		fmt.Fprintln(&out, rows)
	}
	return out.String()
}

// Every statement of every use case fails once. What is asked for fails then, and says that
// the database does not answer, or it is all the same as ever; what is changed is not
// changed at all. This holds for what nothing remembers, so each try has a store of its own.
func TestEveryReadAndWriteFailsOnce(t *testing.T) {
	open, _ := harness.Database(t)
	quiet := slog.New(slog.DiscardHandler)
	outlets := t.TempDir()
	newDesk := func() *desk.Desk {
		d := desk.New(open(), quiet)
		d.OutletRoot = outlets
		return d
	}
	d := newDesk()
	require.NoError(t, d.NewUser(ctx, admin, "berta", "a long password", desk.Viewer))
	require.NoError(t, d.NewUser(ctx, admin, "root", "a long password", desk.Admin))
	berta, _, err := d.SignIn(ctx, "berta", "a long password", desk.Device{})
	require.NoError(t, err)
	pages := map[string]string{
		"site.json":     header,
		"settings.json": `{"title":"One","language":"en"}`,
		"pages/home.html": `<!doctype html><html><body><cp-section name="hours"></cp-section><img ` +
			`src="/media/a.svg" alt=""><p>one</p></body></html>`,
		"sections/hours.html":  `<section class="hours"><h2>Hours</h2></section>`,
		"surround/top.html":    `<header class="top"><cp-menu name="main"></cp-menu><cp-title>x</cp-title></header>`,
		"menus/main.json":      `{"title":"M","entries":[{"label":"Home","to":"/"}]}`,
		"stylesheets/base.css": ".top{color:red}.hours{top:0}",
		"media/a.svg":          `<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10"/>`,
	}
	for _, name := range []string{"one", "two"} {
		t.Run(name, func(t *testing.T) {
			_, err := d.Adopt(ctx, keeper, name, folderOf(pages), desk.PartsNone)
			require.NoError(t, err)
		})
	}
	_, err = d.NewKit(ctx, librarian, "basics", "1.0.0",
		making.Draft{Title: "B", Terms: kit.Terms{License: "CC0-1.0"}})
	require.NoError(t, err)
	_, err = d.KitAdd(ctx, librarian, "basics", "1.0.0",
		[]making.Pick{{From: "one", Address: address("section/hours")}, {From: "one", Address: address("part/top")}})
	require.NoError(t, err)
	_, err = d.KitSeal(ctx, librarian, "basics", "1.0.0", 0, "")
	require.NoError(t, err)
	_, err = d.NewKit(ctx, librarian, "next", "1.0.0", making.Draft{Title: "N", Terms: kit.Terms{License: "CC0-1.0"}})
	require.NoError(t, err)
	_, err = d.KitAdd(ctx, librarian, "next", "1.0.0", []making.Pick{{From: "one", Address: address("page/home")}})
	require.NoError(t, err)
	_, err = d.LibraryAdd(ctx, librarian, "one", []item.Address{address("section/hours")})
	require.NoError(t, err)

	var state struct{ draft, delivery int64 }
	text := func(v any, err error) (string, error) {
		if err != nil {
			return "", err
		}
		b, err := json.Marshal(v)
		return string(b), err
	}
	for _, use := range []struct {
		name   string
		writes bool
		act    func(d *desk.Desk) (string, error)
	}{
		{"sites", false, func(d *desk.Desk) (string, error) { return text(d.Sites(ctx, viewer)) }},
		{"an item", false, func(d *desk.Desk) (string,
			error) {
			return text(d.Item(ctx, viewer, "one", address("page/home"), 0))
		}},
		{"the surround", false, func(d *desk.Desk) (string,
			error) {
			return text(d.Surround(ctx, viewer, "one", "/", 0))
		}},
		{"history", false, func(d *desk.Desk) (string, error) { return text(d.History(ctx, viewer, "one", 0)) }},
		{"the library", false, func(d *desk.Desk) (string, error) {
			heads, _, err := d.Library(ctx, viewer, desk.LibraryQuery{Words: "hours"})
			return text(heads, err)
		}},
		{"faults", false, func(d *desk.Desk) (string, error) { return text(d.SiteFaults(ctx, viewer, "one", 0)) }},
		{"fonts", false, func(d *desk.Desk) (string, error) { return text(d.Fonts(ctx, viewer, "one", 0)) }},
		{"forms", false, func(d *desk.Desk) (string, error) { return text(d.SiteForms(ctx, keeper, "one")) }},
		{"media", false, func(d *desk.Desk) (string, error) { return text(d.Media(ctx, viewer, "one", 0, "")) }},
		{"an outline", false, func(d *desk.Desk) (string, error) {
			return text(d.Outline(ctx, viewer, "one", "/", 0))
		}},
		{"proposals", false, func(d *desk.Desk) (string, error) { return text(d.Proposals(ctx, viewer, "one", 0)) }},
		{"publishing", false, func(d *desk.Desk) (string, error) {
			var b bytes.Buffer
			_, _, err := d.PublishZip(ctx, viewer, desk.Publication{Site: "one"}, &b)
			return string(item.DigestOf(b.Bytes())), err
		}},
		{"a kit in the making", false, func(d *desk.Desk) (string, error) {
			k, err := d.Kit(ctx, viewer, "next", "1.0.0")
			if err != nil {
				return "", err
			}
			return text([]any{k.Packs, k.Check}, nil)
		}},
		{"a kit's pieces", false, func(d *desk.Desk) (string, error) {
			var b []byte
			err := d.KitPieces(ctx, viewer, "basics", "1.0.0",
				func(f *os.File) (err error) { b, err = io.ReadAll(f); return err })
			return string(item.DigestOf(b)), err
		}},
		{"faults of a kit", false, func(d *desk.Desk) (string,
			error) {
			return text(d.KitFaults(ctx, viewer, "basics", "1.0.0"))
		}},
		{"advice", false, func(d *desk.Desk) (string,
			error) {
			return text(d.KitNextVersion(ctx, viewer, "next", "1.0.0"))
		}},
		{"the choice of kits", false, func(d *desk.Desk) (string,
			error) {
			return text(d.KitResolve(ctx, viewer, "basics", "1.0.0", "two"))
		}},
		{"adopting", true, func(d *desk.Desk) (string, error) {
			_, err := d.Adopt(ctx, keeper, "three", folderOf(pages), desk.PartsAuto)
			return "", err
		}},
		{"an edit", true, func(d *desk.Desk) (string, error) {
			_, err := d.EditItem(ctx, keeper,
				desk.Edit{Site: "two", Address: address("block/new"), Content: []byte("<p>new</p>")})
			return "", err
		}},
		{"another edit", true, func(d *desk.Desk) (string, error) {
			_, err := d.EditItem(ctx, keeper,
				desk.Edit{Site: "two", Draft: state.draft, Address: address("media/a.png"),
					File: strings.NewReader("png")})
			return "", err
		}},
		{"operations", true, func(d *desk.Desk) (string, error) {
			_, err := d.Edit(ctx, keeper, desk.Edits{Site: "two", Draft: state.draft, List: []edit.Operation{
				{Op: edit.Text, Page: "/", Element: "p", Value: "other words"}}})
			return "", err
		}},
		{"taking back", true, func(d *desk.Desk) (string, error) {
			_, err := d.DraftUndo(ctx, keeper, "two", state.draft)
			return "", err
		}},
		{"doing again", true, func(d *desk.Desk) (string, error) {
			_, err := d.DraftRedo(ctx, keeper, "two", state.draft)
			return "", err
		}},
		{"using a piece", true, func(d *desk.Desk) (string, error) {
			_, err := d.Use(ctx, keeper, desk.Use{Site: "two", Draft: state.draft, From: "one",
				Piece: address("section/hours"), Page: "/", Beside: "p", Place: edit.Before,
				Answers: plan.Request{Policy: "unattended"}})
			return "", err
		}},
		{"a draft of a name", true, func(d *desk.Desk) (string, error) {
			_, err := d.OpenDraft(ctx, keeper, "two", "spring")
			return "", err
		}},
		{"another name", true, func(d *desk.Desk) (string, error) {
			_, err := d.RenameDraft(ctx, keeper, "two", state.draft, "edits of May")
			return "", err
		}},
		{"a time", true, func(d *desk.Desk) (string, error) {
			at := time.Now().Add(time.Hour)
			_, err := d.TimeDraft(ctx, keeper, "two", state.draft, &at)
			return "", err
		}},
		{"bringing up to date", true, func(d *desk.Desk) (string, error) {
			_, err := d.DraftRebase(ctx, keeper, "two", state.draft, nil)
			return "", err
		}},
		{"what drafts there are", false, func(d *desk.Desk) (string, error) {
			return text(d.Drafts(ctx, viewer, "two"))
		}},
		{"looking through a draft", false, func(d *desk.Desk) (string, error) {
			v, err := d.Look(ctx, viewer, "two", state.draft)
			if err != nil {
				return "", err
			}
			return text(v.Heads(), nil)
		}},
		{"going live", true, func(d *desk.Desk) (string, error) {
			_, err := d.GoLive(ctx, keeper, "two", state.draft)
			return "", err
		}},
		{"saving", true, func(d *desk.Desk) (string, error) {
			_, err := d.LibraryAdd(ctx, librarian, "two", []item.Address{address("part/top")})
			return "", err
		}},
		{"a new kit", true, func(d *desk.Desk) (string, error) {
			_, err := d.NewKit(ctx, librarian, "third", "1.0.0", making.Draft{})
			return "", err
		}},
		{"opening a delivery", true, func(d *desk.Desk) (string, error) {
			_, err := d.DeliveryOpen(ctx, librarian, "basics", "1.0.0", "two", plan.Request{Policy: "unattended"})
			return "", err
		}},
		{"planning", true, func(d *desk.Desk) (string, error) {
			_,
				err := d.Replan(ctx, librarian, state.delivery)
			return "", err
		}},
		{"sides", false, func(d *desk.Desk) (string, error) {
			return text(d.DeliveryCompare(ctx, viewer, state.delivery, address("part/top")))
		}},
		{"staging", true, func(d *desk.Desk) (string, error) {
			_, err := d.DeliveryStage(ctx, librarian, state.delivery, "")
			return "", err
		}},
		{"delivering", true, func(d *desk.Desk) (string, error) {
			_, err := d.DeliveryGoLive(ctx, keeper, state.delivery, nil)
			return "", err
		}},
		{"deliveries", false, func(d *desk.Desk) (string, error) { return text(d.Deliveries(ctx, viewer)) }},
		{"what changed", false, func(d *desk.Desk) (string, error) {
			list, _, err := d.Compare(ctx, viewer, "two", 1, 2)
			return text(list, err)
		}},
		{"undoing", true, func(d *desk.Desk) (string, error) {
			_, err := d.DeliveryUndo(ctx, keeper, state.delivery, desk.Undo{})
			return "", err
		}},
		{"bringing back", true, func(d *desk.Desk) (string, error) {
			_, err := d.BringBack(ctx, keeper, desk.BringBack{Site: "two", Revision: 1})
			return "", err
		}},
		{"sealing", true, func(d *desk.Desk) (string, error) {
			_, err := d.KitSeal(ctx, librarian, "next", "1.0.0", 0, "")
			return "", err
		}},
		{"an outlet", true, func(d *desk.Desk) (string, error) {
			_, err := d.AddOutlet(ctx, keeper, "one", desk.NewOutlet{Name: "main"})
			return "", err
		}},
		{"a token", true, func(d *desk.Desk) (string, error) {
			_, _, err := d.NewToken(ctx, berta, desk.TokenWish{Name: "x"})
			return "", err
		}},
		{"an account", true, func(d *desk.Desk) (string, error) {
			role := desk.Librarian
			_, err := d.ChangeUser(ctx, admin, "berta", desk.UserChange{Role: &role})
			return "", err
		}},
		{"trust", true, func(d *desk.Desk) (string, error) {
			_, err := d.SetTrust(ctx, keeper, "one", desk.SiteTrust{Policy: desk.TrustWarn})
			return "", err
		}},
		{"a password", true, func(d *desk.Desk) (string, error) {
			return "", d.ChangePassword(ctx, berta, "a long password", "another password", desk.Device{})
		}},
	} {
		t.Run(use.name, func(t *testing.T) {
			want := ""
			if !use.writes {
				var err error
				want, err = use.act(newDesk())
				require.NoError(t, err)
			}
			refused := 0
			var before string // a refusal leaves it as it was, so it need not be read again
			if use.writes {
				before = everything(t, d.Store)
			}
			for n := int64(1); ; n++ {
				d := newDesk()
				f := &failing{}
				f.into(d.Store)
				f.at.Store(n)
				got, err := use.act(d)
				reached := f.count.Load() >= n
				var pr *desk.Problem
				happened := errors.As(err, &pr) && pr.Type == desk.Uncertain
				if happened {
					require.True(t, use.writes)
					assert.Contains(t, []desk.RemedyCode{desk.LookBeforeRedo, desk.LookLater}, pr.Remedy.Code)
					f.at.Store(0)
					require.NotEqual(t, before, everything(t, d.Store), "it says that it was done")
				} else if err != nil {
					refused++
					problem(t, err, desk.Unavailable, "")
				} else if !use.writes {
					assert.Equal(t, want, got, "statement %d fails: nothing may be missing", n)
				}
				f.at.Store(0)
				if err != nil && use.writes && !happened {
					assert.Equal(t, before, everything(t, d.Store), "statement %d fails: nothing is half done", n)
				}
				if happened || err == nil && (use.writes || !reached) {
					break // done, or all statements have had their turn
				}
				if sqlDB, err := d.Store.DB(ctx).DB(); err == nil {
					sqlDB.Close()
				}
				require.Less(t, n, int64(2000))
			}
			require.Positive(t, refused)
			require.NoError(
				t,
				d.Store.DB(ctx).
					Raw("SELECT COALESCE(MAX(id), 0) FROM drafts WHERE name LIKE 'edits%'").
					Scan(&state.draft).
					Error,
			)
			require.NoError(t,
				d.Store.DB(ctx).Raw("SELECT COALESCE(MAX(id), 0) FROM deliveries").Scan(&state.delivery).Error)
		})
	}
	// An outlet that failed is tried again when its time has come, and has every byte then.
	d = newDesk()
	d.Now = func() time.Time { return time.Now().UTC().Add(time.Hour) }
	require.NoError(t, d.CatchUpOutlets(ctx))
	f, err := os.ReadFile(outlets + "/one/main/index.html")
	require.NoError(t, err)
	assert.Contains(t, string(f), "<h2>Hours</h2>")
}
