PYTHON ?= $(shell command -v python3.11 || command -v python3)
BIN := .venv/bin
CORE_SOURCE := src/jostle/core/built/array.h
BUILT := src/jostle/core/built/built_from
COMPILED := $(shell find src/jostle/core -name "*.pxi") $(wildcard src/jostle/core/built/*.pyx src/jostle/core/built/*.pxd src/jostle/core/built/*.h) setup.py
FRONT := $(shell find frontend/src -type f 2>/dev/null) frontend/index.html frontend/vite.config.ts

.PHONY: demo test soak check check-bounds check-sanitizers checked bench build wheel format lock types browser screenshots clean

## Set up everything and serve with the demo data
demo:
	@$(MAKE) --no-print-directory -j2 build
	@$(BIN)/jostle demo --data .demo $(if $(PORT),--port $(PORT))

## Set up everything and run all checks and tests
test:
	@$(MAKE) --no-print-directory -j2 build browser tests/independent/.built
	@$(MAKE) --no-print-directory check
	$(BIN)/python -m pytest -n 3 --dist worksteal

## Send a hundred thousand drawn requests, each with something wrong in it; kill writers 300 times; edit with eight for 15 min
soak: build
	JOSTLE_FUZZ=100000 JOSTLE_SEED=$(or $(SEED),1) $(BIN)/python -m pytest tests/api/test_fuzz.py tests/api/test_schema_fuzz.py tests/formats/test_limits.py
	$(BIN)/python -m tests.soak
	$(MAKE) --no-print-directory check-sanitizers

## Format, lint, types, layer order, generated files
check: .venv/ready frontend/node_modules/.ready
	$(BIN)/ruff format --check src tests tools
	$(BIN)/ruff check src tests tools
	$(BIN)/mypy
	$(BIN)/lint-imports --no-logo
	$(BIN)/python tools/generated.py
	cd frontend && npm run --silent check

## The engine's tests with every index of compiled code looked at
check-bounds: build tests/independent/.built
	@$(MAKE) --no-print-directory checked CHECK=bounds

## The engine's tests under the address and undefined-behaviour sanitizers
check-sanitizers: build tests/independent/.built
	@$(MAKE) --no-print-directory checked CHECK=sanitizers PRELOAD="$$(gcc -print-file-name=libasan.so) $$(gcc -print-file-name=libubsan.so)"

checked:
	JOSTLE_CHECK=$(CHECK) $(BIN)/python setup.py -q build_ext --inplace --force
	LD_PRELOAD="$(PRELOAD)" ASAN_OPTIONS=detect_leaks=0 PYTHONMALLOC=malloc $(BIN)/python -m pytest -n 2 tests/core tests/keeper; \
	result=$$?; touch $(CORE_SOURCE); $(MAKE) --no-print-directory build; exit $$result

## Measure the engine and the picture that follows an edit
bench: build browser
	$(BIN)/python -m tests.bench

build: $(BUILT) .venv/bytecode src/jostle/web/index.html

## A wheel with the engine compiled and the page built, in dist
wheel: build
	tools/wheel.sh . dist

format: .venv/ready frontend/node_modules/.ready
	$(BIN)/ruff format src tests tools
	$(BIN)/ruff check --fix src tests tools
	cd frontend && npm run --silent format

## Write the OpenAPI document, the plan's schema and the front end's types anew
types: .venv/ready frontend/node_modules/.ready
	$(BIN)/python tools/layout.py src/jostle/core/built
	$(BIN)/python tools/describe.py docs
	cd frontend && npm run --silent types

## Pin the newest versions that fit
lock: .venv/ready
	$(BIN)/uv pip compile pyproject.toml --extra dev --generate-hashes --no-header --no-annotate --no-emit-index-url --no-emit-find-links --output-file requirements.lock

browser:
	@tools/browser.sh

## Take the pictures of docs/screenshots anew, from the demo data
screenshots: build browser
	$(BIN)/python -m tests.browser.screenshots

clean:
	rm -rf .venv frontend/node_modules src/jostle/web .demo build dist

$(BUILT): .venv/ready $(COMPILED)
	$(BIN)/python setup.py -q build_ext --inplace

.venv/bytecode: .venv/ready | $(BUILT)
	$(BIN)/python tools/bytecode.py
	touch $@

tests/independent/.built: .venv/ready tests/independent/waits.pyx
	$(BIN)/python -c "import tests.independent.counters"
	touch $@

.venv/ready: requirements.lock pyproject.toml
	$(PYTHON) -m venv .venv
	$(BIN)/pip install --quiet uv==0.13.9
	VIRTUAL_ENV=.venv $(BIN)/uv pip install --quiet --require-hashes -r requirements.lock
	@tools/compiler.sh $(PYTHON)
	JOSTLE_UNBUILT=1 VIRTUAL_ENV=.venv $(BIN)/uv pip install --quiet --no-deps --no-build-isolation --editable .
	touch $@

frontend/node_modules/.ready: frontend/package-lock.json
	cd frontend && npm ci --no-fund --no-audit --loglevel=error
	touch $@

src/jostle/web/index.html: frontend/node_modules/.ready $(FRONT)
	cd frontend && npm run --silent build
	touch $@
