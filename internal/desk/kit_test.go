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

// workshop is a desk with a site "hut" of which kits are made.
type workshop struct {
	*desk.Desk
	t    *testing.T
	home making.Pick
}

func newWorkshop(t *testing.T) *workshop {
	d := newDesk(t)
	_, err := d.Adopt(ctx, keeper, "hut", folderOf(map[string]string{
		"site.json": header,
		"pages/home.html": `<!doctype html><body><main><p class="a">Hello</p><img src="/media/a.svg" alt=""></main>` +
			`</body>`,
		"surround/top.html":    "<header><h1>One</h1></header>",
		"stylesheets/base.css": "header { color: red }",
		"media/a.svg":          `<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10"/>`,
		"settings.json":        `{"title": "The One Site"}`,
	}), desk.PartsNone)
	require.NoError(t, err)
	return &workshop{d, t, making.Pick{From: "hut", Address: address("page/home")}}
}

func (w *workshop) begin(name, version string, picks ...making.Pick) *desk.KitInfo {
	w.t.Helper()
	_, err := w.NewKit(ctx, librarian, name, version, making.Draft{Terms: kit.Terms{License: "CC0-1.0"}})
	require.NoError(w.t, err)
	info, err := w.KitAdd(ctx, librarian, name, version, picks)
	require.NoError(w.t, err)
	return info
}

// seal seals what was begun.
func (w *workshop) seal(name, version string) {
	w.t.Helper()
	_, err := w.KitSeal(ctx, librarian, name, version, 0, "")
	require.NoError(w.t, err)
}

func (w *workshop) fileOf(name, version string) []byte {
	w.t.Helper()
	f, _, err := w.KitFile(ctx, viewer, name, version)
	require.NoError(w.t, err)
	defer f.Close()
	b, err := io.ReadAll(f)
	require.NoError(w.t, err)
	return b
}

func TestWhatIsSaidOfAKitIsHeldAgainstWhatCanBe(t *testing.T) {
	shop := newWorkshop(t)
	shop.begin("words", "1.0.0", shop.home)
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
		"not a picture": func(w *making.Draft) {
			w.Media = map[string]making.Treatment{"page/home": {How: "lighter"}}
		},
		"not \"crushed\"": func(w *making.Draft) {
			w.Media = map[string]making.Treatment{"*": {How: "crushed"}}
		},
		"not a range of versions": func(w *making.Draft) { w.Kits = map[string]string{"other": "some"} },
		"the needed component": func(w *making.Draft) {
			w.Components = map[string]kit.ComponentNeed{"x-a": {Range: "?"}}
		},
		"is not a setting": func(w *making.Draft) { w.Proposes = map[string]any{"page/home": 1} },
		"for -1 sites":     func(w *making.Draft) { w.Terms.Sites = &few },
	} {
		t.Run(says, func(t *testing.T) {
			_, err := shop.KitDescribe(ctx, librarian, "words", "1.0.0", 0, edit)
			problem(t, err, desk.BadInput, says)
		})
	}
	_, err := shop.KitAdd(ctx, librarian, "words", "1.0.0", nil)
	problem(t, err, desk.BadInput, "no items were named")
	_, err = shop.KitPutPlaced(ctx, librarian, "words", "1.0.0", "nowhere")
	problem(t, err, desk.NotFound, "does not exist")
	_, err = shop.KitAdd(ctx, librarian, "words", "1.0.0",
		[]making.Pick{{From: "hut", Address: address("page/home"), Element: "p", As: address("page/home")}})
	problem(t, err, desk.BadInput, "becomes a block or a section")
	info, err := shop.KitAdd(ctx, librarian, "words", "1.0.0",
		[]making.Pick{{From: "hut", Address: address("page/home"), Element: "p.a", As: address("block/hello")}})
	require.NoError(t, err)
	assert.Len(t, info.Packs.Items, 3)
	_, err = shop.KitAdd(ctx, librarian, "words", "1.0.0",
		[]making.Pick{{From: "hut", Address: address("page/home"), Element: "main", As: address("block/hello")}})
	problem(t, err, desk.Exists, "already holds a block/hello")
	shown, err := shop.KitInMaking(ctx, info.KitVersion.ID)
	require.NoError(t, err)
	_, there := shown.Find(address("block/hello"))
	assert.True(t, there, "its preview shows it as it would be sealed")
}

