PYTHON ?= $(shell command -v python3.11 || command -v python3)
PORT ?= 5080
BIN = .venv/bin
CHROMIUM ?= /usr/bin/chromium
export HALE_RAIL_CHROMIUM ?= $(CHROMIUM)

.PHONY: install demo test lint bench fuzz screenshots picture browser lock clean

install: .venv/installed

demo: .venv/installed
	$(BIN)/hale-rail demo --port $(PORT)

test: .venv/installed-dev browser
	$(BIN)/pytest --cov --cov-report=term:skip-covered

lint: .venv/installed-dev
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/djlint --quiet --lint src/hale_rail/web/templates

# each by itself, so that one ratio over its limit hides no other; fails at the end if any was
bench: .venv/installed-bench
	@cd benchmarks && failed=; for name in pages growth traces orders ripple; do \
	  echo "== $$name"; ../$(BIN)/python $$name.py || failed="$$failed $$name"; done; \
	  ../$(BIN)/hale-rail practice --auto --seeds 1-80; \
	  if [ -n "$$failed" ]; then echo "over a limit:$$failed"; exit 1; fi

# ten thousand requests and as many commands, none of which may break
fuzz: .venv/installed-dev
	HALE_RAIL_FUZZ=10000 $(BIN)/pytest -q tests/web/test_anything_typed.py tests/cli/test_anything_given.py

figures: .venv/installed
	$(BIN)/hale-rail practice --auto --seeds 1-200 --json > docs/figures.json.new
	mv docs/figures.json.new src/hale_rail/knowledge/figures.json
	$(BIN)/python docs/write_practice.py

screenshots: .venv/installed-dev browser
	$(BIN)/python docs/take_screenshots.py

picture: .venv/installed-dev
	$(BIN)/python docs/draw_structure.py

# Debian's own Chromium drives the browser tests; it is installed when absent and allowed.
browser:
	@if [ ! -x "$(CHROMIUM)" ]; then \
	  if [ "$$(id -u)" = 0 ] && command -v apt-get >/dev/null; then \
	    apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends chromium; \
	  else \
	    echo "Chromium is not at $(CHROMIUM): install the package 'chromium', or set CHROMIUM=/path."; exit 1; \
	  fi; \
	fi

.venv/bin/uv: requirements/installer.txt
	$(PYTHON) -m venv .venv
	$(BIN)/pip --quiet --disable-pip-version-check install --require-hashes -r requirements/installer.txt
	@touch $@

.venv/installed: .venv/bin/uv requirements/base.txt pyproject.toml
	$(BIN)/uv pip install --quiet --python $(BIN)/python --require-hashes -r requirements/base.txt
	$(BIN)/uv pip install --quiet --python $(BIN)/python --no-deps --no-build-isolation --editable .
	@touch $@

.venv/installed-dev: .venv/installed requirements/dev.txt
	$(BIN)/uv pip install --quiet --python $(BIN)/python --require-hashes -r requirements/dev.txt
	@touch $@

# the reference that records are timed beside; nothing else wants it
.venv/installed-bench: .venv/installed-dev requirements/bench.txt
	$(BIN)/uv pip install --quiet --python $(BIN)/python --require-hashes -r requirements/bench.txt
	@touch $@

lock: .venv/bin/uv
	for r in installer base dev bench; do $(BIN)/uv pip compile --quiet --generate-hashes --python-version 3.11 \
	  --no-emit-index-url --no-header --no-annotate --allow-unsafe -o requirements/$$r.txt requirements/$$r.in; done

clean:
	rm -rf .venv build .pytest_cache .mypy_cache .ruff_cache .hypothesis
