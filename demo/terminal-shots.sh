#!/usr/bin/env bash
# Renews the terminal pictures in docs/screenshots: the client in an xterm under Xvfb.
set -euo pipefail
cd "$(dirname "$0")/.."
root=$PWD
work=$(mktemp -d)
bin/cparceld serve --demo --data "$work/data" --listen 127.0.0.1:18460 --previews 127.0.0.1:18461 --forms 127.0.0.1:18462 >"$work/said" 2>"$work/log" &
service=$!
Xvfb :97 -screen 0 1280x800x24 >/dev/null 2>&1 &
screen=$!
cleanup() { kill "$service" "$screen" 2>/dev/null || true; wait 2>/dev/null || true; rm -rf "$work"; }
trap cleanup EXIT
for _ in $(seq 240); do grep -q '^Token:' "$work/said" && break; sleep 0.25; done
export CPARCEL_SERVER=http://127.0.0.1:18460 CPARCEL_TOKEN DISPLAY=:97
CPARCEL_TOKEN=$(awk '/^Token:/ {print $2}' "$work/said")
PATH="$PWD/bin:$PATH"
shot() { # shot NAME COMMAND: a picture of what the command leaves on the screen
  printf '#!/bin/bash\nprintf "$ %%s\\n" %q\n%s\ntouch %s/done\nsleep 20\n' "$2" "$2" "$work" >"$work/show"
  chmod +x "$work/show"
  rm -f "$work/done"
  xterm -fa "DejaVu Sans Mono" -fs 11 -geometry 141x45+0+0 -bg '#fffdf9' -fg '#1d3150' -b 12 +sb -e "$work/show" &
  local window=$!
  for _ in $(seq 80); do [ -e "$work/done" ] && break; sleep 0.1; done
  sleep 0.6
  import -window root -crop 1280x800+0+0 "$root/docs/screenshots/$1.png"
  kill "$window" 2>/dev/null || true
  wait "$window" 2>/dev/null || true
}
cparcel kit new hut-basics@0.1.0 --title "Hut basics" --license CC-BY-4.0 --credit "Highmoor web room" >/dev/null
shot client-kit 'cparcel kit add hut-basics@0.1.0 section/opening-hours part/site-header --from kestrel-refuge'
cparcel kit seal hut-basics@0.1.0 >/dev/null
shot client-plan 'cparcel deliver hut-basics@1.1.0 blackwater-bothy 2>&1 | head -n 40'
cp -r "$work/data/cairn-edge" "$work/"
cd "$work"
for version in 1.1.0 2.0.0; do cparcel kit get "hut-basics@$version" -f "hut-basics-$version.cpkit" >/dev/null; done
cparcel kit get winter-notices@0.4.0 -f winter-notices.cpkit >/dev/null
shot client-inspect 'cparcel file inspect winter-notices.cpkit'
shot client-compare 'cparcel file compare hut-basics-1.1.0.cpkit hut-basics-2.0.0.cpkit'
shot client-adopt "cparcel site adopt cairn-edge --name cairn-edge --parts ask </dev/null"
