# Everything a newcomer needs: `make demo` and `make test`. Each set-up step leaves a stamp, so a second call is quick.
SHELL := bash
.SHELLFLAGS := -eu -o pipefail -c
.ONESHELL:
.DELETE_ON_ERROR:
.DEFAULT_GOAL := help
# Some machines forbid bytecode; every start would then compile anew (6 s instead of 2).
unexport PYTHONDONTWRITEBYTECODE
unexport VIRTUAL_ENV

PY := .venv/bin/python
PORT ?= 8127
DEBS := chromium-headless-shell ngspice

.PHONY: help demo serve test test-rest test-core test-times test-long bench soak lint types debs build wheel mutants shots clean
help: ## list what can be made
	@grep -E '^[a-z-]+:.*##' $(MAKEFILE_LIST) | sed 's/:.*## /\t/'

.tools/.ok: requirements-uv.lock
	@echo "Setting up the package installer"
	python3 -m venv .tools
	.tools/bin/pip install -q --disable-pip-version-check --require-hashes -r requirements-uv.lock
	touch $@

.venv/.ok: .tools/.ok requirements.lock pyproject.toml
	@echo "Setting up Python packages"
	[ -x $(PY) ] || .tools/bin/uv venv -q --python "$$(command -v python3)" .venv
	.tools/bin/uv pip sync -q --python $(PY) --require-hashes requirements.lock
	.tools/bin/uv pip install -q --python $(PY) --no-deps --no-build-isolation -e .
	touch $@

web/node_modules/.ok: web/package.json web/package-lock.json
	@echo "Setting up web packages"
	cd web
	npm ci --no-fund --no-audit --loglevel=error
	touch node_modules/.ok

PYSRC := $(shell find jolly_copper -name '*.py')
WEBSRC := $(shell find web/src web/public -type f ! -name 'types.gen.ts' 2>/dev/null) web/index.html web/vite.config.ts

web/openapi.json: .venv/.ok $(PYSRC)
	$(PY) -m jolly_copper.cli openapi > web/openapi.tmp
	if cmp -s web/openapi.tmp $@; then rm web/openapi.tmp; else mv web/openapi.tmp $@; fi
	touch $@

web/src/api/types.gen.ts: web/openapi.json web/node_modules/.ok
	cd web
	npm run --silent types > /dev/null
	touch src/api/types.gen.ts

web/dist/.ok: web/src/api/types.gen.ts $(WEBSRC) web/node_modules/.ok
	@echo "Building the page"
	cd web
	npm run --silent check
	npm run --silent build -- --logLevel warn
	touch dist/.ok

build: web/dist/.ok ## set up everything and build the page

demo: build ## set up, then start the app with the demo railroad
	@exec $(PY) -m jolly_copper.cli demo --port $(PORT)

serve: build ## set up, then start the app with your own layouts
	@exec $(PY) -m jolly_copper.cli serve --port $(PORT)

wheel: build ## one file to install with Python alone: the program with its page inside
	rm -rf dist
	$(PY) -m hatchling build --target wheel
	@echo "Install it with: pip install dist/*.whl, then: jolly-copper demo"

debs:
	@missing=""
	for p in $(DEBS); do
	  dpkg-query -W -f '$${Status}' "$$p" 2>/dev/null | grep -q 'install ok installed' || missing="$$missing $$p"
	done
	if [ -n "$$missing" ]; then
	  echo "Installing system packages:$$missing"
	  sudo=""
	  [ "$$(id -u)" = 0 ] || sudo="sudo -n"
	  $$sudo apt-get -qq -o DPkg::Lock::Timeout=300 update
	  $$sudo env DEBIAN_FRONTEND=noninteractive apt-get -qq -y -o DPkg::Lock::Timeout=300 install --no-install-recommends $$missing > /dev/null || \
	  $$sudo env DEBIAN_FRONTEND=noninteractive apt-get -qq -y -o DPkg::Lock::Timeout=300 install --no-install-recommends chromium ngspice > /dev/null
	fi

lint: build ## style, types and import layers
	.venv/bin/ruff check .
	.venv/bin/ruff format --check .
	.venv/bin/mypy
	.venv/bin/lint-imports --no-cache
	cd web
	npm run --silent lint

test: build debs ## set up, then pass the tests, all but the longest
	.venv/bin/lint-imports --no-cache
	$(PY) -m pytest -n auto --dist worksteal -rR -m "not long"

test-rest: build debs ## the longest tests, which `make test` leaves out; the gate runs both
	$(PY) -m pytest -n auto --dist worksteal -rR -m long

test-core: .venv/.ok debs ## the quick tests of the core alone, in under a minute
	$(PY) -m pytest -n auto --dist worksteal -p no:playwright -m "not slow" tests/core tests/exchange

test-times: build debs ## run every test, and write down how long each takes
	$(PY) -m tools.time_tests

test-long: build debs ## every random check in full
	COPPER_LONG=1 $(PY) -m pytest

bench: build debs ## times, growth, and the ratio to a circuit simulator
	$(PY) tools/bench.py
	$(PY) tools/bench_rails.py
	$(PY) -m tools.bench_zones
	$(PY) -m tools.bench_cabs
	$(PY) -m tools.bench_book
	$(PY) -m tools.bench_signals
	$(PY) -m tools.bench_rehearsal
	$(PY) -m tools.bench_tracing
	$(PY) -m tools.bench_club
	$(PY) -m tools.bench_proving
	$(PY) -m tools.bench_beside
	$(PY) -m tools.bench_page

soak: build ## attack the program: kills, nonsense, hostile files, many clients, strangers
	$(PY) -m tools.soak

mutants: .venv/.ok debs ## change the core in small ways, and see which changes no test notices
	$(PY) -m tools.mutate

shots: build debs ## refresh docs/screenshots from the demo
	PYTHONPATH=. $(PY) tools/shots.py

clean: ## forget everything that was set up
	rm -rf .venv .tools web/node_modules web/dist web/openapi.json web/src/api/types.gen.ts
