# make demo | test | bench | fuzz | screenshots | check. Each does its own set-up and skips what is up to date.
SHELL := /bin/bash
PYTHON ?= python3
BIN := .venv/bin
STAMPS := .stamps
FRONTEND_SOURCES := $(shell find frontend/src -type f 2>/dev/null) frontend/vite.config.ts frontend/svelte.config.js

# The core's tests by their first letters. One stream more than there are processors: those in the browser wait a third of their time.
CORE_PARTS := l-r a-c s-z d-k
STREAMS := $(shell expr $$(nproc) + 1)

.PHONY: setup demo test test-site bench fuzz screenshots check check-python check-frontend clean

setup: $(STAMPS)/python $(STAMPS)/frontend

$(STAMPS)/system:
	@mkdir -p $(STAMPS)
	@tools/install-system-packages
	@touch $@

$(STAMPS)/python: pyproject.toml $(STAMPS)/system
	@test -x $(BIN)/python || $(PYTHON) -m venv .venv
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -e '.[dev]'
	@touch $@

$(STAMPS)/node: frontend/package-lock.json $(STAMPS)/system
	cd frontend && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

$(STAMPS)/frontend: $(STAMPS)/node $(FRONTEND_SOURCES)
	cd frontend && npm run --silent build -- --logLevel warn
	@touch $@

demo: setup
	$(BIN)/gelvet serve --demo --port $${PORT:-8000}

check: setup
	@$(MAKE) --no-print-directory --jobs=2 --output-sync=target check-python check-frontend

check-python:
	$(BIN)/ruff check gelvet tests bench manage.py
	$(BIN)/ruff format --check gelvet tests bench manage.py
	$(BIN)/mypy gelvet tests bench
	$(BIN)/python manage.py makemigrations --check --dry-run --verbosity 0
	$(BIN)/python -W ignore manage.py export_openapi $(STAMPS)/openapi.json && diff -q $(STAMPS)/openapi.json frontend/openapi.json

check-frontend:
	cd frontend && npm run --silent lint && npm run --silent check && npm run --silent test

# The core needs neither database nor browser: its parts run beside the site and the browser, the longest first.
test: check
	@$(MAKE) --no-print-directory --jobs=$(STREAMS) --output-sync=target test-site $(CORE_PARTS:%=test-core-%)

test-core-%:
	$(BIN)/python -W ignore manage.py test tests.core -p 'test_[$*]*.py'

test-site:
	$(BIN)/python -W ignore manage.py test tests.site tests.browser

bench: setup
	$(BIN)/python -m bench

fuzz: setup
	$(BIN)/python -W ignore -m bench.fuzz

screenshots: setup
	$(BIN)/python -m bench.screenshots

clean:
	rm -rf .venv .stamps frontend/node_modules frontend/dist
