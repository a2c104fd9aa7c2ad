package test

import (
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// into scrolls to an element.
func into(b *harness.Browser, selector string) {
	b.Do(chromedp.WaitVisible(selector))
	harness.Eval[bool](
		b,
		`(async () => { document.querySelector(`+"`"+selector+"`"+`).scrollIntoView({block: "start"}); await new `+
			`Promise((r) => setTimeout(r, 2500)); return true })()`,
	)
}

// Story 2 in the console: what both sides changed, conflict by conflict; tokens tried on;
// what is taken back separately.
func TestBlackwaterBothyInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	b := harness.NewBrowser(t)
	b.Go(s.Console + "/deliveries")
	b.Type("#name", "ida")
	b.Type("#password", "highmoor-demo")
	b.Press("Sign in")
	b.Sees("One kit coming into one site") // signed in, and back where the visit began
	var d api.Delivery
	s.Call("POST", "/api/v1/deliveries", m{"kit": "hut-basics", "version": "1.1.0", "site": "blackwater-bothy"}).
		Into(t, &d)
	b.Go(s.Console + "/deliveries/2/contents")
	b.Sees("The kit is newer than what is here")
	b.Sees("edits made here stay")
	b.Press("On to the plan")
	b.Sees("2 questions need you")

	// The conflict: three sides as they look and as texts.
	into(b, `[data-question="part/not-found"]`)
	b.Sees("The mist does that.")
	b.Sees("It happens to the best; here is the map.")
	b.Shot("console-conflict")
	b.Click(`[data-question="part/not-found"] [data-conflict] button`)
	b.Sees("1 question needs you")
	b.Painted() // the question that is left has moved up
	b.Click(`[data-decide="page/home=both"]`)
	b.Sees("No open questions here")

	// What was decided last spring, and can be decided otherwise.
	b.Click(`[data-row="section/opening-hours"]`)
	b.Sees("As it becomes")
	into(b, `section[aria-label="Names, places and settings"]`)
	b.Sees("part/footer is there, part/site-footer claims the place; decided by you, at the last delivery")
	b.Click(`[data-decide="seat:footer:everywhere=narrow"]`)
	b.Sees("part/footer is there, part/site-footer claims the place; decided by you")
	into(b, `section[aria-label="Names, places and settings"]`)
	b.Press("On to the blanks")
	b.Sees("It has the value of the last delivery")
	b.Press("On to the preview")
	b.Press("Stage the draft")
	b.Sees("The draft")
	b.Sees("Work on it as it looks")

	// Somebody edits the same words meanwhile: it is asked when it goes live.
	edited(t, s, "blackwater-bothy", "section/opening-hours", "Friday to Sunday", "Fridays")
	b.Press("Go live")
	b.Confirm()
	b.Sees("Somebody edited the site after the draft was staged")
	b.Click(`[aria-label="Edited in the meantime"] [data-decide$="=kit"]`)
	b.Press("Go live")
	b.Confirm()
	b.Sees("Live since")
	b.Sees("What is left to do")
	b.Shot("console-receipt")
	assert.Contains(t, string(s.Visit(s.Live("blackwater-bothy")+"/no/such/").Body), "The mist does that.")

	// 2.0.0: the component it needs is raised to the library's.
	s.Must("library", "add", "kestrel-refuge", "component/x-weather-strip")
	s.Call("POST", "/api/v1/deliveries", m{"kit": "hut-basics", "version": "2.0.0", "site": "blackwater-bothy"}).
		Into(t, &d)
	b.Go(s.Console + "/deliveries/3/plan")
	b.Sees("The component x-weather-strip >=2.0 <4 is needed; the site has version 1.4.0")
	b.Click(`[data-decide="need:x-weather-strip=raise"]`)
	b.Sees("No open questions here")
	b.Sees("decided: raise (you)")
	b.Sees("part/top-bar → part/site-header")
	b.Press("On to the blanks")
	b.Press("On to the preview")
	b.Press("Stage the draft")
	b.Press("Go live")
	b.Confirm()
	b.Sees("Live since")
	b.Press("Take it back")
	b.Confirm()
	b.Sees("Taken back, as revision")
	b.Go(s.Console + "/deliveries/2/receipt")
	b.Sees("Live since")

	// One item is taken back separately; an edit since stops the rest, and is blended.
	harness.Eval[bool](
		b,
		`([...document.querySelectorAll("li")].find((l) => l.innerText.includes("part/not-found") && `+
			`l.querySelector("button"))?.querySelector("button").click(), true)`,
	)
	b.Sees("Take only part/not-found back?")
	b.Confirm()
	b.Sees("taken back separately")
	edited(t, s, "blackwater-bothy", "section/opening-hours", "the chimney is swept", "the sweep is here")
	edited(t, s, "blackwater-bothy", "section/opening-hours", "Friday to Monday", "on Mondays")
	b.Press("Take it back")
	b.Confirm()
	b.Sees("has been edited since then")
	b.Press("Take back, keep the edits")
	b.Confirm()
	b.Click(`[aria-label="Edited since"] [data-decide]`) // what both wrote is asked
	b.Press("Take it back this way")
	b.Sees("Taken back, as revision")

	// A kit of style: its tokens tried on before anything is decided.
	s.Call("POST", "/api/v1/deliveries",
		m{"kit": "dusk", "version": "1.0.0", "site": "blackwater-bothy",
			"decisions": m{"tokens/brand": "both", "class:site-footer": "rename"}}).
		Into(t, &d)
	b.Go(s.Console + "/deliveries/4/plan")
	b.Sees("No open questions here")
	b.Press("Try all on")
	b.Sees("with the kit’s --color")
	b.Click(`[data-decide="token:--color-ink=take"]`)
	b.Do(chromedp.WaitVisible(`[data-decide="token:--color-ink=take"][aria-pressed="true"]`))
	into(b, `[data-token="--color-paper"]`)
	b.Shot("console-tokens")
}
