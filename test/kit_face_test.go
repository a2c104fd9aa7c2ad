package test

import (
	"strings"
	"testing"
	"time"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A kit is known at sight by its home page, until its makers choose another of its items; the choice travels with it.
func TestTheMakersOfAKitChooseWhatShowsIt(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	s.Must("kit", "new", "hours@1.0.0", "--title", "Hours", "--license", "CC0-1.0")
	s.Must("kit", "add", "hours@1.0.0", "page/home", "section/opening-hours", "--from", "kestrel-refuge")
	face := func() string {
		var list api.KitList
		s.JSON(&list, "kit", "list")
		require.Len(t, list.Kits, 1)
		require.NotNil(t, list.Kits[0].Face)
		return *list.Kits[0].Face
	}
	assert.Contains(t, face(), "/page/home")
	s.Must("kit", "describe", "hours@1.0.0", "--face", "section/opening-hours")
	assert.Contains(t, face(), "/section/opening-hours")
	s.Must("kit", "describe", "hours@1.0.0", "--title", "Opening hours")
	assert.Contains(t, face(), "/section/opening-hours", "what is not named stays")
	bad := s.Client("kit", "describe", "hours@1.0.0", "--face", "media/hut-door.jpg")
	assert.Equal(t, 2, bad.Code, bad.Err)
	assert.Contains(t, bad.Err, "has no picture of its own")
	s.Must("kit", "describe", "hours@1.0.0", "--face", "page/nowhere")
	assert.Contains(t, face(), "/page/home", "what is not in it shows nothing")
	assert.Contains(t, s.Client("kit", "check", "hours@1.0.0").Out, "chosen to show the kit")

	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/kits/hours/1.0.0")
	b.Press("Version and terms")
	b.Choose("#w-face", "section/opening-hours")
	b.Press("Save")
	require.Eventually(t, func() bool { return strings.Contains(face(), "/section/opening-hours") }, 20*time.Second,
		100*time.Millisecond)
	s.Must("kit", "seal", "hours@1.0.0")
	var k api.Kit
	s.JSON(&k, "kit", "show", "hours@1.0.0")
	require.NotNil(t, k.Face)
	assert.Equal(t, "section/opening-hours", k.Face.String())
	assert.Contains(t, face(), "/section/opening-hours")
}
