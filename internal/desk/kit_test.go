package desk_test

import (
	"archive/zip"
	"bytes"
	"crypto/ed25519"
	"io"
	"os"
	"strings"
	"testing"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/making"
	"compactparcel/core/plan"
	"compactparcel/internal/desk"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// signedWith gives a kit file with one more signature.
func signedWith(t *testing.T, file, private []byte) []byte {
	t.Helper()
	k, err := kit.Open(bytes.NewReader(file), int64(len(file)))
	require.NoError(t, err)
	key, err := kit.ParsePrivateKey(private)
	require.NoError(t, err)
	list := k.List
	seal, err := list.Sign(k.Seal, key)
	require.NoError(t, err)
	var out bytes.Buffer
	_, err = kit.WriteSealed(&out, &list, seal, k.OpenPath)
	require.NoError(t, err)
	return out.Bytes()
}

func zipOf(t *testing.T, files ...string) io.Reader {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 0; i < len(files); i += 2 {
		w, err := z.Create(files[i])
		require.NoError(t, err)
		w.Write([]byte(files[i+1]))
	}
	require.NoError(t, z.Close())
	return &b
}

func TestKitsAtTheDesk(t *testing.T) {
	d := newDesk(t)
	_, err := d.Adopt(
		ctx,
		keeper,
		"hut",
		folderOf(map[string]string{
			"site.json": header,
			"pages/home.html": "<!doctype html><body><main><p class=\"a\">Hello</p><img " +
				"src=\"/media/a.svg\" alt=\"\"></main></body>",
			"surround/top.html":    "<header><h1>One</h1></header>",
			"stylesheets/base.css": "header { color: red }",
			"media/a.svg":          `<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10"/>`,
			"settings.json":        `{"title": "The One Site"}`,
		}),
		desk.PartsNone,
	)
	require.NoError(t, err)
	begin := func(name, version string, picks ...making.Pick) *desk.KitInfo {
		t.Helper()
		_, err := d.NewKit(ctx, librarian, name, version, making.Draft{Terms: kit.Terms{License: "CC0-1.0"}})
		require.NoError(t, err)
		info, err := d.KitAdd(ctx, librarian, name, version, picks)
		require.NoError(t, err)
		return info
	}
	fileOf := func(name, version string) []byte {
		t.Helper()
		f, _, err := d.KitFile(ctx, viewer, name, version)
		require.NoError(t, err)
		defer f.Close()
		b, err := io.ReadAll(f)
		require.NoError(t, err)
		return b
	}
	home := making.Pick{From: "hut", Address: address("page/home")}

	t.Run("what a person says of a kit is held against what can be said", func(t *testing.T) {
		begin("words", "1.0.0", home)
		few := -1
		for says, edit := range map[string]func(*making.Draft){
			"needs a label": func(w *making.Draft) { w.Fillins = map[string]kit.Fillin{"x": {Type: "text"}} },
			"names no element": func(w *making.Draft) {
				w.Marks = []making.BlankMark{{In: address("page/home"),
					Bind: "text:x"}}
			},
			"would run what somebody": func(w *making.Draft) {
				w.Marks = []making.BlankMark{{In: address("page/home"), Element: "p", Bind: "onclick:x"}}
			},
			"no picture": func(w *making.Draft) {
				w.Media = map[string]making.Treatment{"page/home": {How: "lighter"}}
			},
			"not \"crushed\"": func(w *making.Draft) {
				w.Media = map[string]making.Treatment{"*": {How: "crushed"}}
			},
			"no range of versions": func(w *making.Draft) { w.Kits = map[string]string{"other": "some"} },
			"the needed component": func(w *making.Draft) {
				w.Components = map[string]kit.ComponentNeed{"x-a": {Range: "?"}}
			},
			"is no setting": func(w *making.Draft) { w.Proposes = map[string]any{"page/home": 1} },
			"for -1 sites":  func(w *making.Draft) { w.Terms.Sites = &few },
		} {
			_, err := d.KitDescribe(ctx, librarian, "words", "1.0.0", 0, edit)
			problem(t, err, desk.BadInput, says)
		}
		_, err := d.KitAdd(ctx, librarian, "words", "1.0.0", nil)
		problem(t, err, desk.BadInput, "nothing was named")
		_, err = d.KitPutPlaced(ctx, librarian, "words", "1.0.0", "nowhere")
		problem(t, err, desk.NotFound, "not there")
		_, err = d.KitAdd(ctx, librarian, "words", "1.0.0",
			[]making.Pick{{From: "hut", Address: address("page/home"), Element: "p", As: address("page/home")}})
		problem(t, err, desk.BadInput, "becomes a block or a section")
		info, err := d.KitAdd(ctx, librarian, "words", "1.0.0",
			[]making.Pick{{From: "hut", Address: address("page/home"), Element: "p.a", As: address("block/hello")}})
		require.NoError(t, err)
		assert.Len(t, info.Packs.Items, 3)
		_, err = d.KitAdd(ctx, librarian, "words", "1.0.0",
			[]making.Pick{{From: "hut", Address: address("page/home"), Element: "main", As: address("block/hello")}})
		problem(t, err, desk.Exists, "a block/hello in it already")
		shown, err := d.KitInMaking(ctx, info.KitVersion.ID)
		require.NoError(t, err)
		_, there := shown.Find(address("block/hello"))
		assert.True(t, there, "its preview shows it as it would be sealed")
	})

	t.Run("what is left by hand is a need, and comes back", func(t *testing.T) {
		begin("left", "1.0.0", home)
		info, err := d.KitExclude(ctx, librarian, "left", "1.0.0", address("media/a.svg"), false)
		require.NoError(t, err)
		require.Len(t, info.Packs.Needs.Items, 1)
		assert.False(t, info.Packs.Needs.Items[0].Optional)
		info, err = d.KitExclude(ctx, librarian, "left", "1.0.0", address("media/a.svg"), true)
		require.NoError(t, err)
		assert.True(t, info.Packs.Needs.Items[0].Optional, "said again, otherwise")
		info, err = d.KitAdd(ctx, librarian, "left", "1.0.0",
			[]making.Pick{{From: "hut", Address: address("media/a.svg")}})
		require.NoError(t, err)
		assert.Empty(t, info.Packs.Needs.Items)
		assert.Empty(t, info.Metadata.Exclusions)
	})

	t.Run("a file is taken in by what it holds", func(t *testing.T) {
		in, err := d.KitUpload(
			ctx,
			librarian,
			zipOf(
				t,
				"index.html",
				`<link rel="stylesheet" href="s.css"><p class="x">loose</p>`,
				"s.css",
				".x { color: red }",
			),
			"My Site.zip",
			"",
		)
		require.NoError(t, err)
		assert.Equal(t, "loose", in.What)
		require.Len(t, in.Kits, 1)
		assert.Equal(t, "my-site 0.1.0 making", in.Kits[0].Name+" "+in.Kits[0].Version+" "+string(in.Kits[0].State))
		_, err = d.KitUpload(ctx, librarian, zipOf(t, "index.html", "<p>"), "My Site.zip", "")
		problem(t, err, desk.Exists, "this version already")
		_, err = d.KitUpload(ctx, librarian, zipOf(t, "index.html", "<p>"), "x.zip", "No Name")
		problem(t, err, desk.BadInput, "No Name")
		_, err = d.KitUpload(ctx, librarian, zipOf(t, "../index.html", "<p>"), "x.zip", "")
		problem(t, err, desk.Refused, "leaves its folder")
		_, err = d.KitUpload(ctx, librarian, strings.NewReader("hello"), "x.txt", "")
		problem(t, err, desk.Refused, "this is not a kit")
		sealed, err := d.KitSeal(ctx, librarian, "my-site", "0.1.0", 0, "")
		require.NoError(t, err, "what was read from a file is sealed like any other")
		assert.Len(t, sealed.Packs.Items, 2)
		again, err := d.NewKit(ctx, librarian, "from-kit", "1.0.0", making.Draft{})
		require.NoError(t, err)
		again, err = d.KitAdd(ctx, librarian, again.Name, again.Version,
			[]making.Pick{{From: "kit my-site@0.1.0", Address: address("page/home")}})
		require.NoError(t, err)
		said := ""
		for _, f := range again.Check {
			said += f.Message + "\n"
		}
		assert.Contains(t, said, "it came with the kit my-site@0.1.0")
		var pieces int
		require.NoError(t, d.KitPieces(ctx, viewer, "my-site", "0.1.0", func(f *os.File) error {
			info, err := f.Stat()
			require.NoError(t, err)
			z, err := zip.NewReader(f, info.Size())
			require.NoError(t, err)
			pieces = len(z.File)
			return nil
		}))
		assert.Equal(t, 1, pieces, "the stylesheet is the page's")
	})

	t.Run("signatures and trust", func(t *testing.T) {
		begin("signed", "1.0.0", making.Pick{From: "hut", Address: address("part/top")})
		_, err := d.KitSeal(ctx, librarian, "signed", "1.0.0", 0, "")
		require.NoError(t, err)
		one, onePublic, err := kit.NewKey()
		require.NoError(t, err)
		two, _, err := kit.NewKey()
		require.NoError(t, err)
		plain := fileOf("signed", "1.0.0")
		for i, key := range [][]byte{one, two, one} { // each signs the plain file; the last for the second time
			in, err := d.KitUpload(ctx, librarian, bytes.NewReader(signedWith(t, plain, key)), "", "")
			require.NoError(t, err)
			assert.Len(t, in.Kits[0].Signers, min(i+1, 2), "signatures are put together")
		}
		b := fileOf("signed", "1.0.0")
		k, err := kit.Open(bytes.NewReader(b), int64(len(b)))
		require.NoError(t, err)
		require.NoError(t, k.Verify())
		assert.Len(t, k.Seal.Signatures, 2)

		_, err = d.TrustAdd(ctx, librarian, "room", "ida", string(onePublic))
		problem(t, err, desk.Forbidden, "keeper")
		for key, says := range map[string]string{string(one): "private key", "": "not one Ed25519",
			"AAAA": "not one Ed25519", string(onePublic) + string(onePublic): "not one Ed25519"} {
			_, err = d.TrustAdd(ctx, keeper, "room", "ida", key)
			problem(t, err, desk.BadInput, says)
		}
		_, err = d.TrustAdd(ctx, keeper, " ", "ida", string(onePublic))
		problem(t, err, desk.BadInput, "a team's")
		row, err := d.TrustAdd(ctx, keeper, "room", "ida", string(onePublic))
		require.NoError(t, err)
		_, err = d.TrustAdd(ctx, keeper, "room", "ida", string(onePublic))
		problem(t, err, desk.Exists, "trusts this key already")
		private, err := kit.ParsePrivateKey(one)
		require.NoError(t, err)
		assert.Equal(t, kit.KeyID(private.Public().(ed25519.PublicKey)), (kit.TrustedKey{Key: row.PublicKey}).ID())
		_, err = d.SetTrust(ctx, keeper, "hut", desk.SiteTrust{Policy: "maybe"})
		problem(t, err, desk.BadInput, "no policy")
		_, err = d.SetTrust(ctx, keeper, "hut", desk.SiteTrust{Policy: desk.TrustRequire, Team: "nobody"})
		problem(t, err, desk.NotFound, "no key is trusted by it")
		_, err = d.SetTrust(ctx, keeper, "hut", desk.SiteTrust{Policy: desk.TrustRequire, Team: "room"})
		require.NoError(t, err)
		_, err = d.DeliveryOpen(ctx, librarian, "my-site", "0.1.0", "hut", plan.Request{})
		problem(t, err, desk.Refused, "the kit is not signed")
		info, err := d.DeliveryOpen(ctx, librarian, "signed", "1.0.0", "hut", plan.Request{Policy: "unattended"})
		require.NoError(t, err)
		assert.Contains(t, info.Planned.Notes, "signed by ida of room")

		// The policy is asked again when the delivery is staged.
		require.NoError(t, d.TrustDrop(ctx, keeper, row.ID))
		_, err = d.DeliveryStage(ctx, librarian, info.ID, "")
		problem(t, err, desk.Refused, "none of room’s trusted keys")
		problem(t, d.TrustDrop(ctx, keeper, row.ID), desk.NotFound, "not there")
		_, err = d.SetTrust(ctx, keeper, "hut", desk.SiteTrust{Policy: desk.TrustIgnore})
		require.NoError(t, err)

		// And again when it goes live.
		_, err = d.Replan(ctx, librarian, info.ID)
		require.NoError(t, err)
		_, err = d.DeliveryStage(ctx, librarian, info.ID, "")
		require.NoError(t, err)
		_, err = d.SetTrust(ctx, keeper, "hut", desk.SiteTrust{Policy: desk.TrustRequire})
		require.NoError(t, err)
		_, err = d.DeliveryGoLive(ctx, keeper, info.ID, nil)
		problem(t, err, desk.Refused, "none of anybody's trusted keys")
		_, err = d.SetTrust(ctx, keeper, "hut", desk.SiteTrust{Policy: desk.TrustIgnore})
		require.NoError(t, err)
	})

	t.Run("kits that need kits", func(t *testing.T) {
		begin("leaning", "1.0.0", making.Pick{From: "hut", Address: address("stylesheet/base")})
		_, err := d.KitDescribe(
			ctx,
			librarian,
			"leaning",
			"1.0.0",
			0,
			func(w *making.Draft) { w.Kits = map[string]string{"signed": "^1"} },
		)
		require.NoError(t, err)
		_, err = d.KitResolve(ctx, viewer, "leaning", "1.0.0", "hut")
		problem(t, err, desk.Refused, "not sealed yet")
		_, err = d.KitSeal(ctx, librarian, "leaning", "1.0.0", 0, "")
		require.NoError(t, err)
		choice, err := d.KitResolve(ctx, viewer, "leaning", "1.0.0", "hut")
		require.NoError(t, err)
		assert.Equal(t, []desk.ChosenKit{{Kit: "signed", Version: "1.0.0"}}, choice.Kits)
		begin("leaning", "2.0.0", making.Pick{From: "hut", Address: address("stylesheet/base")})
		_, err = d.KitDescribe(
			ctx,
			librarian,
			"leaning",
			"2.0.0",
			0,
			func(w *making.Draft) { w.Kits = map[string]string{"signed": ">=7"} },
		)
		require.NoError(t, err)
		_, err = d.KitSeal(ctx, librarian, "leaning", "2.0.0", 0, "")
		require.NoError(t, err)
		choice, err = d.KitResolve(ctx, viewer, "leaning", "2.0.0", "hut")
		require.NoError(t, err)
		assert.False(t, choice.Fits)
		assert.Contains(t, strings.Join(choice.Chain, "\n"), "leaning@2.0.0 needs signed >=7 (there is 1.0.0)")
		info, err := d.DeliveryOpen(ctx, librarian, "leaning", "2.0.0", "hut", plan.Request{})
		require.NoError(t, err)
		assert.Contains(t, strings.Join(info.Planned.Notes, "\n"),
			"Cannot hold together: leaning@2.0.0 needs signed >=7")
	})

	t.Run("proposed settings are never taken over a value unasked", func(t *testing.T) {
		begin("proposing", "1.0.0", making.Pick{From: "hut", Address: address("page/home")})
		_, err := d.KitDescribe(ctx, librarian, "proposing", "1.0.0", 0, func(w *making.Draft) {
			w.Proposes = map[string]any{"setting/language": "fr", "setting/home": "page/home"}
		})
		require.NoError(t, err)
		_, err = d.KitSeal(ctx, librarian, "proposing", "1.0.0", 0, "")
		require.NoError(t, err)
		info, err := d.DeliveryOpen(ctx, librarian, "proposing", "1.0.0", "hut", plan.Request{Policy: "unattended"})
		require.NoError(t, err)
		said := map[string]plan.Decision{}
		for _, s := range info.Planned.Settings {
			said[s.Setting.Key] = s.Decision
		}
		assert.Equal(t, plan.Take, said["language"], "the site has none")
		info, err = d.DeliveryStage(ctx, librarian, info.ID, "")
		require.NoError(t, err)
		info, err = d.DeliveryGoLive(ctx, keeper, info.ID, nil)
		require.NoError(t, err)
		got, err := d.Item(ctx, viewer, "hut", item.Address{Kind: item.Setting, Key: "language"})
		require.NoError(t, err)
		assert.Equal(t, `"fr"`, string(got.Content))
		_, err = d.DeliveryUndo(ctx, keeper, info.ID, desk.Undo{})
		require.NoError(t, err)
		_, err = d.Item(ctx, viewer, "hut", item.Address{Kind: item.Setting, Key: "language"})
		problem(t, err, desk.NotFound, "language")
	})
}
