#!/usr/bin/env bash
# The main job, end to end, through the client: what a librarian would type and read.
set -euo pipefail
cd "$(dirname "$0")/.."
work=$(mktemp -d)
port() { node -e 'const s = require("net").createServer().listen(0, "127.0.0.1", () => { console.log(s.address().port); s.close() })'; }
console=$(port) previews=$(port) forms=$(port)
bin/cparceld serve --demo --data "$work/data" --listen "127.0.0.1:$console" --previews "127.0.0.1:$previews" --forms "127.0.0.1:$forms" >"$work/said" 2>"$work/log" &
service=$!
cleanup() { kill "$service" 2>/dev/null || true; wait "$service" 2>/dev/null || true; rm -rf "$work"; }
trap cleanup EXIT
for _ in $(seq 240); do
  grep -q '^Token:' "$work/said" && break
  kill -0 "$service" 2>/dev/null || { cat "$work/log" >&2; exit 1; }
  sleep 0.25
done
export CPARCEL_SERVER="http://127.0.0.1:$console" CPARCEL_TOKEN
CPARCEL_TOKEN=$(awk '/^Token:/ {print $2}' "$work/said")

bold="" plain="" faint=""
if [ -t 1 ]; then bold=$'\033[1m' faint=$'\033[2m' plain=$'\033[0m'; fi
say() { printf '\n%s%s%s\n' "$bold" "$*" "$plain"; }
run() { printf '%s$ cparcel %s%s\n' "$faint" "$*" "$plain"; bin/cparcel "$@"; }
state() { bin/cparcel site list -o json | tr -d ' \n' | sed 's/.*"digest":"\([0-9a-z-]*\)","items":[0-9]*,"name":"larch-saddle".*/\1/'; }
draft() { sed -n 's/.*draft \([0-9]*\).*/\1/p' "$1" | head -1; } # the draft that a command told of
visit() { # visit PATH: the live page, as a browser would ask for it
  node -e 'require("http").get({ host: "127.0.0.1", port: process.argv[1], path: process.argv[2], headers: { Host: "larch-saddle.localhost:" + process.argv[1] } }, (r) => { if (r.statusCode !== 200) process.exit(1); r.pipe(process.stdout) })' "$previews" "$1"
}

say "Two sites of the Highmoor Huts. Kestrel Refuge is the model; Larch Saddle is nearly empty."
run site list
before=$(state)
visit /house-rules/ >"$work/rules.before"

say "The opening hours and the site header go into the library, with all they need."
run library add kestrel-refuge section/opening-hours part/site-header
run library list

say "They make the kit hut-basics 0.1.0. What comes along, and why:"
run kit new hut-basics@0.1.0 --title "Hut basics" --license CC-BY-4.0 --credit "Highmoor web room"
run kit add hut-basics@0.1.0 section/opening-hours part/site-header --from kestrel-refuge
run kit check hut-basics@0.1.0
run kit seal hut-basics@0.1.0
run kit get hut-basics@0.1.0 -f "$work/hut-basics.cpkit"

say "It is delivered to Larch Saddle, which has a menu named main already. First the plan:"
code=0
run deliver hut-basics@0.1.0 larch-saddle || code=$?
[ "$code" = 3 ] || { echo "the delivery should wait for decisions (exit code 3), it ended with $code" >&2; exit 1; }

say "The one clash is decided, the hut's name filled in; the draft is staged."
delivery=$(bin/cparcel delivery list -o json | tr -d ' \n' | sed 's/.*"deliveries":\[{[^}]*"id":\([0-9]*\).*/\1/')
run delivery decide "$delivery" --decide menu/main=both --fill "hut-name=Larch Saddle"
[ "$(state)" = "$before" ] || { echo "staging changed the live site" >&2; exit 1; }

say "It goes live. What a visitor reads now:"
run delivery go-live "$delivery"
visit / | sed -n 's/<[^>]*>//g; /is open/p'
visit /house-rules/ | cmp - "$work/rules.before" && echo "The house rules, which the plan did not name, are the same to the byte."

say "And it is taken back: the site is as it was, digest for digest."
run delivery undo "$delivery"
after=$(state)
echo "before $before"
echo "after  $after"
[ "$before" = "$after" ] || { echo "the undo left a difference" >&2; exit 1; }
say "Cairn Edge is a folder of HTML that its designer left behind. It becomes a site, and what repeats is found:"
run site adopt "$work/data/cairn-edge" --name cairn-edge --parts ask || code=$?
[ "$code" = 3 ] || { echo "the proposals should wait (exit code 3), adopting ended with $code" >&2; exit 1; }

say "The header, the footer and the block for questions become parts and a section that all pages use."
run site accept cairn-edge part/site-header part/site-footer section/ask | tee "$work/accepted"
run site go-live cairn-edge "$(draft "$work/accepted")"
run site surround cairn-edge /walks/tarn.html
run site scripts cairn-edge

