# The only commands a newcomer needs: make demo, make run, make test, make bench.
PYTHON ?= python3
BIN := .venv/bin
# What Python has compiled is kept, whatever the environment says: every start is quicker by it.
unexport PYTHONDONTWRITEBYTECODE
ARGS ?=
PYTHON_SOURCES := $(shell find juglant -path juglant/pages -prune -o -name '*.py' -o -name '*.sql')
WEB_SOURCES := $(shell find web -path web/node_modules -prune -o -type f -print)

.PHONY: demo run test quick bench setup lint browser instruments clean screenshots wheel

demo: setup
	$(BIN)/juglant serve --demo $(ARGS)

run: setup
	$(BIN)/juglant serve $(ARGS)

# What runs and what the page is built with have nothing to do with each other: side by side.
setup:
	@+$(MAKE) --no-print-directory -j2 .setup/warm juglant/pages/index.html

test: setup .setup/dev .setup/web-dev lint browser instruments
	$(BIN)/pytest -n 2
	cd web && npx vitest run

# The core and what stores and writes it, without a browser, in two minutes.
quick: .setup/dev .setup/warm instruments
	$(BIN)/pytest -n 2 -p no:schemathesis -p no:anyio -m "not thorough" tests/core tests/files tests/store

lint: .setup/dev .setup/web-dev web/src/api/schema.ts
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/mypy
	$(BIN)/lint-imports
	cd web && npx tsc --noEmit && npx eslint . && npx prettier --check --log-level warn .

bench: setup .setup/dev browser
	$(BIN)/python -m bench

screenshots: setup .setup/dev browser
	$(BIN)/python -m tests.browser.screenshots

browser:
	@command -v chromium-headless-shell >/dev/null || { echo "Installing Debian's chromium-headless-shell"; \
	  apt-get update -qq && apt-get install -y -qq --no-install-recommends chromium-headless-shell; }

# Recorded instruments for the tests: a synthesizer and a General MIDI sound set.
instruments:
	@command -v fluidsynth >/dev/null && test -e /usr/share/sounds/sf2/TimGM6mb.sf2 || { \
	  echo "Installing Debian's fluidsynth and timgm6mb-soundfont"; \
	  apt-get update -qq && apt-get install -y -qq --no-install-recommends fluidsynth timgm6mb-soundfont; }

.setup/python: requirements.lock pyproject.toml
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11) and "Juglant needs Python 3.11 or newer.")'
	@$(PYTHON) -c 'import ensurepip, venv' 2>/dev/null || { echo "Juglant needs Python's venv: install python3-venv."; exit 1; }
	@echo "Installing what Juglant runs on"
	$(PYTHON) -m venv .venv
	$(BIN)/python -m pip install --quiet --no-compile --disable-pip-version-check -r requirements.lock
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	@mkdir -p .setup && touch $@

# What the tests, the bench and the checks need beside what runs.
.setup/dev: requirements-dev.lock .setup/python
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -r requirements.lock -r requirements-dev.lock
	@mkdir -p .setup && touch $@

# Compiled code is cached here, so that no start has to wait for it.
.setup/warm: .setup/python $(PYTHON_SOURCES)
	@echo "Compiling what renders"
	$(BIN)/python -c "import juglant.core.measure.sweepfit" & \
	  $(BIN)/python -c "import juglant.core.synth.hat, juglant.core.process.dynamics" && wait $$!
	$(BIN)/python -m juglant.api.serve
	@mkdir -p .setup && touch $@

.setup/web: web/package-lock.json
	@command -v npm >/dev/null || { echo "Juglant builds its page with Node and npm: install both, then go on."; exit 1; }
	@echo "Installing what the page is built with"
	cd web && npm ci --omit=dev --no-audit --no-fund --loglevel=error
	@mkdir -p .setup && touch $@

# What checks and tests it, beside what builds it.
.setup/web-dev: .setup/web
	cd web && npm ci --no-audit --no-fund --loglevel=error
	@mkdir -p .setup && touch $@

# Beside the compiling, and without any: what is only described is not compiled.
web/src/api/schema.ts: export NUMBA_DISABLE_JIT = 1
web/src/api/schema.ts: .setup/python .setup/web $(PYTHON_SOURCES)
	@mkdir -p .setup
	$(BIN)/python -m juglant.api.limits > web/src/api/limits.ts
	$(BIN)/python -m juglant.api.app > .setup/openapi.json
	cd web && npx openapi-typescript ../.setup/openapi.json --output src/api/schema.ts

juglant/pages/index.html: .setup/web web/src/api/schema.ts $(WEB_SOURCES)
	@echo "Building the page"
	cd web && npx vite build --logLevel warn

# One file that installs anywhere and serves the page without Node.
wheel: setup
	$(BIN)/python -m pip wheel --quiet --no-deps --no-build-isolation --wheel-dir dist .

clean:
	rm -rf .venv .setup build dist web/node_modules juglant/pages web/src/api/schema.ts web/src/api/limits.ts
