.DEFAULT_GOAL := help
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STATIC := src/low_tide/web/static/index.html
SCHEMA := frontend/src/api/generated/schema.ts
PY_SOURCES := $(shell find src -name '*.py' 2>/dev/null)
FRONT_SOURCES := $(shell find frontend/src frontend/public frontend/index.html -type f -not -path '*/generated/*' 2>/dev/null)
READABLE := docs/user-guide.md docs/physics.md docs/checks.md

# What was compiled once is kept, wherever it is run: the tests start servers by the dozen.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: help setup build demo run test test-long lint lint-python lint-frontend pytest bench attack mutants screenshots docs wheel clean

help:
	@echo "make demo         set up, build and serve the lightship (throwaway data)"
	@echo "make run          serve your own data"
	@echo "make test         set up and pass everything: lint, types, unit, API and browser tests"
	@echo "make test-long    the tests with ten times the generated examples, others in every run"
	@echo "make bench        measure and print timings"
	@echo "make attack       kill, race, fill the disk, hold the API against its document; prints figures (half an hour)"
	@echo "make mutants      how many small faults in the rules the tests notice"
	@echo "make screenshots  take docs/screenshots anew from the lightship"
	@echo "make docs         write the generated pages of docs/ anew"
	@echo "make wheel        build a wheel with the front end inside"

$(VENV)/.ready: requirements.lock pyproject.toml
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-compile -r requirements.lock
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	@touch $@

frontend/node_modules/.ready: frontend/package-lock.json
	cd frontend && npm install --no-save --no-audit --no-fund --loglevel=error
	@touch $@

$(SCHEMA): $(VENV)/.ready frontend/node_modules/.ready $(PY_SOURCES)
	$(BIN)/python -m low_tide.web.openapi frontend/src/api/generated/openapi.json
	cd frontend && npm run --silent types
	@touch $@

$(STATIC): $(SCHEMA) $(FRONT_SOURCES) $(READABLE) frontend/vite.config.ts
	cd frontend && npm run --silent build
	@touch $@

setup: $(VENV)/.ready frontend/node_modules/.ready

build: $(STATIC)

demo: build
	$(BIN)/low-tide demo

run: build
	$(BIN)/low-tide serve

lint: lint-python lint-frontend

lint-python: $(VENV)/.ready
	$(BIN)/ruff check src tests tools
	$(BIN)/ruff format --check src tests tools
	$(BIN)/lint-imports
	$(BIN)/mypy

lint-frontend: $(SCHEMA)
	cd frontend && npm run --silent check

.tools/debian:
	sh tools/install-debian.sh
	@mkdir -p .tools && touch $@

pytest: build .tools/debian
	$(BIN)/pytest -n 3 --dist worksteal

# What need not wait for something else is done beside it.
test:
	$(MAKE) -j3 lint pytest

test-long: build .tools/debian
	LOW_TIDE_EXAMPLES=10 HYPOTHESIS=random $(BIN)/pytest -n 3 --dist worksteal -p no:cacheprovider

bench: build
	$(BIN)/python -m tests.bench.run

attack: build
	$(BIN)/python -m tests.attack

mutants: $(VENV)/.ready
	$(BIN)/python tools/mutants.py

screenshots: build .tools/debian
	$(BIN)/python tools/screenshots.py

docs: $(VENV)/.ready
	$(BIN)/python tools/write_docs.py

wheel: build
	$(BIN)/python -m build --wheel --no-isolation

clean:
	rm -rf $(VENV) .tools frontend/node_modules frontend/src/api/generated src/low_tide/web/static build dist
