PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin

.PHONY: demo test green fuzz pictures cluster bench documents screenshots clean

# The stamp is older than pyproject.toml when dependencies may have changed; the package itself is linked, not copied.
$(VENV)/.ready: pyproject.toml
	@echo "setting up $(VENV): isodesm, the packages it needs, and those of its tests (once; a minute or two)"
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --editable ".[dev]"
	touch $@

demo: $(VENV)/.ready
	$(BIN)/isodesm demo

test: $(VENV)/.ready
	$(BIN)/python -m tests

# Longer tests: steps carried out on public code and compiled; edits, patterns and faults at random; pictures; a real cluster.
green: $(VENV)/.ready
	ISODESM_TESTS=green $(BIN)/python -m tests test_green test_planning.SamplesTest

pictures: $(VENV)/.ready
	ISODESM_TESTS=pictures $(BIN)/python -m tests test_documents

cluster: $(VENV)/.ready
	ISODESM_TESTS=cluster $(BIN)/python -m tests test_fleet

bench: $(VENV)/.ready
	$(BIN)/python -m benchmarks $(CORPORA)

fuzz: $(VENV)/.ready
	ISODESM_TESTS=fuzz $(BIN)/python -m tests test_fuzz test_linear test_edited test_editor test_trust
	$(BIN)/python -m benchmarks.fuzz --minutes $(or $(MINUTES),5) $(CORPORA)

screenshots: $(VENV)/.ready
	$(BIN)/python -m publishing.screenshots

clean:
	rm -rf $(VENV) build dist

documents: $(VENV)/.ready
	$(BIN)/python -m publishing
