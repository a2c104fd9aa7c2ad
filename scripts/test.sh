#!/usr/bin/env bash
# Runs every test: the console's, then Go's. The race detector watches the packages that let something run beside
# something; make soak lets it watch all of them, and the service that the end-to-end tests drive.
set -euo pipefail
cd "$(dirname "$0")/.."

# What tests write is gone with them: it lies in memory where there is plenty.
TMPDIR=${TMPDIR:-/tmp}
if [ -w /dev/shm ] && [ "$(df --output=avail -k /dev/shm | tail -1)" -gt 8000000 ] &&
  [ "$(awk '/MemAvailable/ {print $2}' /proc/meminfo)" -gt 12000000 ] &&
  ! findmnt -n -o OPTIONS /dev/shm | grep -qw noexec; then
  TMPDIR=/dev/shm
fi
TMPDIR=$(mktemp -d "$TMPDIR/cparcel-test-XXXXXX")
chmod 711 "$TMPDIR" # browsers run as another user
export TMPDIR
trap 'rm -rf "$TMPDIR"' EXIT

step() { # step WHAT COMMAND...
  local what=$1 began=$SECONDS
  shift
  "$@"
  echo "$what: $((SECONDS - began)) s"
}

tested() { # tested FLAGS AND PACKAGES...: runs tests, and tells what matters of them; vet runs with make lint
  go test -json -vet=off -shuffle on "$@" | "$TMPDIR/outcome"
}
go build -o "$TMPDIR/outcome" ./test/outcome

raced=() plain=()
while read -r package dir; do
  case $package in
    # The detector makes these ten and twenty times slower, for one place each at which they wait for others; the tests of
    # internal/desk, which it watches, go through both.
    compactparcel/core/plan | compactparcel/core/lighten) plain+=("$package"); continue ;;
  esac
  if grep -qE '^\s*go (func|[a-z])|\.Go\(|\bworkers\.' "$dir"/*.go; then raced+=("$package"); else plain+=("$package"); fi
done < <(go list -f '{{.ImportPath}} {{.Dir}}' ./core/... ./internal/...)

export CPARCEL_BIN=$PWD/bin
step "the console's tests" npm --prefix web run --silent test -- --reporter=dot
# Three at once: some wait for a browser to misbehave.
step "packages that are watched for races" tested -race -timeout 20m -p 3 "${raced[@]}"
step "the other packages, and the whole from end to end" \
  tested -timeout 30m -parallel 3 "${plain[@]}" ./api/... ./cmd/... ./demo/... ./test/...
