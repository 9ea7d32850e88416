# Tarn. `make demo` and `make test` do all their own set-up.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
NPM := npm --prefix web --no-audit --no-fund --loglevel=error

.PHONY: demo demo-fresh test fuzz lint bench dev install screenshots docs clean test-tools
.DEFAULT_GOAL := demo

demo: install
	@$(BIN)/tarn demo

demo-fresh: install
	@$(BIN)/tarn demo --fresh

dev: install
	@echo "Front end with reloading: npm --prefix web run dev (http://localhost:5173)"
	@$(BIN)/tarn demo --reload

install: $(VENV)/.installed web/dist/.built

$(VENV)/.installed: requirements.txt pyproject.toml
	@echo "Installing Python packages …"
	@test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	@$(BIN)/python -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements.txt
	@$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e . 2>/dev/null \
	  || $(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps -e .
	@touch $@

$(VENV)/.installed-dev: requirements-dev.txt $(VENV)/.installed
	@echo "Installing what tests need …"
	@$(BIN)/python -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements-dev.txt
	@touch $@

web/node_modules/.installed: web/package.json web/package-lock.json
	@echo "Installing the front end's packages …"
	@$(NPM) ci
	@touch $@

web/dist/.built: web/node_modules/.installed $(shell find web/src web/public -type f) web/index.html web/vite.config.ts
	@echo "Building the front end …"
	@$(NPM) run build --silent -- --logLevel warn
	@$(BIN)/python -m whitenoise.compress --quiet web/dist
	@touch $@

test-tools: install $(VENV)/.installed-dev
	@sh scripts/need chromium:chromium sshd:openssh-server snmpd:snmpd snmpget:snmp slapd:slapd redis-server:redis-server rpm:rpm

lint: $(VENV)/.installed-dev web/node_modules/.installed
	$(BIN)/ruff check tarn tests
	$(BIN)/ruff format --check tarn tests
	$(BIN)/mypy
	$(BIN)/lint-imports
	npm --prefix web run --silent lint
	npm --prefix web run --silent check

test: test-tools lint
	npm --prefix web run --silent test
	$(BIN)/python -m pytest -n 2 --dist loadfile -m "not browser"
	$(BIN)/python -m pytest -m browser

# Nightly: every operation of the API, what its description allows and what it does not. FUZZ=10000 requests.
fuzz: install $(VENV)/.installed-dev
	$(BIN)/python -m tests.fuzz.run

bench: install $(VENV)/.installed-dev
	@$(BIN)/tarn bench

docs: install
	$(BIN)/tarn schema openapi > docs/openapi.json
	$(BIN)/tarn schema sighting > docs/sighting.schema.json
	$(BIN)/tarn schema filters > docs/fields.md
	npm --prefix web run --silent types

screenshots: test-tools
	$(BIN)/python -m tests.web.screenshots

clean:
	rm -rf $(VENV) web/node_modules web/dist