say "It is published back to a folder, page for page as it was, and somebody edits a page there."
run site publish cairn-edge "$work/published"
sed -i 's/Your words/Your question/' "$work/published/contact.html"
code=0
run site publish cairn-edge "$work/published" || code=$?
[ "$code" = 5 ] || { echo "what was changed outside should not be written over (exit code 5), publishing ended with $code" >&2; exit 1; }

say "The edit comes home, into a draft of its own."
run site adopt "$work/published" --name cairn-edge --again | tee "$work/again"
run site go-live cairn-edge "$(draft "$work/again")"
run site publish cairn-edge "$work/published"
grep -q 'Your question' "$work/published/contact.html" || { echo "the edit was lost" >&2; exit 1; }
say "A kit is made piece by piece: all placed parts, a page, one element of it; blanks, lighter pictures, a need."
run kit new story@1.0.0 --license CC-BY-4.0 --credit "Highmoor web room" --title "The story"
run kit add story@1.0.0 --placed-parts --from kestrel-refuge >/dev/null
run kit add story@1.0.0 page/home --from kestrel-refuge >/dev/null
run kit add story@1.0.0 page/home --from kestrel-refuge --element ul.cards --as block/reasons >/dev/null
run kit fill-in story@1.0.0 ask --in page/home --at a.button --bind href --label "Where one asks for a bunk" >/dev/null
run kit media story@1.0.0 all lighter --width 800 >/dev/null
run kit exclude story@1.0.0 component/x-weather-strip --optional
run kit graph story@1.0.0
run kit check story@1.0.0
run kit seal story@1.0.0

