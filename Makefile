# Two commands do everything on a fresh machine: `make demo` and `make test`.
SHELL := /bin/bash
.SHELLFLAGS := -eu -o pipefail -c
PYTHON ?= python3
PY := .venv/bin/python
# What has been read is kept, wherever the machine says otherwise: every start would read each module's text again.
export PYTHONDONTWRITEBYTECODE :=
DEMO_ADDRESS ?= 127.0.0.1:8000
# The guide is shown by the interface, with its pictures.
SOURCES := $(shell find web/src web/public web/index.html web/vite.config.ts docs/guide docs/screenshots -type f 2>/dev/null)

PIP := $(PY) -m pip install --quiet --disable-pip-version-check --no-compile
MAKES = +@$(MAKE) --silent --no-print-directory

.PHONY: proofs demo serve test checks-python checks-web wheel bench mutants fuzz screenshots format schema environment system

# Each side in two parts: what runs and builds Under Hood, and what tests it.
.venv/.ready: requirements.txt pyproject.toml
	$(PYTHON) -m venv .venv
	$(PIP) -r requirements.txt
	$(PIP) --no-deps --no-build-isolation -e .
	touch $@

.venv/.tests: .venv/.ready requirements-test.txt
	$(PIP) -r requirements-test.txt
	touch $@

# Not `npm ci`: npm 11 refuses the lock file where a registry lacks some other platform's optional binaries.
# `--no-save` installs what the lock file says and leaves it as it is.
NPM := npm install --no-save --loglevel=error
node_modules/.ready: package.json package-lock.json .npmrc
	rm -f node_modules/.tests
	$(NPM) --omit=dev
	touch $@

node_modules/.tests: package.json package-lock.json .npmrc
	$(NPM)
	touch node_modules/.ready $@

environment: .venv/.tests node_modules/.tests

BUILT := underhood_server/interface/index.html
$(BUILT): node_modules/.ready $(SOURCES)
	npm run --silent build -- --logLevel warn

INTERFACE := node_modules/.compressed
$(INTERFACE): .venv/.ready $(BUILT)
	$(PY) -m whitenoise.compress --quiet underhood_server/interface
	touch $@

# The package to install elsewhere, with the interface and the demo in it.
wheel: $(INTERFACE)
	rm -rf build dist
	$(PY) -m pip wheel --quiet --disable-pip-version-check --no-deps --no-build-isolation --wheel-dir dist .

# The two installers work at the same time.
demo:
	$(MAKES) -j2 $(INTERFACE)
	@echo "Under Hood's demo (stop it with Ctrl-C):"
	@UNDERHOOD_DEMO=1 $(PY) manage.py serve --demo --bind $(DEMO_ADDRESS)

# A workshop of your own, in var/; `manage.py createworkshop NAME USER` makes its first person (docs/serving.md).
BIND ?= $(DEMO_ADDRESS)
serve:
	$(MAKES) -j2 $(INTERFACE)
	$(PY) manage.py migrate --verbosity 0
	$(PY) manage.py serve --bind $(BIND)

# Debian's headless Chromium drives the browser tests, ngspice checks circuits, pdftotext reads the PDFs, which Pango sets.
# As root they are installed; otherwise say what is missing.
SYSTEM := chromium-headless-shell ngspice pdftotext:poppler-utils
LIBRARIES := libpangoft2-1.0.so.0:libpangoft2-1.0-0 libharfbuzz-subset.so.0:libharfbuzz-subset0
system:
	@missing=""; for each in $(SYSTEM); do command -v $${each%%:*} >/dev/null || missing="$$missing $${each##*:}"; done; \
	known="$$(PATH="$$PATH:/sbin:/usr/sbin" ldconfig -p)"; \
	for each in $(LIBRARIES); do grep -q "$${each%%:*}" <<<"$$known" || missing="$$missing $${each##*:}"; done; \
	if [ -n "$$missing" ]; then \
	  if [ "$$(id -u)" = 0 ] && command -v apt-get >/dev/null; then \
	    apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $$missing >/dev/null; \
	  else echo "this needs these Debian packages:$$missing"; exit 1; fi; fi

# Both sides at the same time, then the tests on all cores; at the end what took longest. `.parts`: seconds of each part.
part = began=$$SECONDS; $(2); echo "$$((SECONDS - began)) $(1)" >> .parts
test:
	@rm -f .parts
	$(MAKES) -j3 --output-sync system checks-python checks-web
	$(MAKES) $(INTERFACE)
	@$(PY) manage.py test underhood underhood_server e2e --parallel auto --noinput

checks-python: .venv/.tests
	@.venv/bin/ruff format --check --quiet .
	@.venv/bin/ruff check --quiet .
	@$(call part,the engine compiled,$(PY) -m underhood.circuit.compiled)
	@$(call part,types,.venv/bin/mypy --no-error-summary underhood underhood_server e2e benchmarks checks)
	@told=$$(.venv/bin/lint-imports) || { echo "$$told"; exit 1; }
	@told=$$($(PY) manage.py makemigrations --check --dry-run) || { echo "$$told"; exit 1; }

checks-web: node_modules/.tests
	@$(call part,formats and types of the web,npm run --silent check)
	@$(call part,tests of the web,NO_COLOR=1 npm run --silent test -- --reporter=dot)
	$(MAKES) $(BUILT)

# After the tables the long form of what `make test` does in short: a server killed in two thousand writes, every role at
# every operation, the round trip of a workshop, and forty requests for each operation.
LONG := $(addprefix underhood_server.tests.,test_data_safety test_permissions test_archives)
bench: system environment $(INTERFACE)
	$(PY) -m benchmarks
	UNDERHOOD_KILL_WRITES=2000 $(PY) manage.py test $(LONG) --noinput
	$(PY) -m checks.fuzz

# Faults made on purpose: what no test notices (docs/mutants.md). An hour on two cores; not part of `make test`.
mutants: environment
	$(PY) -m checks.core_mutants
	node checks/web_mutants.mjs

# Thousands of requests made from the published API, good and bad, at a server that answers them; and new examples for the
# core's property tests, which try the same ones at every `make test`.
fuzz: environment
	UNDERHOOD_EXAMPLES=new $(PY) -m unittest discover -q -t . -s underhood/tests
	$(PY) -m checks.fuzz

# Corrections of two hundred cars whose truth is known: what they claim beside what is true. A quarter of an hour.
proofs: environment
	$(PY) -m checks.proofs

screenshots: system environment $(INTERFACE)
	UNDERHOOD_DEMO=1 $(PY) -m e2e.screenshots docs/screenshots

format: environment
	.venv/bin/ruff check --fix --quiet . && .venv/bin/ruff format --quiet .
	npm run --silent format

# The published documents that follow from the code: OpenAPI, the TypeScript types and the job file's JSON Schema.
schema: environment
	$(PY) manage.py publish
	npm run --silent types
