# Both commands make .venv in the checkout and install what they need into it.
PYTHON ?= python3
BIN := .venv/bin

.PHONY: demo test install clean

install: .venv/installed

.venv/installed: pyproject.toml
	$(PYTHON) -m venv .venv
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --editable '.[browser,dev]'
	touch $@

demo: install
	$(BIN)/dryquarry demo demo
	@echo "The program is $(BIN)/dryquarry; '. $(BIN)/activate' puts it on the path." >&2

test: install
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/pytest

clean:
	rm -rf .venv demo build dist src/*.egg-info
