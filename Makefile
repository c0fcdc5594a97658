# Two commands matter: make demo, make test. Both install what they need and are quick the second time.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
PAGE := src/zembi/api/static/index.html
PAGE_SOURCES := $(shell find web/src -type f ! -name schema.d.ts) web/index.html web/vite.config.ts web/package-lock.json
# The families of titles come from the page's packages: one home for what is fetched from the npm registry.
FAMILIES := atkinson-hyperlegible-next atkinson-hyperlegible-mono barlow-condensed zilla-slab source-serif-4 caveat limelight \
  noto-sans-hebrew noto-sans-arabic noto-sans-devanagari
FONTS := src/zembi/fonts/.stamp
DATA ?=
WORKERS ?= 2
# What is compiled is kept: each process of the tests would do it again.
export PYTHONDONTWRITEBYTECODE :=
# The demo project that the browser tests work on copies of.
TEST_DEMO := build/test-demo

# Tests that listen to whole songs or look through whole films: left out of the quick ones.
LONG := song sync speeds hearing footage strokes drums other_music file_facts passages measure

.PHONY: demo dist test test-fast unit quick core pages install build check browser bench abuse client locks clean

demo: build
	@$(BIN)/zembi demo $(if $(DATA),--data $(DATA))

# What watches a clock has the machine to itself, at the end; all else shares it, and is shown part by part.
test:
	@$(MAKE) --no-print-directory -j2 build $(VENV)/dev.stamp browser
	@$(MAKE) --no-print-directory dist
	@$(MAKE) --no-print-directory -j4 --output-sync=target check unit core pages
	ZEMBI_TEST_DEMO=$(TEST_DEMO) $(BIN)/pytest tests/browser -m clock

# What most changes touch, in under two minutes: the rules, the page's own tests, and the core's.
test-fast: build $(VENV)/dev.stamp
	@$(MAKE) --no-print-directory -j3 --output-sync=target check unit quick

quick:
	$(BIN)/pytest -n $(WORKERS) tests/core tests/test_architecture.py tests/test_constants.py \
	  $(foreach name,$(LONG),--ignore=tests/core/test_$(name).py)

unit:
	cd web && npx --no-install vitest run

core:
	$(BIN)/pytest -n $(WORKERS) --dist loadscope --no-loadscope-reorder --ignore=tests/browser

pages: $(TEST_DEMO)/made
	ZEMBI_TEST_DEMO=$(TEST_DEMO) $(BIN)/pytest tests/browser -m "not clock"

$(TEST_DEMO)/made: $(shell find src/zembi -name '*.py')
	@rm -rf $(TEST_DEMO)
	@$(BIN)/zembi demo --prepare-only --report --data $(TEST_DEMO) > /dev/null
	@touch $@

install: $(VENV)/run.stamp

$(VENV)/run.stamp: requirements.lock pyproject.toml
	@test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	@echo "Installing the libraries (once)…"
	@$(BIN)/python -m pip install -q --disable-pip-version-check -r requirements.lock
	@$(BIN)/python -m pip install -q --disable-pip-version-check --no-deps -e .
	@touch $@

$(VENV)/dev.stamp: $(VENV)/run.stamp requirements-dev.lock
	@$(BIN)/python -m pip install -q --no-compile --disable-pip-version-check -r requirements-dev.lock
	@touch $@

web/node_modules/.stamp: web/package.json web/package-lock.json
	@echo "Installing the page's libraries (once)…"
	@cd web && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

# The page's client is generated from the application's own OpenAPI document.
web/src/api/schema.d.ts: web/src/api/openapi.json web/node_modules/.stamp
	@cd web && npx --no-install openapi-typescript src/api/openapi.json --default-non-nullable=false -o src/api/schema.d.ts > /dev/null

client: $(VENV)/run.stamp
	$(BIN)/python -m zembi.api.openapi > web/src/api/openapi.json
	$(BIN)/python -m zembi.api.openapi facts > web/src/api/facts.json

# Compiled here once: where Python may not keep what it compiles, each of its processes would do it again.
build: install $(PAGE) $(FONTS)
	@$(BIN)/python -m compileall -q src

