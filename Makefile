# Two commands are all a fresh machine needs: make demo, make test.
VENV := .venv
PY := $(VENV)/bin/python
KQ := $(VENV)/bin/keenquiet
CHROMIUM := /usr/bin/chromium
SPEECH := /usr/bin/espeak-ng
WEB_SOURCES := $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/vite.config.ts web/package-lock.json

.PHONY: demo run dev test soak lint bench shots setup types format

setup: $(VENV)/.ready src/keenquiet/web_dist/index.html

$(VENV)/.ready: pyproject.toml constraints.txt
	python3 -m venv $(VENV)
	$(PY) -m pip install --quiet --disable-pip-version-check -c constraints.txt -e '.[dev]'
	touch $@

web/node_modules/.ready: web/package-lock.json
	cd web && npm ci --no-audit --no-fund --loglevel=error
	touch $@

src/keenquiet/web_dist/index.html: web/node_modules/.ready $(WEB_SOURCES)
	cd web && npm run --silent build
	touch $@

demo: setup
	$(KQ) demo

run: setup
	$(KQ) serve

dev: setup
	$(KQ) serve & cd web && npm run dev

# two at a time; a file of browser tests stays together, for it shares a server; what must keep time runs alone
test: setup $(CHROMIUM) $(SPEECH)
	$(PY) -m pytest -n 2 tests/core tests/service tests/api
	$(PY) -m pytest -n 2 --dist loadfile -m "not in_real_time" tests/web
	$(PY) -m pytest -m in_real_time tests/web
	cd web && npm run --silent test

# kills, damaged files and generated requests in full numbers: some hours; SHARE=0.1 takes a tenth of them
SHARE := 1
soak: setup
	$(PY) -m tests.soak $(SHARE)
	KEENQUIET_SOAK=1 $(PY) -m pytest -n 2 tests/core/test_silence_parts.py tests/core/test_week.py tests/core/test_laws.py tests/core/test_plans.py

lint: setup
	$(VENV)/bin/ruff check src tests bench
	$(VENV)/bin/ruff format --check src tests bench
	$(VENV)/bin/mypy
	$(VENV)/bin/lint-imports
	$(PY) -m keenquiet.api.openapi | diff -q - web/openapi.json || (echo 'web/openapi.json is old: make types'; exit 1)
	cd web && npx openapi-typescript openapi.json | diff -q - src/api/schema.d.ts || (echo 'schema.d.ts is old: make types'; exit 1)
	cd web && npm run --silent lint

types: $(VENV)/.ready web/node_modules/.ready
	$(PY) -m keenquiet.api.openapi > web/openapi.json
	cd web && npm run --silent types

format: setup
	$(VENV)/bin/ruff check --fix src tests bench
	$(VENV)/bin/ruff format src tests bench
	cd web && npm run --silent format

bench: setup
	$(PY) bench/run.py

shots: setup $(CHROMIUM)
	$(PY) tests/web/shots.py docs/screenshots

$(CHROMIUM):
	apt-get update -q && apt-get install -y -q chromium

$(SPEECH):
	apt-get update -q && apt-get install -y -q espeak-ng
