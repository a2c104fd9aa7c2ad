#!/usr/bin/env bash
# Runs every test: the console's, then Go's. The race detector watches the packages in which something runs beside
# something; make soak lets it watch all of them, and the service that the end-to-end tests drive.
set -euo pipefail
cd "$(dirname "$0")/.."

# What tests write is gone with them: it lies in memory where there is plenty.
if [ -w /dev/shm ] && [ "$(df --output=avail -k /dev/shm | tail -1)" -gt 8000000 ] &&
  [ "$(awk '/MemAvailable/ {print $2}' /proc/meminfo)" -gt 12000000 ]; then
  TMPDIR=$(mktemp -d /dev/shm/cparcel-test-XXXXXX)
  export TMPDIR
  trap 'rm -rf "$TMPDIR"' EXIT
fi

step() { # step WHAT COMMAND...
  local what=$1 began=$SECONDS
  shift
  "$@"
  echo "$what: $((SECONDS - began)) s"
}

raced=() plain=()
while read -r package dir; do
  # Pictures are packed by a module in WebAssembly, which the detector slows down twenty times; one goroutine waits for it.
  if [ "$package" != compactparcel/core/lighten ] && grep -qE '^\s*go (func|[a-z])|\.Go\(|\bsync\.|\batomic\.|\bworkers\.' "$dir"/*.go; then
    raced+=("$package")
  else
    plain+=("$package")
  fi
done < <(go list -f '{{.ImportPath}} {{.Dir}}' ./core/... ./internal/...)

export CPARCEL_BIN=$PWD/bin
step "the console's tests" npm --prefix web run --silent test -- --reporter=dot
# Vet runs with make lint. Three at once: some wait for a browser to misbehave.
step "packages that are watched for races" go test -race -vet=off -shuffle on -timeout 20m -p 3 "${raced[@]}"
step "the other packages, and the whole from end to end" \
  go test -vet=off -shuffle on -timeout 30m -parallel 3 "${plain[@]}" ./api/... ./cmd/... ./demo/... ./test/...
