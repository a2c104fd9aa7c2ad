package test

import (
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
)

// A picture is cropped and named in the list of media; what shows it follows.
func TestPicturesAreCroppedAndNamedInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	s.Must("site", "sizes", "kestrel-refuge", "media/stove-smoke.jpg", "--widths", "300", "--draft", "sizes")
	s.Must("site", "go-live", "kestrel-refuge", "sizes")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge/pictures")
	card := `[data-media-card="media/stove-smoke.jpg"] `
	b.Sees("stove-smoke.jpg")
	harness.Eval[any](b, `document.querySelector('`+card+`').scrollIntoView()`)
	written(b, card+`input[aria-label^="Alternative text"]`, "Smoke over the roof")
	b.Sees("Wrote the alternative text of stove-smoke.jpg")
	b.Click(card + `button.link`)
	b.Sees("What is left of stove-smoke.jpg")
	written(b, `[data-side="left"]`, "40")
	written(b, `[data-side="width"]`, "400")
	b.Press("Crop to 400 × 400 px")
	b.Sees("ropped media/stove-smoke.jpg to 400×400 px")
	liveNow(b)
	var got api.MediaList
	s.Call("GET", "/api/v1/sites/kestrel-refuge/pictures?words=stove", nil).Into(t, &got)
	for _, m := range got.Media {
		assert.Equal(t, *m.Width, *m.Height, "%s: the sizes in which it is offered, too", m.Item.Address)
	}
	assert.Len(t, got.Media, 2)
	texts := s.Must("site", "alternatives", "kestrel-refuge", "media/stove-smoke.jpg")
	assert.Contains(t, texts, "Smoke over the roof")
	assert.Contains(t, s.Client("site", "alternatives", "kestrel-refuge", "media/stove-smoke.jpg", "Other", "--was",
		"Nobody said").Err, "nothing says")
	assert.Contains(t, s.Client("site", "alternatives", "kestrel-refuge", "media/gone.jpg").Err, "no such picture")
	assert.Contains(t, s.Client("site", "crop", "kestrel-refuge", "media/stove-smoke.jpg", "--left", "4000",
		"--width", "9", "--height", "9").Err, "nothing of it lies there")
	assert.Contains(t, s.Client("site", "crop", "kestrel-refuge", "media/valley-map.svg", "--width", "9",
		"--height", "9").Err,
		"it is an SVG")
}

// On a page a picture is cropped for that page alone.
func TestAPictureIsCroppedOnAPageInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge/edit/")
	b.Shows("Why people come up here")
	b.PointAt("img[src*=stove-smoke]")
	b.Press("Crop it")
	b.Sees("What is left of stove-smoke.jpg")
	written(b, `[data-side="width"]`, "200")
	b.Press("Crop to 200 × 400 px")
	b.Saved()
	b.Do(waitGone(`[data-crop]`))
	goLive(b)
	home := string(s.Visit(s.Live("kestrel-refuge") + "/").Body)
	assert.Regexp(t, `stove-smoke-cropped.jpg" width="200" height="400"`, home)
	assert.Equal(t, 200, s.Visit(s.Live("kestrel-refuge")+"/media/stove-smoke.jpg").Status, "the whole stays")
}