$(PAGE): $(PAGE_SOURCES) web/node_modules/.stamp web/src/api/schema.d.ts
	@echo "Building the page…"
	@cd web && npx --no-install vite build --logLevel warn

$(FONTS): web/node_modules/.stamp
	@rm -rf $(@D) && mkdir -p $(@D)
	@for family in $(FAMILIES); do \
	  cp web/node_modules/@fontsource/$$family/files/$$family-*-[47]00-normal.woff $(@D)/ && \
	  cp web/node_modules/@fontsource/$$family/LICENSE $(@D)/$$family.LICENSE || exit 1; done
	@rm -f $(@D)/noto-sans-*-latin* $(@D)/noto-sans-*-ext-* $(@D)/noto-sans-arabic-math* $(@D)/noto-sans-arabic-symbols*
	@touch $@

# A wheel that carries the built page: what installs it needs neither Node nor this checkout.
dist: build
	@rm -rf build/lib build/dist && $(BIN)/python -m pip wheel -q --disable-pip-version-check --no-deps --wheel-dir build/dist .
	@ls build/dist

check: $(VENV)/dev.stamp web/src/api/schema.d.ts
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports
	cd web && npx --no-install tsc --noEmit && npx --no-install biome check src
	@$(BIN)/python -m zembi.api.openapi | cmp -s - web/src/api/openapi.json || \
	  { echo "web/src/api/openapi.json is not the application's: run make client"; exit 1; }
	@$(BIN)/python -m zembi.api.openapi facts | cmp -s - web/src/api/facts.json || \
	  { echo "web/src/api/facts.json is not the application's: run make client"; exit 1; }

# The browser suite drives Debian's Chromium; installed here where that may be done.
browser:
	@command -v chromedriver > /dev/null || { echo "Installing Chromium for the browser tests…"; \
	  (apt-get update -qq && apt-get install -y -qq chromium chromium-driver) > /dev/null 2>&1 || \
	  sudo -n apt-get install -y -qq chromium chromium-driver > /dev/null 2>&1 || \
	  { echo "Install the packages chromium and chromium-driver, then run make test again."; exit 1; }; }

bench: install
	@$(BIN)/python -m pip install -q --disable-pip-version-check -r requirements-bench.lock
	$(BIN)/python benchmarks/song.py
	$(BIN)/python benchmarks/align.py
	$(BIN)/python benchmarks/hard.py
	$(BIN)/python benchmarks/render.py
	$(BIN)/python benchmarks/titles.py
	$(BIN)/python benchmarks/editing.py
	$(BIN)/python benchmarks/footage.py
	$(BIN)/python benchmarks/fill.py
	$(BIN)/python benchmarks/shoots.py

# The tests of abuse, for longer and with seeds of their own, which are printed.
abuse: build $(VENV)/dev.stamp browser
	@seed=$${SEED:-$$(od -An -N4 -tu4 /dev/urandom | tr -d ' ')}; echo "seed $$seed (SEED=$$seed make abuse does it again)"; \
	  ZEMBI_ABUSE=$${TIMES:-20} $(BIN)/pytest tests/abuse tests/media/test_render.py tests/browser/test_shapes.py --hypothesis-seed=$$seed

# Renews what is installed: the newest of everything that pyproject.toml allows, each file by its hash.
locks:
	@$(PYTHON) -m venv build/locks && build/locks/bin/python -m pip install -q --disable-pip-version-check pip-tools
	@for kind in "" dev bench; do \
	  CUSTOM_COMPILE_COMMAND="make locks" build/locks/bin/pip-compile -q --upgrade --generate-hashes --allow-unsafe --strip-extras \
	    --no-emit-index-url --no-emit-trusted-host --no-annotate $${kind:+--extra $$kind} \
	    --output-file requirements$${kind:+-$$kind}.lock pyproject.toml || exit 1; done
	@# A folder of this machine is none of another's.
	@sed -i '/^--find-links/d' requirements*.lock
	cd web && npm update --no-audit --no-fund

clean:
	rm -rf $(VENV) web/node_modules src/zembi/api/static build
