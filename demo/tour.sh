#!/usr/bin/env bash
# The main job, end to end, through the client: what a librarian would type and read.
set -euo pipefail
cd "$(dirname "$0")/.."
work=$(mktemp -d)
port() { node -e 'const s = require("net").createServer().listen(0, "127.0.0.1", () => { console.log(s.address().port); s.close() })'; }
console=$(port) previews=$(port)
bin/cparceld serve --demo --data "$work/data" --listen "127.0.0.1:$console" --previews "127.0.0.1:$previews" >"$work/said" 2>"$work/log" &
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
state() { bin/cparcel site list -o json | tr -d ' \n' | sed 's/.*"digest":"\([0-9a-f]*\)","items":[0-9]*,"name":"larch-saddle".*/\1/'; }
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
run kit put hut-basics@0.1.0 section/opening-hours part/site-header --from kestrel-refuge
run kit check hut-basics@0.1.0
run kit seal hut-basics@0.1.0
run kit get hut-basics@0.1.0 -f "$work/hut-basics.cpkit"

say "It is delivered to Larch Saddle, which has a menu named main already. First the plan:"
code=0
run deliver hut-basics@0.1.0 larch-saddle || code=$?
[ "$code" = 3 ] || { echo "the delivery should wait for decisions (exit code 3), it ended with $code" >&2; exit 1; }

say "The one clash is decided, the hut's name filled in; the draft is staged."
run delivery decide 1 --decide menu/main=both --fill "hut-name=Larch Saddle"
[ "$(state)" = "$before" ] || { echo "staging changed the live site" >&2; exit 1; }

say "It goes live. What a visitor reads now:"
run delivery live 1
visit / | sed -n 's/<[^>]*>//g; /is open/p'
visit /house-rules/ | cmp - "$work/rules.before" && echo "The house rules, which the plan did not name, are the same to the byte."

say "And it is taken back: the site is as it was, digest for digest."
run delivery undo 1
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
say "That is the tour."
