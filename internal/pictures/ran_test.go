package pictures

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A page that was run is known with what its scripts put there: at once, when it is scrolled, and when a button is
// pressed; without its texts, and with what was taken away again.
func TestAPageIsSeenAsItsScriptsLeaveIt(t *testing.T) {
	b := newBrowser(t)
	b.Limits.Time, b.Limits.Rest = 3*time.Minute, time.Minute // the large page is drawn on a busy machine, too
	s := site{
		"/": `<!doctype html><html><body><main class="stage" style="height:4000px"><p>The key lies under the ` +
			`stone</p><button class="more">More</button><details><summary>Prices</summary></details></main><script>
			const m = document.querySelector("main")
			m.append(Object.assign(document.createElement("ol"), {className: ["sl", "dots"].join("-")}))
			addEventListener("scroll", () => m.classList.add("was-" + "scrolled"))
			document.querySelector(".more").onclick = (e) => {
				e.target.classList.add("is-pressed"); setTimeout(() => e.target.classList.remove("is-pressed"), 10)
			}
			</script></body></html>`,
		"/still":  `<!doctype html><p class="x">no script</p>`,
		"/leaves": `<!doctype html><button onclick="location='/still'">go</button><script>1</script>`,
		"/huge": `<!doctype html><body><script>for (let i = 0; i < 30000; i++) document.body.append(` +
			`Object.assign(document.createElement("p"), {className: "a-long-name-" + i}))</script>`,
	}
	seen := func(path string) string {
		shot, err := b.Shoot(context.Background(), View{Host: "hut.localhost", Path: path, Width: 390, Serve: s})
		require.NoError(t, err, path)
		require.NotEmpty(t, shot.PNG)
		doc, err := unpacked(shot.Seen.Ran)
		require.NoError(t, err)
		return string(doc)
	}
	got := seen("/")
	assert.Contains(t, got, `<ol class="sl-dots">`)
	assert.Contains(t, got, `<main class="stage was-scrolled">`)
	assert.Contains(t, got, `<button class="more is-pressed">`)
	assert.Contains(t, got, `<details open="">`)
	assert.NotContains(t, got, "stone")
	assert.NotContains(t, got, "4000px")
	assert.Empty(t, seen("/still"))
	seen("/leaves") // it leads elsewhere, at once or a little later: its picture is made all the same
	assert.Empty(t, seen("/huge"), "it is too large")
}