func TestWhatIsExcludedIsANeedAndComesBack(t *testing.T) {
	shop := newWorkshop(t)
	shop.begin("left", "1.0.0", shop.home)
	info, err := shop.KitExclude(ctx, librarian, "left", "1.0.0", address("media/a.svg"), false)
	require.NoError(t, err)
	require.Len(t, info.Packs.Needs.Items, 1)
	assert.False(t, info.Packs.Needs.Items[0].Optional)
	info, err = shop.KitExclude(ctx, librarian, "left", "1.0.0", address("media/a.svg"), true)
	require.NoError(t, err)
	assert.True(t, info.Packs.Needs.Items[0].Optional, "said again, otherwise")
	info, err = shop.KitAdd(ctx, librarian, "left", "1.0.0",
		[]making.Pick{{From: "hut", Address: address("media/a.svg")}})
	require.NoError(t, err)
	assert.Empty(t, info.Packs.Needs.Items)
	assert.Empty(t, info.Metadata.Exclusions)
}

func TestAFileIsTakenInByWhatItHolds(t *testing.T) {
	shop := newWorkshop(t)
	in, err := shop.KitUpload(
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
	_, err = shop.KitUpload(ctx, librarian, zipOf(t, "index.html", "<p>"), "My Site.zip", "")
	problem(t, err, desk.Exists, "this version already")
	_, err = shop.KitUpload(ctx, librarian, zipOf(t, "index.html", "<p>"), "x.zip", "No Name")
	problem(t, err, desk.BadInput, "No Name")
	_, err = shop.KitUpload(ctx, librarian, zipOf(t, "../index.html", "<p>"), "x.zip", "")
	problem(t, err, desk.Refused, "leaves its folder")
	_, err = shop.KitUpload(ctx, librarian, strings.NewReader("hello"), "x.txt", "")
	problem(t, err, desk.Refused, "this is not a kit")
	sealed, err := shop.KitSeal(ctx, librarian, "my-site", "0.1.0", 0, "")
	require.NoError(t, err, "what was read from a file is sealed like any other")
	assert.Len(t, sealed.Packs.Items, 2)
	again, err := shop.NewKit(ctx, librarian, "from-kit", "1.0.0", making.Draft{})
	require.NoError(t, err)
	again, err = shop.KitAdd(ctx, librarian, again.Name, again.Version,
		[]making.Pick{{From: "kit my-site@0.1.0", Address: address("page/home")}})
	require.NoError(t, err)
	said := ""
	for _, f := range again.Check {
		said += f.Message + "\n"
	}
	assert.Contains(t, said, "it came with the kit my-site@0.1.0")
	var pieces int
	require.NoError(t, shop.KitPieces(ctx, viewer, "my-site", "0.1.0", func(f *os.File) error {
		info, err := f.Stat()
		require.NoError(t, err)
		z, err := zip.NewReader(f, info.Size())
		require.NoError(t, err)
		pieces = len(z.File)
		return nil
	}))
	assert.Equal(t, 1, pieces, "the stylesheet is the page's")
}

func TestSignaturesAndTrust(t *testing.T) {
	shop := newWorkshop(t)
	shop.begin("signed", "1.0.0", making.Pick{From: "hut", Address: address("part/top")})
	_, err := shop.KitSeal(ctx, librarian, "signed", "1.0.0", 0, "")
	require.NoError(t, err)
	one, onePublic, err := kit.NewKey()
	require.NoError(t, err)
	two, _, err := kit.NewKey()
	require.NoError(t, err)
	plain := shop.fileOf("signed", "1.0.0")
	for i, key := range [][]byte{one, two, one} { // each signs the plain file; the last for the second time
		in, err := shop.KitUpload(ctx, librarian, bytes.NewReader(signedWith(t, plain, key)), "", "")
		require.NoError(t, err)
		assert.Len(t, in.Kits[0].Signers, min(i+1, 2), "signatures are put together")
	}
	b := shop.fileOf("signed", "1.0.0")
	k, err := kit.Open(bytes.NewReader(b), int64(len(b)))
	require.NoError(t, err)
	require.NoError(t, k.Verify())
	assert.Len(t, k.Seal.Signatures, 2)

	_, err = shop.TrustAdd(ctx, librarian, "room", "ida", string(onePublic))
	problem(t, err, desk.Forbidden, "keeper")
	for key, says := range map[string]string{string(one): "private key", "": "not a single Ed25519",
		"AAAA": "not a single Ed25519", string(onePublic) + string(onePublic): "not a single Ed25519"} {
		t.Run(key, func(t *testing.T) {
			_, err = shop.TrustAdd(ctx, keeper, "room", "ida", key)
			problem(t, err, desk.BadInput, says)
		})
	}
	_, err = shop.TrustAdd(ctx, keeper, " ", "ida", string(onePublic))
	problem(t, err, desk.BadInput, "names of teams")
	row, err := shop.TrustAdd(ctx, keeper, "room", "ida", string(onePublic))
	require.NoError(t, err)
	_, err = shop.TrustAdd(ctx, keeper, "room", "ida", string(onePublic))
	problem(t, err, desk.Exists, "already trusts this key")
	private, err := kit.ParsePrivateKey(one)
	require.NoError(t, err)
	assert.Equal(t, kit.KeyID(private.Public().(ed25519.PublicKey)), (kit.TrustedKey{Key: row.PublicKey}).ID())
	_, err = shop.SetTrust(ctx, keeper, "hut", desk.SiteTrust{Policy: "maybe"})
	problem(t, err, desk.BadInput, "not a policy")
	_, err = shop.SetTrust(ctx, keeper, "hut", desk.SiteTrust{Policy: desk.TrustRequire, Team: "nobody"})
	problem(t, err, desk.NotFound, "it trusts no key")
	_, err = shop.SetTrust(ctx, keeper, "hut", desk.SiteTrust{Policy: desk.TrustRequire, Team: "room"})
	require.NoError(t, err)
	shop.begin("plain", "1.0.0", making.Pick{From: "hut", Address: address("stylesheet/base")})
	shop.seal("plain", "1.0.0")
	_, err = shop.DeliveryOpen(ctx, librarian, "plain", "1.0.0", "hut", plan.Request{})
	problem(t, err, desk.Refused, "the kit is not signed")
	info, err := shop.DeliveryOpen(ctx, librarian, "signed", "1.0.0", "hut", plan.Request{Policy: "unattended"})
	require.NoError(t, err)
	assert.Contains(t, info.Planned.Notes, "signed by ida of room")

	// The policy is asked again when the delivery is staged.
	require.NoError(t, shop.TrustDrop(ctx, keeper, row.ID))
	_, err = shop.DeliveryStage(ctx, librarian, info.ID, "")
	problem(t, err, desk.Refused, "none of room’s trusted keys")
	problem(t, shop.TrustDrop(ctx, keeper, row.ID), desk.NotFound, "does not exist")
	_, err = shop.SetTrust(ctx, keeper, "hut", desk.SiteTrust{Policy: desk.TrustIgnore})
	require.NoError(t, err)

	// And again when it goes live.
	_, err = shop.Replan(ctx, librarian, info.ID)
	require.NoError(t, err)
	_, err = shop.DeliveryStage(ctx, librarian, info.ID, "")
	require.NoError(t, err)
	_, err = shop.SetTrust(ctx, keeper, "hut", desk.SiteTrust{Policy: desk.TrustRequire})
	require.NoError(t, err)
	_, err = shop.DeliveryGoLive(ctx, keeper, info.ID, nil)
	problem(t, err, desk.Refused, "none of anybody's trusted keys")
	_, err = shop.SetTrust(ctx, keeper, "hut", desk.SiteTrust{Policy: desk.TrustIgnore})
	require.NoError(t, err)
}

func TestKitsThatNeedKits(t *testing.T) {
	shop := newWorkshop(t)
	shop.begin("signed", "1.0.0", making.Pick{From: "hut", Address: address("part/top")})
	shop.seal("signed", "1.0.0")
	shop.begin("leaning", "1.0.0", making.Pick{From: "hut", Address: address("stylesheet/base")})
	_, err := shop.KitDescribe(
		ctx,
		librarian,
		"leaning",
		"1.0.0",
		0,
		func(w *making.Draft) { w.Kits = map[string]string{"signed": "^1"} },
	)
	require.NoError(t, err)
	_, err = shop.KitResolve(ctx, viewer, "leaning", "1.0.0", "hut")
	problem(t, err, desk.Refused, "not sealed yet")
	_, err = shop.KitSeal(ctx, librarian, "leaning", "1.0.0", 0, "")
	require.NoError(t, err)
	choice, err := shop.KitResolve(ctx, viewer, "leaning", "1.0.0", "hut")
	require.NoError(t, err)
	assert.Equal(t, []desk.ChosenKit{{Kit: "signed", Version: "1.0.0"}}, choice.Kits)
	shop.begin("leaning", "2.0.0", making.Pick{From: "hut", Address: address("stylesheet/base")})
	_, err = shop.KitDescribe(
		ctx,
		librarian,
		"leaning",
		"2.0.0",
		0,
		func(w *making.Draft) { w.Kits = map[string]string{"signed": ">=7"} },
	)
	require.NoError(t, err)
	_, err = shop.KitSeal(ctx, librarian, "leaning", "2.0.0", 0, "")
	require.NoError(t, err)
	choice, err = shop.KitResolve(ctx, viewer, "leaning", "2.0.0", "hut")
	require.NoError(t, err)
	assert.False(t, choice.Fits)
	assert.Contains(t, strings.Join(choice.Chain, "\n"), "leaning@2.0.0 needs signed >=7 (there is 1.0.0)")
	info, err := shop.DeliveryOpen(ctx, librarian, "leaning", "2.0.0", "hut", plan.Request{})
	require.NoError(t, err)
	assert.Contains(t, strings.Join(info.Planned.Notes, "\n"),
		"These cannot all be met: leaning@2.0.0 needs signed >=7")
}

func TestProposedSettingsAreNeverTakenOverAValueUnasked(t *testing.T) {
	shop := newWorkshop(t)
	shop.begin("proposing", "1.0.0", making.Pick{From: "hut", Address: address("page/home")})
	_, err := shop.KitDescribe(ctx, librarian, "proposing", "1.0.0", 0, func(w *making.Draft) {
		w.Proposes = map[string]any{"setting/language": "fr", "setting/home": "page/home"}
	})
	require.NoError(t, err)
	_, err = shop.KitSeal(ctx, librarian, "proposing", "1.0.0", 0, "")
	require.NoError(t, err)
	info, err := shop.DeliveryOpen(ctx, librarian, "proposing", "1.0.0", "hut", plan.Request{Policy: "unattended"})
	require.NoError(t, err)
	said := map[string]plan.Decision{}
	for _, s := range info.Planned.Settings {
		said[s.Setting.Key] = s.Decision
	}
	assert.Equal(t, plan.Take, said["language"], "the site has none")
	info, err = shop.DeliveryStage(ctx, librarian, info.ID, "")
	require.NoError(t, err)
	info, err = shop.DeliveryGoLive(ctx, keeper, info.ID, nil)
	require.NoError(t, err)
	got, err := shop.Item(ctx, viewer, "hut", item.Address{Kind: item.Setting, Key: "language"}, 0)
	require.NoError(t, err)
	assert.Equal(t, `"fr"`, string(got.Content))
	_, err = shop.DeliveryUndo(ctx, keeper, info.ID, desk.Undo{})
	require.NoError(t, err)
	_, err = shop.Item(ctx, viewer, "hut", item.Address{Kind: item.Setting, Key: "language"}, 0)
	problem(t, err, desk.NotFound, "language")
}

// A kit is known by its home page: the one that it proposes, the one at the root, or the one that is called so; else
// by its first page or piece.
func TestTheFaceOfAKit(t *testing.T) {
	entry := func(a, slug string) kit.Entry {
		at := address(a)
		return kit.Entry{Kind: at.Kind, Key: at.Key, Meta: item.Meta{Slug: slug}}
	}
	contact, front, start := entry(
		"page/contact",
		"/contact/",
	), entry(
		"page/front",
		"/",
	), entry(
		"page/start",
		"/start/",
	)
	for want, list := range map[string]*kit.PackingList{
		"page/front": {Items: []kit.Entry{contact, front, start}},
		"page/start": {Items: []kit.Entry{contact, front, start},
			Proposes: map[string]any{"setting/home": "page/start"}},
		"page/home":    {Items: []kit.Entry{contact, entry("page/home", "/x/")}},
		"page/contact": {Items: []kit.Entry{entry("block/a", ""), contact}},
		"section/a":    {Items: []kit.Entry{entry("part/a", ""), entry("section/a", "")}},
	} {
		t.Run(want, func(t *testing.T) {
			face, ok := desk.KitInfo{Packs: list}.Face()
			assert.True(t, ok)
			assert.Equal(t, want, face.String())
		})
	}
	_, ok := desk.KitInfo{Packs: &kit.PackingList{Items: []kit.Entry{entry("stylesheet/a", "")}}}.Face()
	assert.False(t, ok)
}
