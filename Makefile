PYTHON ?= python3.11
VENV := .venv
BIN := $(VENV)/bin
STAMPS := $(VENV)/.stamps
PORT ?= 8137
DATA ?= .demo-data

.PHONY: setup demo serve test quick check soak bench lock types pictures clean

setup: $(STAMPS)/python $(STAMPS)/kernels $(STAMPS)/page

$(STAMPS)/venv:
	$(PYTHON) -m venv $(VENV)
	mkdir -p $(STAMPS)
	touch $@

$(STAMPS)/python: $(STAMPS)/venv requirements.lock pyproject.toml
	$(BIN)/pip install -q --disable-pip-version-check -r requirements.lock
	$(BIN)/pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e .
	touch $@

# The first compilation of the inner loops takes seconds: here, and not when the first mix is brought in.
# Compiled beforehand, the modules too: a shell may forbid Python to keep what it compiles, and every start would.
$(STAMPS)/kernels: $(STAMPS)/python $(wildcard src/ripe_press/core/kernels/*.py)
	$(BIN)/python -m compileall -q src/ripe_press
	$(BIN)/python -c "from ripe_press.core.survey import warm_up; warm_up()"
	touch $@

$(STAMPS)/python-dev: $(STAMPS)/python requirements-dev.lock
	$(BIN)/pip install -q --disable-pip-version-check -r requirements-dev.lock
	touch $@

$(STAMPS)/node: $(STAMPS)/venv web/package-lock.json
	cd web && npm ci --no-audit --no-fund --loglevel=error
	touch $@

$(STAMPS)/page: $(STAMPS)/node $(shell find web/src web/public -type f) web/index.html web/vite.config.ts
	cd web && npm run --silent build -- --logLevel warn
	touch $@

# A browser for the page, and decoders that have no code in common with what writes the files.
$(STAMPS)/chromium: $(STAMPS)/venv Makefile
	for one in chromium openssl flac mpg123 oggdec opusdec faad wvunpack mediainfo cd-info cueprint zsh fish; do command -v $$one >/dev/null || missing=1; done; \
	[ -z "$$missing" ] || { apt-get update -q && apt-get install -qy --no-install-recommends \
		chromium openssl flac mpg123 vorbis-tools opus-tools faad wavpack mediainfo libcdio-utils cuetools zsh fish; }
	touch $@

# Installs what is needed, makes the demo mixes once, and serves the page.
demo: setup
	@$(BIN)/ripe-press demo --port $(PORT) --data $(DATA)

serve: setup
	@$(BIN)/ripe-press serve --port $(PORT)

# Everything that is checked: style, types, layers, page, tests, tests in a browser; the tests side by side, file by file.
test: setup $(STAMPS)/python-dev $(STAMPS)/chromium check
	$(BIN)/pytest -n auto --dist loadfile --no-loadscope-reorder

# What takes seconds left out: for the minutes between two changes.
quick: setup $(STAMPS)/python-dev
	$(BIN)/pytest -n auto --dist loadfile --no-loadscope-reorder -m "not slow" --ignore tests/browser

check: $(STAMPS)/python-dev $(STAMPS)/node
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/python -m ripe_press.api.openapi | cmp - web/src/api/generated/openapi.json
	$(BIN)/python -m ripe_press.api.words | cmp - web/src/api/generated/words.json
	cd web && npm run --silent lint && npm run --silent typecheck && npm run --silent test

# Kills, random requests, crafted files, detector rates and load in large numbers, for hours. The figures are in docs/safety.md.
SOAK_MINUTES ?= 60
soak: setup $(STAMPS)/python-dev
	RIPE_PRESS_KILLS=1000 $(BIN)/pytest -n auto tests/studio/pressing/test_kills.py
	RIPE_PRESS_EXAMPLES=200 RIPE_PRESS_MUTATIONS=2000 $(BIN)/pytest tests/api/test_fuzz.py
	RIPE_PRESS_CRAFTED=800 $(BIN)/pytest -n auto tests/core/formats/test_mutations.py
	RIPE_PRESS_WHOLE=1 $(BIN)/pytest -n auto $$(grep -rlE --include "test_*.py" "^from support import .*(sampled|WHOLE)" tests)
	$(BIN)/python benchmarks/load.py $(SOAK_MINUTES)

# This product against the shortest straight scripts on the same libraries, as ratios.
bench: setup $(STAMPS)/python-dev
	$(BIN)/python benchmarks/measures.py
	$(BIN)/python benchmarks/formats.py
	$(BIN)/python benchmarks/press.py $(BENCH)
	$(BIN)/python benchmarks/bounds.py
	$(BIN)/python benchmarks/ticket.py
	$(BIN)/python benchmarks/planning.py
	$(BIN)/python benchmarks/desk.py
	$(BIN)/python benchmarks/order.py
	$(BIN)/python benchmarks/stems.py
	$(BIN)/python benchmarks/limiting.py

# The page's types and words, from the server's description of its interface.
types: $(STAMPS)/python $(STAMPS)/node
	$(BIN)/python -m ripe_press.api.openapi > web/src/api/generated/openapi.json
	$(BIN)/python -m ripe_press.api.words > web/src/api/generated/words.json
	cd web && npm run --silent types

# The pictures of the README, from the demo data.
pictures: setup $(STAMPS)/python-dev $(STAMPS)/chromium
	$(BIN)/python docs/take_pictures.py

lock: $(STAMPS)/venv
	$(BIN)/pip install -q pip-tools
	$(BIN)/pip-compile -q --strip-extras --no-emit-index-url --no-emit-find-links --no-header --allow-unsafe --extra build -o requirements.lock pyproject.toml
	$(BIN)/pip-compile -q --strip-extras --no-emit-index-url --no-emit-find-links --no-header --allow-unsafe --extra dev -c requirements.lock -o requirements-dev.lock pyproject.toml

clean:
	rm -rf $(VENV) web/node_modules src/ripe_press/api/static
