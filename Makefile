# make demo   everything, with a made-up shop
# make test   every check there is
# make check  what needs no browser and no database, in under a minute
PORT ?= 8640
SHOP_PORT ?= 8641
PAGES_PORT ?= 8642
WEB := $(shell find web/page web/studio web/kinds web/package/index.ts -type f 2>/dev/null) web/package-lock.json web/vite.page.config.ts web/vite.studio.config.ts
GO := $(shell find cmd core internal web -name '*.go' -not -path '*/node_modules/*') $(shell find internal -type f -not -name '*.go') go.mod go.sum

.PHONY: demo demo-fresh build kinds check sweep test test-go test-web test-bench test-browser bench hostile fuzz screenshots clean

demo: deps-demo build
	@exec ./bin/gobbet demo --port $(PORT) --shop-port $(SHOP_PORT) --pages-port $(PAGES_PORT)

demo-fresh: deps-demo build
	@exec ./bin/gobbet demo --port $(PORT) --shop-port $(SHOP_PORT) --pages-port $(PAGES_PORT) --fresh

.PHONY: deps-demo deps-test
deps-demo:
	@scripts/deps postgresql
deps-test:
	@scripts/deps postgresql chromium-headless-shell

build: bin/gobbet

bin/gobbet: web/dist/studio/index.html $(GO)
	go build -o $@ ./cmd/gobbet

web/node_modules/.package-lock.json: web/package-lock.json
	@# Not npm ci: it insists on the lock naming every platform's build of a tool, and not every registry has them all.
	cd web && npm install --no-save --no-audit --no-fund --loglevel=error
	@touch $@

web/dist/studio/index.html: web/node_modules/.package-lock.json $(WEB)
	cd web && npm run --silent build
	@touch $@

kinds:
	go run ./internal/kinds/write

# What waits for databases runs beside what computes; browsers have both processors.
test: deps-test build
	@$(MAKE) --no-print-directory -j3 --output-sync=line test-go test-web test-bench
	@$(MAKE) --no-print-directory test-browser

# The front end is built first: the program that is tested is the one that ships.
test-go: build
	gofmt -l cmd core internal web/*.go | { ! grep .; }
	go vet ./...
	go tool staticcheck ./...
	go test -p 4 ./...

# What fuzzing has found is replayed by the tests; the search itself is here.
FUZZTIME ?= 30s
fuzz:
	for fuzz in core/fault/FuzzDecode core/text/FuzzCut core/origin/FuzzParse core/reach/FuzzRule core/reach/FuzzFacts core/rehearse/FuzzRead core/rehearse/FuzzReplay core/piece/FuzzPiece core/formula/FuzzFormula core/draw/FuzzDraw core/flow/FuzzWalk core/weigh/FuzzWeigh; do \
		go test -run '^$$' -fuzz "^$${fuzz##*/}$$" -fuzztime $(FUZZTIME) ./$${fuzz%/*} || exit 1; \
	done

# What a change is held to while it is made.
check: web/node_modules/.package-lock.json
	gofmt -l cmd core internal web/*.go | { ! grep .; }
	go vet ./...
	go test ./core/... ./internal/kinds
	cd web && npm run --silent check

# Every template in every format at every width, and the demo at each turn of the calendar; make test has a share of them.
sweep: build
	SWEEP=1 go test -count=1 -run TestTheScenario ./internal/demo
	cd web && SWEEP=1 npx playwright test templates jobs

test-web: web/node_modules/.package-lock.json
	cd web && npm run --silent check

test-browser: build
	cd web && CI=1 npx playwright test

# One short round of each part: it runs, and nothing is said of how fast.
test-bench: build
	cd internal/bench/engines && BENCH_ONCE=1 go run . >/dev/null
	BENCH_ONCE=1 go run ./internal/bench >/dev/null

# The audit of pages is larger than all of the front end, and is installed for this alone.
web/audit/node_modules/.package-lock.json: web/audit/package-lock.json
	cd web/audit && npm install --no-save --no-audit --no-fund --loglevel=error
	@touch $@

bench: build web/audit/node_modules/.package-lock.json
	cd internal/bench/engines && go run .
	go run ./internal/bench
	cd web && BENCH=1 npx playwright test

# Attacks on a server of its own; ends with an error where something gives way.
hostile: deps-demo build
	go run ./internal/hostile

screenshots: build
	cd web && SCREENSHOTS=1 npx playwright test

clean:
	rm -rf bin web/package/dist web/dist/page web/dist/studio e2e/.out
