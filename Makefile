PYTHON ?= python3
VENV := .venv
RUN := $(VENV)/bin/python
STAMP := $(VENV)/.runtime-ready
DEV_STAMP := $(VENV)/.dev-ready

.PHONY: demo test test-slow setup shots bench wheel lint clean install uninstall

demo: $(STAMP) ## start the application with the demo data
	@$(RUN) -m zesty_lever --demo

test: $(DEV_STAMP) ## the whole suite, with the lint and type checks
	@$(VENV)/bin/ruff format --check -q src tests bench tools
	@$(VENV)/bin/ruff check src tests bench tools
	@$(VENV)/bin/mypy
	@$(VENV)/bin/lint-imports
	@command -v initdb >/dev/null || ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || echo "No PostgreSQL programs here: the tests of a staff's server are left out (Debian 12: postgresql-15)."
	@$(RUN) -m pytest -n auto

test-slow: $(DEV_STAMP) ## long proofs against a second engine and by simulation
	@$(RUN) -m pytest -n auto -m slow

setup: $(DEV_STAMP) ## all that development needs

shots: $(STAMP) ## refresh docs/screenshots from the demo data
	@$(RUN) bench/shots.py

bench: $(DEV_STAMP) ## print speeds as ratios of this run
	@$(RUN) bench/run.py
	@$(RUN) bench/engines.py
	@$(RUN) bench/studies.py
	@$(RUN) bench/records.py

wheel: $(DEV_STAMP) ## a wheel in dist, for pip
	@$(RUN) -m pip wheel . -q --disable-pip-version-check --no-deps --no-build-isolation -w dist
	@ls dist/*.whl

install: $(STAMP) ## add launcher, icon and file association for this user
	@$(RUN) tools/install.py

uninstall: ## take them off again; your data stays
	@$(PYTHON) tools/install.py --remove

lint: $(DEV_STAMP)
	@$(VENV)/bin/ruff check --fix src tests bench tools
	@$(VENV)/bin/ruff format src tests bench tools
	@$(VENV)/bin/mypy

$(VENV)/bin/python:
	@$(PYTHON) tools/check_system.py
	@$(PYTHON) -m venv $(VENV)

$(STAMP): $(VENV)/bin/python requirements/runtime.txt pyproject.toml
	@echo "Installing what the application needs (once) ..."
	@$(RUN) -m pip install -q --disable-pip-version-check --require-hashes -r requirements/runtime.txt
	@$(RUN) tools/link_source.py
	@$(RUN) tools/check_system.py --qt
	@touch $@

$(DEV_STAMP): $(STAMP) requirements/dev.txt
	@echo "Installing what the tests need (once, about 400 MB) ..."
	@$(RUN) -m pip install -q --disable-pip-version-check --require-hashes -r requirements/dev.txt
	@touch $@

clean:
	rm -rf $(VENV) build dist src/*.egg-info
