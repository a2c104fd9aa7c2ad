# Compact Parcel. `make demo` and `make test` do all the set-up they need.
SHELL := /bin/bash
# Names with spaces or accents, of which a demo site has some, are no names to make.
GO_SOURCES := $(shell git ls-files '*.go' 'internal/store/migrations/*' 'demo/sites/*' go.mod go.sum 2>/dev/null | grep -v '[ "]')
WEB_SOURCES := $(shell git ls-files 'web/*' 2>/dev/null)
CONSOLE := internal/console/dist/index.html
FLAGS ?=

.PHONY: demo test tour shots bench soak build generate setup lint clean
demo: ## install what is missing, build, and run the service with the demo world
	@scripts/setup.sh serve
	@$(MAKE) --no-print-directory build
	@exec bin/cparceld serve --demo=lived --data data/demo $(FLAGS)

test: ## the same set-up, then every test
	@scripts/setup.sh serve test
	@$(MAKE) --no-print-directory build
	@scripts/test.sh

lint: bin/golangci-lint ## everything that can be checked without running it
	@scripts/setup.sh
	@scripts/lint.sh

bin/golangci-lint: tools/go.mod tools/go.sum
	@echo "Building golangci-lint, as tools/go.mod pins it"
	@cd tools && go build -o ../$@ github.com/golangci/golangci-lint/v2/cmd/golangci-lint
	@touch $@

tour: ## the main job end to end through the client, with what a librarian reads
	@scripts/setup.sh serve
	@$(MAKE) --no-print-directory build
	@demo/tour.sh

shots: ## renew docs/screenshots
	@scripts/setup.sh serve test shots
	@$(MAKE) --no-print-directory build
	@CPARCEL_SHOTS=$(CURDIR)/docs/screenshots go test -count=1 -timeout 60m ./test -run "^($$(awk \
		'/^func Test/ {t = $$2; sub(/\(.*/, "", t)} /\.Shot\("/ {print t}' test/*_test.go | sort -u | paste -sd'|'))$$"
	@demo/terminal-shots.sh
	@go run ./test/shots -write

bench: ## figures beside their peers, in one run; SMALL=1 to see that it runs through
	@scripts/setup.sh serve
	@$(MAKE) --no-print-directory build
	@go run ./bench $(if $(SMALL),-small)

soak: ## the long ones: all pictures, more kills, fuzzing
	@scripts/setup.sh serve test soak
	@$(MAKE) --no-print-directory build
	@scripts/soak.sh

build: bin/cparceld bin/cparcel ## the binaries, into bin/

setup:
	@scripts/setup.sh serve test

bin/cparceld bin/cparcel &: $(GO_SOURCES) $(CONSOLE)
	@mkdir -p bin
	@echo "Building bin/cparceld and bin/cparcel"
	@go build -o bin/ ./cmd/cparceld ./cmd/cparcel

$(CONSOLE): $(WEB_SOURCES)
	@scripts/setup.sh
	@echo "Building the console"
	@cd web && npm run --silent build -- --logLevel error

generate: ## server, client and console types from api/openapi.yaml
	@scripts/setup.sh
	@go tool oapi-codegen -config api/oapi-codegen.yaml api/openapi.yaml
	@go tool oapi-codegen -config api/oapi-codegen-server.yaml api/openapi.yaml
	@cd web && npm run --silent types

clean:
	@rm -rf bin internal/console/dist/* web/node_modules data test/out
