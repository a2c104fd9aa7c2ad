#!/usr/bin/env bash
# The long tests: every picture of every page, fuzzing, and more kills. Ends with the
# first that fails. SOAK_FUZZ says how long each target is fuzzed (default 2m).
set -euo pipefail
cd "$(dirname "$0")/.."

echo "Every page and every block of every fixture and demo site, by picture"
CPARCEL_SOAK=1 go test -count=1 -timeout 60m ./test -run 'TestAdoptedSitesArePublishedAsTheyWere|TestEveryBlockAloneLooksAsInItsPage|TestSelectorsNameWhatChromiumNames|TestPagesOutsideThePlanDoNotChange'

echo "Five stories of the console in a second browser"
CPARCEL_SOAK=1 go test -count=1 -timeout 20m ./test -run 'InFirefox'

echo "Public sites and documentation trees: pieces, pages and sets into each other, edits made outside"
CPARCEL_SOAK=1 go test -count=1 -timeout 90m ./test -run 'Public'

echo "All of it under the race detector, the service that the end-to-end tests drive as well"
raced=$(mktemp -d)
trap 'rm -rf "$raced"' EXIT
go build -race -o "$raced/" ./cmd/...
go test -race -count=1 -timeout 60m ./core/... ./internal/... ./api/... ./cmd/... ./demo/...
CPARCEL_BIN=$raced go test -race -count=1 -timeout 120m ./test

echo "Kills between and within steps, ten times"
go test -count=10 -timeout 60m ./test -run 'TestKilled|TestTheDatabaseIsKilled|TestMariaDBIsStartedAgain|TestManyAtOnce'

echo "Two at once at every lock, lost commits, a database that stalls, every statement failing: ten times"
go test -count=10 -timeout 60m ./internal/desk ./internal/httpapi -run 'TestTwoAtOnce|TestEveryReadAndWrite|TestACommitThatNobodySaw|TestKeysOfRequests|TestAStalledDatabase|TestAttempts'

echo "Hostile documents, four times as large"
CPARCEL_SOAK=1 go test -count=1 -timeout 60m ./test -run 'TestReadersAreLinear|TestHostileContent|TestTooLong|TestPreviewsUnderFire'

echo "Backup, restore, verify and kills within migrations, five times"
CPARCEL_SOAK=1 go test -count=5 -timeout 60m ./test ./internal/store -run 'TestBackupAndRestore|TestVerify|TestAKillWithinMigrations|TestAChangedByte'

echo "Laws on random worlds, with more of them"
go test -count=1 -timeout 60m ./core/facts ./core/plan ./core/blend ./core/item ./core/span ./core/solve -rapid.checks=5000

for target in core/blend:FuzzBlend core/markup:FuzzParse core/css:FuzzCSS core/css:FuzzCarry core/facts:FuzzRewrite core/kit:FuzzOpen core/solve:FuzzParseWorld; do
  echo "Fuzzing $target for ${SOAK_FUZZ:-2m}"
  go test "./${target%%:*}" -run xxx -fuzz "^${target##*:}\$" -fuzztime "${SOAK_FUZZ:-2m}"
done
