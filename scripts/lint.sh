#!/usr/bin/env bash
# Checks everything that can be checked without running it, and tells all of it before it fails.
set -uo pipefail
cd "$(dirname "$0")/.."
bad=0
check() { # check WHAT COMMAND...
  local what=$1 out
  shift
  if out=$("$@" 2>&1); then
    echo "ok    $what"
  else
    bad=1
    printf 'BAD   %s\n%s\n' "$what" "$(sed 's/^/      /' <<<"$out")"
  fi
}

generated() { # what is generated is what api/openapi.yaml gives
  local files=(internal/api/api.gen.go internal/httpapi/router.gen.go web/src/api/schema.gen.ts) before kept
  before=$(sha256sum "${files[@]}")
  kept=$(mktemp -d)
  cp -p --parents "${files[@]}" "$kept"
  make --no-print-directory generate >/dev/null || return
  [ "$before" = "$(sha256sum "${files[@]}")" ] || { echo "it was not; it is now: look at it and commit it"; return 1; }
  cp -rp "$kept/." . # as old as they were: nothing is built again for it
  rm -rf "$kept"
}

oldNames() { # nothing is called as it was
  local found
  found=$(grep -v '^#' scripts/old-names.txt | git grep -nIE -f - -- . ':!scripts/old-names.txt' ':!CHANGELOG.md' \
    ':!internal/store/migrations' ':!internal/store/convert*' ':!*package-lock.json' ':!*go.sum')
  [ -z "$found" ] || { echo "$found"; return 1; }
}

noBinaries() { # nothing that was built is tracked
  local found
  found=$(git ls-files -s | awk '$1 == "100755" {print $4}' | grep -v '\.sh$\|^\.ci/run$')
  [ -z "$found" ] || { echo "$found"; return 1; }
}

# Known vulnerabilities are asked for where their databases can be reached.
vulnerableGo() {
  if node -e 'fetch("https://vuln.go.dev/index/modules.json", {method: "HEAD", signal: AbortSignal.timeout(10000)})
    .then((r) => process.exit(r.ok ? 0 : 1), () => process.exit(1))'; then
    check "Go: no known vulnerability" go run golang.org/x/vuln/cmd/govulncheck@v1.9.0 ./...
  else
    echo "left  Go: known vulnerabilities: vuln.go.dev cannot be reached"
  fi
}

vulnerableNpm() {
  local out
  out=$(npm --prefix web audit --audit-level=high 2>&1) && echo "ok    console: no known vulnerability" && return
  if grep -q "audit endpoint returned an error\|ENOTFOUND\|ECONNREFUSED\|ETIMEDOUT" <<<"$out"; then
    echo "left  console: known vulnerabilities: the registry does not tell them"
  else
    bad=1
    printf 'BAD   console: no known vulnerability\n%s\n' "$(sed 's/^/      /' <<<"$out")"
  fi
}

check "go.mod is tidy" go mod tidy -diff
check "tools/go.mod is tidy" env -C tools go mod tidy -diff
check "npm's packages are as package-lock.json says" npm --prefix web ls --all
check "generated code is current" generated
check "Go: golangci-lint" bin/golangci-lint run ./...
check "console: ESLint" npm --prefix web run --silent lint
check "console: Prettier" npm --prefix web run --silent format:check
check "console: types" npm --prefix web run --silent check
check "interface: Spectral" npm --prefix web run --silent lint:api
check "old names" oldNames
check "no binary is tracked" noBinaries
check "the pictures in docs/screenshots show what there is" go run ./test/shots
vulnerableGo
vulnerableNpm
exit $bad