say "It opens without us: unzip, and a browser."
run kit get story@1.0.0 -f "$work/story.cpkit"
run file inspect "$work/story.cpkit"
run file split "$work/story.cpkit" "$work/pieces"
mkdir "$work/opened" && (cd "$work/opened" && node -e '
  const { execFileSync } = require("child_process")
  try { execFileSync("unzip", ["-q", process.argv[1]]) } catch { execFileSync(process.argv[2], ["file", "unpack", process.argv[1], "kit"]) }' "$work/story.cpkit" "$OLDPWD/bin/cparcel" && find . -name 'page--home.html' | sed 's/^/a browser opens /')

say "Somebody else's loose files, under any name, become a kit in the making with a report."
run file pack "$work/data/cairn-edge" --kit cairn@0.1.0 --title "Cairn" --license CC0-1.0 -f "$work/cairn.bin"
run kit import "$work/cairn.bin"
printf '<section class="band"><h2>Hello from the ridge</h2></section>\n' >"$work/band.txt"
run kit import "$work/band.txt"

say "What a new version changed, and which number that asks for:"
run kit next-version hut-basics@2.0.0
say "Kits need kits. Winter notices need hut-basics; the bothy's weather strip is too old for hut-basics 2."
run kit resolve winter-notices@0.4.0 larch-saddle
code=0
run kit resolve hut-basics@2.0.0 blackwater-bothy || code=$?
[ "$code" = 5 ] || { echo "nothing should fit (exit code 5), it ended with $code" >&2; exit 1; }

say "Blackwater Bothy is brought up to date. It had hut-basics 1.0.0 last spring and edited it since: nothing of that is lost, and one thing is asked."
code=0
run deliver hut-basics@1.1.0 blackwater-bothy | tee "$work/up" || code=$?
[ "$code" = 3 ] || { echo "the conflict and the home page should be asked about (exit code 3), it ended with $code" >&2; exit 1; }
up=$(sed -n 's/^Delivery \([0-9]*\):.*/\1/p' "$work/up" | head -n 1)
say "What both sides made of the opening hours, and what becomes of them:"
run delivery compare "$up" section/opening-hours
run delivery decide "$up" --decide page/home=both --decide part/not-found=blend:site
say "While the draft waits the keeper edits the hours once more. Going live blends that in."
bin/cparcel delivery compare "$up" section/opening-hours --side site | sed 's/key at the valley desk/key at the boathouse/' >"$work/hours.html"
run site put blackwater-bothy section/opening-hours "$work/hours.html" | tee "$work/edit"
run site go-live blackwater-bothy "$(draft "$work/edit")"
run delivery go-live "$up"

say "Version 2.0.0 wants a newer weather strip than the site has. The library gets one, and the plan offers to raise it."
run library add kestrel-refuge component/x-weather-strip
run deliver hut-basics@2.0.0 blackwater-bothy --decide need:x-weather-strip=raise --live | tee "$work/two"
two=$(sed -n 's/^Delivery \([0-9]*\):.*/\1/p' "$work/two" | head -n 1)
say "Dusk is a kit of style alone: its tokens are told with their distances and contrasts, and one is taken."
code=0
run deliver dusk@1.0.0 blackwater-bothy --decide tokens/brand=both --decide token:--color-water=keep || code=$?
[ "$code" = 2 ] || { echo "a token that dusk does not have should be refused (exit code 2), it ended with $code" >&2; exit 1; }
run deliver dusk@1.0.0 blackwater-bothy --decide tokens/brand=both --decide token:--color-line=take --decide class:site-footer=mark
say "The raised component is taken back by itself, then all of it; what the keeper wrote stays."
run delivery undo "$two" --item component/x-weather-strip
run delivery undo "$two" --blend
run delivery undo "$up" --blend
bin/cparcel site show blackwater-bothy section/opening-hours -o json | grep -q 'key at the boathouse' || { echo "what the keeper wrote is gone" >&2; exit 1; }

say "Kestrel Refuge is kept in a draft, step by step: words and a menu's entry, one step back and done again."
run site edit kestrel-refuge /contact/ text "main h1" --value "Write to the warden" --draft spring
run site edit kestrel-refuge menu/main entry-add --label "Write" --value /contact/ --draft spring
run draft undo kestrel-refuge spring
run draft redo kestrel-refuge spring
run draft show kestrel-refuge spring --lines
before=$(bin/cparcel site show kestrel-refuge -o json | sed -n 's/^  "revision": \([0-9]*\).*/\1/p')
run site check kestrel-refuge --draft spring
run site go-live kestrel-refuge spring
run site differences kestrel-refuge --from "$before"
say "One page is brought back as it was; the menu keeps its entry."
run site bring-back kestrel-refuge page/contact --revision "$before" --draft back
run site go-live kestrel-refuge back

say "A keeper makes a site of a kit: what the kit asks for is filled in, and there is a site, or none."
run site new larch-hollow --title "Larch Hollow" --kit hut-basics@1.1.0 --fill hut-name="Larch Hollow" --fill phone="01 200 300" --fill valley="the Larch Valley"
say "In a draft: one more section, other words, a link, a picture, a tinted ground, an entry of the menu. Each is a step."
run site use section/opening-hours larch-hollow --page /contact/ --after "main h1" --fill hut-name="Larch Hollow" --draft opening
run site edit larch-hollow / text "main h1" --value "Larch Hollow is open" --draft opening
run site edit larch-hollow / link "main .button" --value /contact/ --draft opening
run site edit larch-hollow / picture ".card:first-child img" --value media/stove-smoke.jpg --draft opening
run site edit larch-hollow / appearance "main section:nth-of-type(2)" --property background --value "#eef3ee" --draft opening
run site edit larch-hollow menu/main entry-add --label "Opening hours" --value "/#opening-hours" --draft opening
run site edit larch-hollow setting/forms set --value '{"booking": {"to": ["warden@larch.highmoor.example"], "subject": "A bunk for {name}"}}' --draft opening
run draft show larch-hollow opening --lines
say "It goes live in a moment. An urgent fix passes it, and is taken in."
at=$(node -p 'new Date(Date.now() + 8000).toISOString()')
run site go-live larch-hollow opening --at "$at"
run site edit larch-hollow / text "main section:nth-of-type(2) h2" --value "Why come up here" --draft urgent
run site go-live larch-hollow urgent
larch() { bin/cparcel site show larch-hollow -o json | sed -n 's/^  "revision": \([0-9]*\).*/\1/p'; }
urgent=$(larch)
for _ in $(seq 120); do [ "$(larch)" -gt "$urgent" ] && break; sleep 0.25; done
run site differences larch-hollow --from "$urgent"
bin/cparcel site show larch-hollow page/home -o json | grep -q 'Why come up here' || { echo "the urgent fix was lost" >&2; exit 1; }
say "The contact page is stepped back by itself."
run site bring-back larch-hollow page/contact --revision "$urgent" --draft back
run site go-live larch-hollow back
say "It is published, and a visitor asks for a bunk. The warden is told by mail, and the entry is kept."
run site publish larch-hollow "$work/larch" --forms here
action=$(sed -n 's/.*<form class="cp-form" method="post" action="\([^"]*\)".*/\1/p' "$work/larch/contact/index.html")
node -e 'fetch(process.argv[1], { method: "POST", body: new URLSearchParams({ name: "Alva Stone", mail: "alva@highmoor.example", night: "2027-02-06", people: "2" }) }).then(async (r) => { console.log((await r.text()).replace(/<[^>]*>/g, "").replace(/\s*\n\s*/g, "\n")); process.exit(r.ok ? 0 : 1) })' "$action"
run form entries larch-hollow booking
for _ in $(seq 80); do ls "$work/data/mails/"*.eml >"$work/mails" 2>/dev/null && break; sleep 0.25; done
grep -h '^Subject' $(cat "$work/mails")

say "The web room signs; Larch Saddle takes nothing else from now on."
run file keys new "$work/ida"
run site trust larch-saddle --policy require
code=0
run deliver ridge-walk@1.0.0 larch-saddle || code=$?
[ "$code" = 5 ] || { echo "an unsigned kit should be refused (exit code 5), it ended with $code" >&2; exit 1; }
run trust add "$work/ida.pub" --team "web room"
run kit sign ridge-walk@1.0.0 --key "$work/ida"
code=0
run deliver ridge-walk@1.0.0 larch-saddle || code=$?
[ "$code" = 0 ] || [ "$code" = 3 ] || { echo "the signed kit should be planned, it ended with $code" >&2; exit 1; }
say "That is the tour."
