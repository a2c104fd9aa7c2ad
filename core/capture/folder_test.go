package capture

import (
	"testing"
	"testing/fstest"

	"compactparcel/core/item"
	"compactparcel/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func folderOf(files map[string]string) fstest.MapFS {
	out := fstest.MapFS{}
	for p, text := range files {
		out[p] = &fstest.MapFile{Data: []byte(text)}
	}
	return out
}

func TestAKitOfAFolder(t *testing.T) {
	files := map[string]string{
		"site.json": `{"format":1,"style-order":["stylesheet/base"],"items":[{"kind":"section",` +
			`"key":"hours","title":"Hours","styles":["stylesheet/base"]}]}`,
		"settings.json": `{"language":"en","visit-counter":"x"}`,
		"sections/hours.html": `<section class="hours"><img src="/media/a.png" alt=""><a href="/way/">way</a><p ` +
			`data-fill="text:hut">Sample</p></section>`,
		"stylesheets/base.css": ".hours{top:0} .unused{top:0}",
		"media/a.png":          "\x89PNG\r\n\x1a\n",
	}
	list, taken, notes, err := FromFolder(folderOf(files))
	require.NoError(t, err)
	assert.Empty(t, notes)
	assert.Equal(t, []string{"section/hours", "stylesheet/base", "media/a.png", "setting/language"},
		addresses(taken.Items))
	assert.Len(t, list.Fillins, 1)
	assert.Equal(t, "/way/", list.Needs.Items[0].Slug)
	assert.Equal(t, []kit.LeftOut{{Address: "setting/visit-counter", Why: "site-only"}}, list.LeavesOut)
	h, _ := taken.Items.Find(item.MustAddress("stylesheet/base"))
	b, err := item.Read(taken.Items, h)
	require.NoError(t, err)
	assert.Contains(t, string(b), ".unused", "a folder's stylesheets come whole")

	// With a packing list its words stay, and what it declared.
	list.Kit, list.Version, list.Title = "hut-test", "1.0.0", "Hut test"
	list.Fillins[0].Label = "The hut's own name"
	text, err := list.Canonical()
	require.NoError(t, err)
	delete(files, "site.json")
	files[kit.ListName], files["views/page--x.html"], files["settings/language.json"] = string(
		text,
	), "made again", `"en"`
	delete(files, "settings.json")
	again, _, _, err := FromFolder(folderOf(files))
	require.NoError(t, err)
	same, err := again.Canonical()
	require.NoError(t, err)
	assert.Equal(t, string(text), string(same))

	loose, _, _, err := FromFolder(
		folderOf(
			map[string]string{
				"index.html": `<link rel="stylesheet" href="a.css"><p class="x">a static site`,
				"a.css":      ".x { color: red } .y { color: blue }",
			},
		),
	)
	require.NoError(t, err, "loose HTML and CSS are a kit, too")
	assert.Len(t, loose.Items, 2)

	for says, in := range map[string]map[string]string{
		"not in order":     {kit.ListName: "{"},
		"unknown field":    {kit.ListName: `{"colour":"red"}`},
		"is missing":       {kit.ListName: `{"format":1,"items":[{"kind":"page","key":"x","path":"pages/x.html"}]}`},
		"there are no fil": {},
	} {
		t.Run(says, func(t *testing.T) {
			_, _, _, err := FromFolder(folderOf(in))
			assert.ErrorContains(t, err, says)
		})
	}
}
