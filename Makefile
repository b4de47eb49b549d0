# The two commands that matter: make demo and make test.
SHELL := /bin/bash

# Encodings that nobody here speaks cost a third of the time to compile.
export GOFLAGS := -tags=nomsgpack,arrow_json_stdlib
.PHONY: build package try-unit demo test race fuzz warm check lint staticcheck errcheck revive console-lint generated needs bench screenshots clean

build: bin/mantilla ## the service with its console, in bin/

bin/mantilla: console/dist/index.html FORCE
	go build -ldflags="-s -w" -o $@ ./cmd/mantilla
FORCE:

%/node_modules/.package-lock.json: %/package.json %/package-lock.json
	cd $* && npm ci --no-audit --no-fund --loglevel=error

CONSOLE_SOURCES := $(shell find console/src console/public -type f) console/index.html console/vite.config.ts console/tsconfig.json
console/dist/index.html: console/node_modules/.package-lock.json $(CONSOLE_SOURCES)
	cd console && npm run --silent build
	@touch $@

demo: ## write the demo data and run the service on it; WITH=postgres or mariadb puts its records on a server, PROVIDER=yes has people sign in by a provider
	@$(MAKE) --no-print-directory -j2 warm console/dist/index.html
	@$(MAKE) --no-print-directory build
	./bin/mantilla demo --data data $(if $(WITH),--with $(WITH)) $(if $(PROVIDER),--provider)

needs: ## install what the tests need and this machine lacks
	scripts/test-needs.sh

# What was vetted is not vetted twice, and forty programs of tests need nothing for a debugger.
test: ## everything that CI checks
	@$(MAKE) --no-print-directory -j3 needs warm console/dist/index.html
	@$(MAKE) --no-print-directory build check
	go test -vet=off -ldflags=-w -timeout 1500s ./...

# Watching every access of the database engine to its own memory takes ten times as long as the rest.
race: ## the tests of what works side by side, with the race detector
	go test -race -gcflags=github.com/ncruces/go-sqlite3-wasm/v6=-race=false -gcflags=golang.org/x/crypto/...=-race=false \
		-vet=off -timeout 1800s ./core/... ./deliver/... ./library/... ./runner/... ./source/... ./store/...

FUZZTIME ?= 50000x
FUZZ ?= core/formula:FuzzParse core/formula:FuzzFormula core/frame:FuzzParseNumber core/param:FuzzResolve \
	core/period:FuzzParseInterval core/period:FuzzParseRange core/definition:FuzzParse core/sheet:FuzzFilter grid:FuzzOpen
fuzz: ## everything that people type, as nobody would type it
	@for target in $(FUZZ); do \
		go test ./$${target%:*} -run '^$$' -fuzz "^$${target#*:}$$" -fuzztime $(FUZZTIME) -fuzzminimizetime 20x || exit 1; done

warm: ## compile what does not hold the console, while that is made
	go build ./api/... ./core/... ./deliver/... ./library/... ./render/... ./runner/... ./source/... ./store/...

LINT := bin/lint
$(LINT)/done: go.mod scripts/unchecked/main.go
	@mkdir -p $(LINT)
	go build -o $(LINT)/ honnef.co/go/tools/cmd/staticcheck github.com/mgechev/revive ./scripts/unchecked
	@touch $@

# What linters say, two at a time.
lint: $(LINT)/done console/node_modules/.package-lock.json console/lint/node_modules/.package-lock.json
	@$(MAKE) --no-print-directory -j2 -O staticcheck errcheck revive console-lint

staticcheck: $(LINT)/done
	$(LINT)/staticcheck ./...
errcheck: $(LINT)/done
	$(LINT)/unchecked ./...
revive: $(LINT)/done
	$(LINT)/revive -config .revive.toml -set_exit_status -exclude ./console/node_modules/... -exclude ./console/lint/node_modules/... ./...
console-lint: console/node_modules/.package-lock.json console/lint/node_modules/.package-lock.json
	cd console && npm run --silent check
	cd console/lint && npm run --silent format && npm run --silent lint

check: generated lint ## formatting, vet, linters, and generated code
	@test -z "$$(gofmt -l $$(git ls-files '*.go'))" || { echo "gofmt would change:"; gofmt -l $$(git ls-files '*.go'); exit 1; }
	go vet ./...

generated: console/node_modules/.package-lock.json ## is the generated code current?
	scripts/generated-current.sh

VERSION ?= 0.1.0
ARCH ?= $(shell go env GOARCH)
package: console/dist/index.html ## a Debian package in bin/, of VERSION
	go build -ldflags="-s -w -X main.release=$(VERSION)" -o bin/package/mantilla ./cmd/mantilla
	rm -rf bin/package/man bin/package/completion && bin/package/mantilla manual bin/package && gzip -9n bin/package/man/*
	scripts/package.sh $(VERSION) $(ARCH)

try-unit: package ## boot a Debian of its own with systemd, as root, and try the unit of the package there
	scripts/try-unit.sh bin/mantilla_$(VERSION)_$(ARCH).deb

bench: build ## what capture, pages and files cost, as ratios in one run
	go build -o bin/bench ./bench
	./bin/bench -data bench-data $(if $(REFERENCE),-reference $(REFERENCE)) $(if $(ENGINE),-engine $(ENGINE))

FOR ?= 10m
soak: console/dist/index.html ## the service used hard as everything goes wrong, for FOR; then what it promised is looked for
	go run ./soak -for $(FOR)

screenshots: build ## the pictures of the documentation, from the demo data
	scripts/test-needs.sh pictures
	go test -count=1 -timeout 300s ./e2e -run TestScreenshots -args -screenshots $(CURDIR)/docs/screenshots

clean:
	rm -rf bin console/node_modules console/lint/node_modules console/dist/assets console/dist/index.html
