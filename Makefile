VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.installed

.PHONY: demo test lint bench doors fuzz soak screenshots artwork schema system install uninstall clean

# A fresh machine needs nothing but make, Python 3.11 or newer, and (for the system libraries) root or sudo.
demo: $(STAMP)
	tools/on-screen $(BIN)/wild-heron demo

# Three at a time, each on a virtual screen of its own: on two processors one of them mostly waits. ARGS="-n 0 …" for one
# at a time.
test: $(STAMP)
	tools/system-packages --checks
	tools/other-readers $(VENV)
	tools/on-screen $(BIN)/python -m pytest -n 3 $(ARGS)

lint: $(STAMP)
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports

bench: $(STAMP)
	PYTHONPATH=tools tools/on-screen $(BIN)/python -m bench $(ARGS)

# What every format loses, as readers see it that are not ours: the table in docs/performance.md.
doors: $(STAMP)
	tools/other-readers $(VENV)
	PYTHONPATH=tools tools/on-screen $(BIN)/python -m doors --write docs/performance.md $(ARGS)

# Attacks with N hostile scenes, half as many artworks, N/30 commands and every bomb; SEED= repeats a run.
N ?= 1000
fuzz: $(STAMP)
	cd tools && ../$(BIN)/python -m fuzzing --scenes $(N) --artworks $$(($(N) / 2)) --commands $$(($(N) / 30)) --bombs \
		$(if $(SEED),--seed $(SEED))

# Beside two busy processes: N starts and ends of the demo at random moments, N windows in one process, N/15 ends of the
# interpreter with a window open, and MINUTES of random work. It takes about N/10 minutes more than those.
MINUTES ?= 10
soak: $(STAMP)
	PYTHONPATH=tools tools/on-screen --virtual $(BIN)/python -m soak --starts $(N) --windows $(N) --ends $$(($(N) / 15)) \
		--minutes $(MINUTES) $(if $(SEED),--seed $(SEED))

screenshots: $(STAMP)
	tools/on-screen --virtual $(BIN)/python tools/screenshots.py

artwork: $(STAMP)
	PYTHONPATH=tools $(BIN)/python -m demo.painting
	PYTHONPATH=tools $(BIN)/python -m demo.march
	PYTHONPATH=tools $(BIN)/python -m demo.build
	PYTHONPATH=tools $(BIN)/python -m demo.moves
	PYTHONPATH=tools $(BIN)/python -m demo.lessons
	PYTHONPATH=tools $(BIN)/python -m demo.examples
	PYTHONPATH=tools $(BIN)/python -m demo.pictures

schema: $(STAMP)
	$(BIN)/python -m wild_heron.files.schema

system:
	tools/system-packages

# For packagers, beside the Python package itself: desktop entry, icon, file type, metainfo, manual and completions.
PREFIX ?= /usr/local
PYTHON ?= python3
install uninstall:
	$(PYTHON) src/wild_heron/integration/place.py --prefix "$(PREFIX)" --destdir "$(DESTDIR)" \
		$(if $(filter uninstall,$@),--remove)

$(STAMP): pyproject.toml constraints.txt | system
	tools/python-packages $(VENV)
	touch $(STAMP)

clean:
	rm -rf $(VENV) build src/*.egg-info
