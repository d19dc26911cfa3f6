# The two commands of the README, and what keeps the code in order.
PORT ?= 8000
WORKERS ?= 2
PYTHON := .venv/bin/python
FRONTEND_SOURCES := $(shell find frontend/src frontend/public -type f) frontend/index.html \
	frontend/vite.config.ts frontend/tsconfig.json
TOOLS := .venv/dev-installed

.PHONY: demo restore check-data repair test fuzz wheel check bench screenshots journeys types rooms lock

demo: .venv/installed frontend/dist/index.html
	@$(PYTHON) manage.py prepare
	@exec $(PYTHON) manage.py serve --port $(PORT)

# Puts the newest sound copy of the data in place, or COPY=name; what was there is set aside.
restore: .venv/installed
	@$(PYTHON) manage.py restore $(COPY)

# Looks through the data; saves what can be read where it is damaged and no copy is new enough.
check-data: .venv/installed
	@$(PYTHON) manage.py check_data

repair: .venv/installed
	@$(PYTHON) manage.py repair

test: $(TOOLS) frontend/node_modules/installed frontend/dist/index.html
	@bash tests/browser/install_chromium.sh
	@cd frontend && npm run -s test
	@$(PYTHON) manage.py test tests --parallel $(WORKERS)

# The tests of what is made up, FUZZ times as much of it, from a seed of its own.
fuzz: FUZZ ?= 100
fuzz: SEED ?= $(shell date +%s)
fuzz: $(TOOLS) frontend/dist/index.html
	@echo "FUZZ=$(FUZZ) SEED=$(SEED)"
	@FUZZ=$(FUZZ) SEED=$(SEED) $(PYTHON) manage.py test tests.fuzz --parallel $(WORKERS)

check: $(TOOLS) frontend/node_modules/installed
	.venv/bin/ruff check .
	.venv/bin/ruff format --check .
	.venv/bin/mypy
	.venv/bin/lint-imports
	$(PYTHON) manage.py makemigrations --check --dry-run
	cd frontend && npm run -s lint && npm run -s typecheck
	$(MAKE) -s types
	$(MAKE) -s rooms
	git diff --exit-code --stat -- frontend/src/api docs/rooms.svg docs/formats || \
		(echo "API types, schemas or the picture of rooms were stale: commit what was written." && exit 1)

bench: $(TOOLS) frontend/dist/index.html
	@bash tests/browser/install_chromium.sh
	@$(PYTHON) -m tests.bench

screenshots: $(TOOLS) frontend/dist/index.html
	@bash tests/browser/install_chromium.sh
	@$(PYTHON) -m tests.browser.screenshots

# Ten journeys of a new user at three sizes of screen, each as one picture, in journeys/.
journeys: $(TOOLS) frontend/dist/index.html
	@bash tests/browser/install_chromium.sh
	@$(PYTHON) -m tests.browser.journeys

# The schema of operations, the OpenAPI document and the front end's types, from the code.
types: $(TOOLS) frontend/node_modules/installed
	@$(PYTHON) manage.py export_openapi_schema --api oilstone.api.api.api --indent 1 \
		--output frontend/src/api/openapi.json
	@$(PYTHON) -m docs.write_schemas
	@cd frontend && npm run -s types

# The picture of rooms in docs/architecture.md, from the imports.
rooms: $(TOOLS)
	@$(PYTHON) -m docs.draw_rooms

# What “pip install” takes, in dist/: with the front end and the demo cars inside.
wheel: .venv/installed frontend/dist/index.html
	@rm -rf build dist && mkdir -p build/wheel dist
	@tar -c --exclude=__pycache__ circuitry oilstone README.md LICENSE pyproject.toml | tar -x -C build/wheel
	@cp -R frontend/dist build/wheel/oilstone/frontend
	@mkdir build/wheel/oilstone/demo && cp demo/*.json build/wheel/oilstone/demo/
	@$(PYTHON) -m pip wheel -q --disable-pip-version-check --no-deps -w dist build/wheel
	@ls dist/*.whl

# Newer versions of the Python packages within pyproject.toml's bounds.
lock: $(TOOLS)
	$(PYTHON) -m pip install -q pip-tools
	.venv/bin/pip-compile -q --generate-hashes --no-emit-find-links --no-emit-index-url \
		--no-emit-trusted-host --strip-extras -o requirements.txt pyproject.toml
	.venv/bin/pip-compile -q --generate-hashes --no-emit-find-links --no-emit-index-url \
		--no-emit-trusted-host --strip-extras --extra dev -c requirements.txt \
		-o requirements-dev.txt pyproject.toml

.venv/bin/python:
	python3 -m venv .venv

.venv/installed: requirements.txt | .venv/bin/python
	$(PYTHON) -m pip install -q --disable-pip-version-check --require-hashes -r requirements.txt
	@touch $@

.venv/dev-installed: requirements-dev.txt .venv/installed
	$(PYTHON) -m pip install -q --disable-pip-version-check --require-hashes -r requirements-dev.txt
	@touch $@

frontend/node_modules/installed: frontend/package-lock.json
	cd frontend && npm ci --no-fund --no-audit --loglevel=error
	@touch $@

frontend/dist/index.html: frontend/node_modules/installed $(FRONTEND_SOURCES) | .venv/installed
	cd frontend && npm run -s build -- --logLevel warn
	@$(PYTHON) -m whitenoise.compress -q frontend/dist
