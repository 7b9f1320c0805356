# make demo: install, build the demo scenes, serve them.   make test: everything that CI checks.
# make check: its first half, format, lint, imports and types, in under a minute.
PYTHON ?= python3.11
PORT ?= 8765
VENV := .venv
BIN := $(VENV)/bin
CODE := src tests benchmarks tools

.PHONY: demo demo-reset check test busy format bench fuzz soak screenshots starters schema lock wheel clean

$(VENV)/installed: pyproject.toml requirements.lock
	@command -v $(PYTHON) >/dev/null || { echo "Python 3.11 is needed ($(PYTHON) was not found); set PYTHON=..."; exit 1; }
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --constraint requirements.lock --editable .
	@touch $@

$(VENV)/installed-test: $(VENV)/installed
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --constraint requirements.lock --editable '.[test]'
	@touch $@

demo: $(VENV)/installed
	@$(BIN)/isostasis demo --db var/demo.db --port $(PORT)

demo-reset: $(VENV)/installed
	@$(BIN)/isostasis demo --db var/demo.db --reset --port $(PORT)

/usr/bin/chromium:
	@echo "Chromium is missing; installing it from Debian's packages (the browser tests need it)"
	@if [ "$$(id -u)" = 0 ]; then apt-get update -qq && apt-get install -y -qq chromium >/dev/null; \
	else sudo apt-get update -qq && sudo apt-get install -y -qq chromium >/dev/null; fi

/usr/sbin/nginx:
	@echo "nginx is missing; installing it from Debian's packages (the test behind a proxy needs it)"
	@if [ "$$(id -u)" = 0 ]; then apt-get update -qq && apt-get install -y -qq nginx-light openssl >/dev/null; \
	else sudo apt-get update -qq && sudo apt-get install -y -qq nginx-light openssl >/dev/null; fi

/usr/lib/postgresql:
	@echo "PostgreSQL is missing; installing it from Debian's packages (the store is tested on it too)"
	@if [ "$$(id -u)" = 0 ]; then apt-get update -qq && apt-get install -y -qq postgresql >/dev/null; \
	else sudo apt-get update -qq && sudo apt-get install -y -qq postgresql >/dev/null; fi

check: $(VENV)/installed-test
	$(BIN)/ruff format --check $(CODE)
	$(BIN)/ruff check $(CODE)
	$(BIN)/lint-imports
	$(BIN)/mypy

# What the rules' own tests reach of them is told; the others run unwatched, which is a fifth faster.
RULES := src/isostasis/core tests/core
BOTH := -n 2 --dist worksteal
test: export PYTHONDONTWRITEBYTECODE := # many tests start the program anew: it is compiled once
test: check /usr/bin/chromium /usr/sbin/nginx /usr/lib/postgresql
	$(BIN)/python -m slipcover --source src/isostasis/core --skip-covered -m pytest $(BOTH) $(RULES)
	$(BIN)/pytest $(BOTH) tests $(RULES:%=--ignore=%)

# The whole run again and again while eight others want the machine: what hopes for speed fails here. More workers than
# cores, since each waits for its turn.
ROUNDS ?= 3
busy:
	@for one in 1 2 3 4 5 6 7 8; do (while :; do :; done) & others="$$others $$!"; done; trap 'kill $$others' EXIT; \
	for round in $$(seq $(ROUNDS)); do $(MAKE) test BOTH='-n 4 --dist worksteal' || exit 1; done

format: $(VENV)/installed-test
	$(BIN)/ruff check --fix --exit-zero --quiet $(CODE) # what it cannot mend, `make check` tells
	$(BIN)/ruff format $(CODE)

wheel: $(VENV)/installed
	$(BIN)/python -m pip wheel --quiet --disable-pip-version-check --no-deps --wheel-dir build .

bench: $(VENV)/installed-test /usr/bin/chromium
	$(BIN)/isostasis bench

SEED ?= 1
SECONDS ?= 600
fuzz: $(VENV)/installed-test
	$(BIN)/python -m tools.fuzz --seed $(SEED) --seconds $(SECONDS)

soak: $(VENV)/installed-test /usr/bin/chromium
	$(BIN)/python -m tools.soak --seconds $(SECONDS)

screenshots: $(VENV)/installed-test /usr/bin/chromium
	$(BIN)/python -m tools.screenshots docs/screenshots

starters: $(VENV)/installed
	$(BIN)/python -m tools.starters

schema: $(VENV)/installed
	$(BIN)/isostasis schema > docs/scene.schema.json
	$(BIN)/isostasis schema --labels > docs/labels.schema.json

lock: $(VENV)/installed-test
	$(BIN)/python -m pip freeze --exclude-editable > requirements.lock

clean:
	rm -rf $(VENV) build src/*.egg-info .pytest_cache .mypy_cache .ruff_cache .hypothesis .import_linter_cache
