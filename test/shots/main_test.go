package main

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAPictureIsOlderThanWhatItShows(t *testing.T) {
	file := func(text string) *fstest.MapFile { return &fstest.MapFile{Data: []byte(text)} }
	root := fstest.MapFS{
		"docs/screenshots/sources.txt":     file("# what they show\nconsole-kit web/KitView.vue\n"),
		"docs/screenshots/console-kit.png": file("png"),
		"web/KitView.vue":                  file(`import A from "./parts/A.vue"`),
		"web/parts/A.vue":                  file(`import B from "../B.vue"; import x from "./x"`),
		"web/B.vue":                        file(`import A from "./parts/A.vue"`),
		"web/Unrelated.vue":                file(`one`),
	}
	digest, err := digestOf(root, []string{"web/KitView.vue"})
	require.NoError(t, err)
	root["docs/screenshots/console-kit.sha256"] = file(digest + "\n")
	require.NoError(t, run(root, false))
	root["web/Unrelated.vue"] = file("two")
	require.NoError(t, run(root, false))
	root["web/B.vue"] = file("it shows something else")
	require.ErrorContains(t, run(root, false), "console-kit.png is older than what it shows")
	root["docs/screenshots/new.png"] = file("png")
	assert.ErrorContains(t, run(root, false), "does not tell what new.png shows")
}
