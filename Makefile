# Everything that is done with this repository, by a name. Each target sets up what it needs.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
READY := $(VENV)/.ready

.PHONY: demo demo-reset test test-fast test-at check shots bench clean browser peers

demo: $(READY) ## start everything with the demo site
	@exec $(BIN)/python -m dromikon demo

demo-reset: $(READY) ## forget the demo's data; the next start loads it afresh
	@$(BIN)/python -m dromikon demo-reset

test: $(READY) browser peers ## all tests: three at a time, since many wait, then the browser's
	$(BIN)/python -m pytest -n 3 --dist worksteal -m "not browser"
	$(BIN)/python -m pytest -m browser --durations=12

test-fast: $(READY) ## without browser and slow tests
	$(BIN)/python -m pytest -n 2 -m "not browser and not slow"

test-at: $(READY) ## tests of pages and engine at an instant; the core knows no clock: make test-at AT=2027-03-28T00:59:30Z
	$(BIN)/python -m pytest tests/web -m "not browser and not slow" --at=$(AT)

check: $(READY) ## style, types, import directions, templates, migrations, the catalogue of words
	$(BIN)/ruff check dromikon tests tools bench
	$(BIN)/ruff format --check dromikon tests tools bench
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/djlint --quiet --lint dromikon/web/templates
	$(BIN)/djlint --quiet --check dromikon/web/templates
	$(BIN)/python manage.py makemigrations --check --dry-run
	$(BIN)/python -m tools.words --check

shots: $(READY) browser ## the screenshots in docs/screenshots, from a fresh demo
	$(BIN)/python -m tools.shots

bench: $(READY) browser ## each measure as a ratio against a limit taken in the same run
	$(BIN)/python -m bench

$(READY): requirements/dev.txt
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Python 3.11 or newer is needed (Debian: apt-get install python3 python3-venv)."; exit 1; }
	@$(PYTHON) -c 'import ensurepip' 2>/dev/null || { echo "The venv module is needed (Debian: apt-get install python3-venv)."; exit 1; }
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements/dev.txt
	@touch $@

browser:
	@tools/need-browser

peers:
	@tools/need-peers

clean:
	rm -rf $(VENV)
