# Two commands: `make demo` and `make test`. `PYTHON=python3.12 make demo` chooses the interpreter.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
PORT ?=

.PHONY: demo up test quick prove check fmt bench shots vendor demo-data clean

demo: $(VENV)/.ready
	@$(BIN)/python -m muster demo $(if $(PORT),--port $(PORT))

up: $(VENV)/.ready
	@$(BIN)/python -m muster up $(if $(PORT),--port $(PORT))

test: $(VENV)/.dev
	@sh tools/chromium.sh
	@$(MAKE) --no-print-directory -j2 check $(VENV)/.ready
	$(BIN)/python -m pytest -n 2 --dist loadfile --no-loadscope-reorder

# For the work in between: the core and the checks of the repository, under 90 s on two idle cores.
quick: $(VENV)/.dev
	$(BIN)/ruff check src tests tools benchmarks
	$(BIN)/python -m pytest -n auto tests/core tests/formats tests/repo --ignore tests/repo/test_wheel.py --ignore tests/core/test_properties.py --ignore tests/formats/test_hostile.py

# The long proofs: every generated test with new seeds and five times the examples, then the character against known truth.
prove: $(VENV)/.dev
	MUSTER_PROVE=1 $(BIN)/python -m pytest -n auto --dist loadfile tests/core tests/adversary tests/formats tests/records tests/repo/test_wheel.py tests/twin tests/web
	$(BIN)/python -m benchmarks.proof

check: $(VENV)/.dev
	$(BIN)/ruff check src tests tools benchmarks && $(BIN)/ruff format --check src tests tools benchmarks && $(BIN)/mypy

fmt: $(VENV)/.dev
	$(BIN)/ruff check --fix src tests tools benchmarks; $(BIN)/ruff format src tests tools benchmarks

shots: $(VENV)/.dev
	@sh tools/chromium.sh
	$(BIN)/python -m tools.screenshots

demo-data: $(VENV)/.run
	$(BIN)/python -m tools.demo

bench: $(VENV)/.run
	$(BIN)/python -m benchmarks

vendor: $(VENV)/.run
	$(BIN)/python -m tools.vendor

$(VENV)/bin/python:
	@$(PYTHON) -c 'import sys; sys.exit("Muster needs Python 3.11 or newer, this is " + sys.version.split()[0] if sys.version_info < (3, 11) else 0)'
	@$(PYTHON) -m venv $(VENV) || { rm -rf $(VENV); sh tools/venv.sh && $(PYTHON) -m venv $(VENV); }

$(VENV)/.run: requirements.txt pyproject.toml | $(VENV)/bin/python
	$(BIN)/pip install --quiet --disable-pip-version-check --requirement requirements.txt
	$(BIN)/pip install --quiet --disable-pip-version-check --no-deps --editable .
	@touch $@

# The kernels compiled, beside the checks of the code where there are two cores.
$(VENV)/.ready: $(VENV)/.run
	@$(BIN)/python -m muster ready
	@touch $@

$(VENV)/.dev: requirements-dev.txt $(VENV)/.run
	$(BIN)/pip install --quiet --disable-pip-version-check --requirement requirements-dev.txt
	@touch $@

clean:
	rm -rf $(VENV) build dist src/*.egg-info
