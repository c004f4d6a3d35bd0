PYTHON ?= $(shell command -v python3.11 || command -v python3)
PORT ?= 5080
BIN = .venv/bin
#: Debian's Chromium: its headless build, which takes a quarter less of the processor, where that is or can be installed
HEADLESS = /usr/bin/chromium-headless-shell
CHROMIUM ?= $(if $(wildcard $(HEADLESS))$(filter 0,$(shell id -u)),$(HEADLESS),/usr/bin/chromium)
export HALE_RAIL_CHROMIUM ?= $(CHROMIUM)
#: caches of what is imported are kept, however the shell is set: half of a start is compiling
unexport PYTHONDONTWRITEBYTECODE
#: one test worker more than there are processors, since a page is often waited for; shared out by file
WORKERS ?= $(shell expr $$(nproc) + 1)
PYTEST = $(BIN)/pytest -n $(WORKERS) --dist loadfile --no-loadscope-reorder

.PHONY: install demo test test-all lint package bench fuzz figures schema demo-data screenshots picture browser lock clean

install: .venv/installed

demo: .venv/installed
	$(BIN)/hale-rail demo --port $(PORT)

# what a newcomer and every change waits for
test: .venv/installed-dev browser
	$(PYTEST) -m "not exhaustive" --durations=20

# the exhaustive ones too, at length, and how much of the code is run
test-all: .venv/installed-dev browser
	HALE_RAIL_FUZZ=10000 HALE_RAIL_EXAMPLES=100 $(PYTEST) --durations=20 --cov --cov-report=term:skip-covered

lint: .venv/installed-dev
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/djlint --quiet --lint src/hale_rail/web/templates

# the wheel, installed in an empty environment and asked for its first pages
package: .venv/installed
	$(BIN)/python tools/try_wheel.py

# each by itself, so that one ratio over its limit hides no other; fails at the end if any was
bench: .venv/installed-bench
	@cd benchmarks && failed=; for name in pages growth starting traces orders ripple diagnosis photos; do \
	  echo "== $$name"; ../$(BIN)/python $$name.py || failed="$$failed $$name"; done; \
	  ../$(BIN)/hale-rail practice --auto --seeds 1-80; \
	  if [ -n "$$failed" ]; then echo "over a limit:$$failed"; exit 1; fi

# ten thousand requests and as many commands, none of which may break
fuzz: .venv/installed-dev
	HALE_RAIL_FUZZ=10000 $(PYTEST) tests/web/test_anything_typed.py tests/cli/test_anything_given.py

figures: .venv/installed
	$(BIN)/python docs/measure_practice.py
	$(BIN)/python docs/write_practice.py

# the empty workshop that ships, after a migration was added
schema: .venv/installed
	$(BIN)/python tools/empty_workshop.py

# the demo made anew from its known truth, as it ships
demo-data: .venv/installed
	PYTHONPATH=tools $(BIN)/python -m larkmoor src/hale_rail/demo

screenshots: .venv/installed-dev browser
	PYTHONPATH=tools $(BIN)/python docs/take_screenshots.py

picture: .venv/installed-dev
	$(BIN)/python docs/draw_structure.py

# Debian's own Chromium drives the browser tests; it is installed when absent and allowed. Where its headless build cannot
# be had, the tests take the usual one.
INSTALL = DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends
browser:
	@if [ -x "$(CHROMIUM)" ]; then :; \
	elif [ "$$(id -u)" = 0 ] && command -v apt-get >/dev/null; then \
	  { apt-get update -qq; $(INSTALL) chromium-headless-shell || $(INSTALL) chromium; } || [ -x /usr/bin/chromium ]; \
	elif [ ! -x /usr/bin/chromium ]; then \
	  echo "Chromium is not at $(CHROMIUM): install the package 'chromium-headless-shell' or 'chromium', or set" \
	    "CHROMIUM=/path."; exit 1; \
	fi

.venv/bin/uv: requirements/installer.txt
	$(PYTHON) -m venv .venv
	$(BIN)/pip --quiet --disable-pip-version-check install --require-hashes -r requirements/installer.txt
	@touch $@

.venv/installed: .venv/bin/uv requirements/base.txt pyproject.toml
	$(BIN)/uv pip install --quiet --compile-bytecode --python $(BIN)/python --require-hashes -r requirements/base.txt
	$(BIN)/uv pip install --quiet --python $(BIN)/python --no-deps --no-build-isolation --editable .
	$(BIN)/python -m compileall -q src
	@touch $@

.venv/installed-dev: .venv/installed requirements/dev.txt
	$(BIN)/uv pip install --quiet --compile-bytecode --python $(BIN)/python --require-hashes -r requirements/dev.txt
	@touch $@

# the reference that records are timed beside; nothing else wants it
.venv/installed-bench: .venv/installed-dev requirements/bench.txt
	$(BIN)/uv pip install --quiet --compile-bytecode --python $(BIN)/python --require-hashes -r requirements/bench.txt
	@touch $@

# the pins, compiled from the lists of pyproject.toml
COMPILE = $(BIN)/uv pip compile --quiet --generate-hashes --python-version 3.11 --no-emit-index-url --no-header \
  --no-annotate --allow-unsafe
lock: .venv/bin/uv
	$(COMPILE) --extra build -o requirements/base.txt pyproject.toml
	$(COMPILE) --extra build --extra dev -o requirements/dev.txt pyproject.toml
	$(COMPILE) --extra build --extra bench -o requirements/bench.txt pyproject.toml
	echo uv | $(COMPILE) -o requirements/installer.txt -

clean:
	rm -rf .venv build .pytest_cache .mypy_cache .ruff_cache .hypothesis
