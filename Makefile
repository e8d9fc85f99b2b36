# make demo: everything from a fresh machine to the running demo. make test: all checks.
PORT ?= 8080
SOURCES := $(shell find core kernel formats school store api work demo cmd docs/formats web/embed.go -name '*.go' -o -name '*.cpp' -o -name '*.h' -o -name '*.sql' -o -name '*.json' -o -name '*.ttf' 2>/dev/null)
CORE := $(shell find core/sketch core/assembly core/solve core/rigid core/solid core/address core/quantity formats/dxf formats/planesvg cmd/page cmd/sketchcore -name '*.go' -not -name '*_test.go' 2>/dev/null)
SHEET := $(shell find core formats/lettering formats/svg cmd/page cmd/sheetcore -name '*.go' -not -name '*_test.go' -o -name '*.ttf' 2>/dev/null)
WASM := web/src/sketch/core/sketch.wasm.gz
SHEETWASM := web/src/layout/core/sheet.wasm.gz
WEB := $(shell find web/src web/public -type f -not -name '*.wasm.gz' -not -name wasm_exec.js 2>/dev/null) $(WASM) $(SHEETWASM) web/index.html web/vite.config.ts web/tsconfig.json

.PHONY: demo demo-reset test bench bench-verdicts build setup setup-test setup-bench generate screenshots clean

demo: setup build
	@exec ./bin/hammerset demo --address 127.0.0.1:$(PORT)

demo-reset:
	rm -rf var
	@$(MAKE) --no-print-directory demo

setup:
	@scripts/setup.sh run

setup-test:
	@scripts/setup.sh test

setup-bench:
	@scripts/setup.sh bench

build: web/dist/index.html bin/hammerset

web/node_modules/.package-lock.json: web/package.json web/package-lock.json
	cd web && npm install --no-audit --no-fund --no-save --loglevel=error
	@touch $@

# The sketch core for the browser, with the loader that belongs to the Go that built it.
$(WASM): $(CORE) go.mod go.sum
	GOOS=js GOARCH=wasm go build -trimpath -ldflags='-s -w' -o $(WASM:.gz=) ./cmd/sketchcore
	gzip -9 -n -f $(WASM:.gz=)
	cp "$$(go env GOROOT)/lib/wasm/wasm_exec.js" web/src/sketch/core/wasm_exec.js

# The core that lays sheets out in the browser.
$(SHEETWASM): $(SHEET) go.mod go.sum
	GOOS=js GOARCH=wasm go build -trimpath -ldflags='-s -w' -o $(SHEETWASM:.gz=) ./cmd/sheetcore
	gzip -9 -n -f $(SHEETWASM:.gz=)

web/dist/index.html: web/node_modules/.package-lock.json $(WEB)
	cd web && npm run --silent build

bin/hammerset: $(SOURCES) web/dist/index.html go.mod go.sum
	go build -o bin/hammerset ./cmd/hammerset

generate:
	go generate ./api ./cmd/sketchcore
	cd web && npm run --silent types

# Tests and benchmarks use the memory allocator of the kernel children (kernel/pool).
test bench bench-verdicts: export MMGT_OPT = 2

test: setup-test build
	scripts/check.sh
	@# The two that take longest begin first, and the others follow. Of the browser's tests two run beside one another, since
	@# they wait half of their time: a third package beside them would starve what they wait for.
	go test -p 2 -timeout 60m ./test/e2e ./test/geometry ./...

bench: setup-bench build
	go test -run '^$$' -bench . -benchtime 5x -timeout 30m ./bench/...
	HAMMERSET_BENCH=1 go test -count=1 -run 'TestTwentyParts|TestSixtyComponents|TestDraggingOnASheet' ./test/e2e
	cd bench/minpack && go test -run '^$$' -bench . -benchtime 10x -timeout 30m .

# SEED and COUNT make other corpora: the first from model documents, the second of bare solids; the third is always the
# same; the fourth is of assemblies. CORPUS=models, bare, robustness or assemblies runs one of them.
SEED ?= 1
COUNT ?= 800
CORPUS ?= models bare robustness assemblies
bench-verdicts: setup-test
	$(if $(filter models,$(CORPUS)),go test ./bench/verdicts -run '^$$' -bench Verdicts -benchtime 1x -timeout 120m -args -seed $(SEED) -attempts $(COUNT) $(if $(WRONG),-wrong) $(if $(SWEEP),-sweep))
	$(if $(filter bare,$(CORPUS)),go test ./bench/verdicts/bare -run '^$$' -bench Bare -benchtime 1x -timeout 120m -args -seed $(SEED) -attempts $(COUNT) $(if $(WRONG),-wrong))
	$(if $(filter robustness,$(CORPUS)),go test ./bench/verdicts/robustness -run '^$$' -bench Robustness -benchtime 1x -timeout 120m -args -all $(if $(WRONG),-wrong))
	$(if $(filter assemblies,$(CORPUS)),go test ./bench/verdicts/assemblies -run '^$$' -bench Assemblies -benchtime 1x -timeout 120m -args -seed $(SEED) -attempts $(COUNT) $(if $(WRONG),-wrong))

screenshots: setup-test build
	HAMMERSET_SCREENSHOTS=$(CURDIR)/docs/screenshots go test -count=1 -run TestScreenshots ./test/e2e

clean:
	rm -rf bin web/dist/assets web/dist/index.html $(WASM) web/src/sketch/core/wasm_exec.js
