# `make help` lists what there is. Everything Cargo builds lies outside the checkout, so that a fresh clone builds only what changed.
cache := $(if $(XDG_CACHE_HOME),$(XDG_CACHE_HOME),$(HOME)/.cache)/snug-roster
export CARGO_TARGET_DIR ?= $(cache)/target
here := $(shell pwd | cksum | cut -d' ' -f1)
# As root PostgreSQL runs as the user postgres, who cannot reach root's home.
export SNUG_DEMO_FOLDER ?= $(if $(filter 0,$(shell id -u)),/var/tmp/snug-roster-$(here),$(cache)/demo-$(here))
ifeq ($(shell uname -m) $(shell grep -c -m 1 -w avx2 /proc/cpuinfo),x86_64 0)
export RUSTFLAGS ?= -C target-cpu=x86-64
endif

.PHONY: help demo demo-reset test check bench fuzz soak sbom styles icons

help: ## list these commands
	@grep -hE '^[a-z-]+:.*##' $(MAKEFILE_LIST) | sed -E 's/^([a-z-]+):.*## /\1\t/' | expand -t14

demo: ## build everything and run the application with its demo, on PORT (8080)
	@scripts/demo.sh

demo-reset: ## the same, with the demo's data made anew
	@scripts/demo.sh --reset

test: ## run every test, the real pages in Chromium included
	@scripts/install.sh --tests
	@scripts/with-postgres.sh cargo test --workspace --locked

check: ## formatting, lints and the tests of the rules; fast
	cargo fmt --check
	cargo clippy --workspace --all-targets --locked -- -D warnings
	node scripts/supply.mjs
	cargo test --locked -p snug-core -p snug-exchange

bench: ## measure, and write docs/performance.md
	@scripts/bench.sh

fuzz: ## ask 20,000 odd things by the API, bring 10,000 odd files, and try what the description of the API allows
	@scripts/install.sh
	@SNUG_FUZZ_CALLS=20000 SNUG_FUZZ_FILES=10000 scripts/with-postgres.sh cargo test --locked -p snug-roster --test fuzz -- --nocapture
	@scripts/with-postgres.sh scripts/fuzz.sh

soak: ## kill a server a hundred times in the middle of a stream of changes
	@scripts/install.sh
	@SNUG_SOAK=100 scripts/with-postgres.sh cargo test --locked -p snug-roster --test durability every_acknowledged -- --nocapture

sbom: ## write what the program is made of, and under which licences, to sbom.json in the target folder
	@node scripts/supply.mjs $(CARGO_TARGET_DIR)/sbom.json

icons: ## make the file of icons anew after a change of their list in scripts/icons.mjs
	@scripts/install.sh --tests
	node scripts/icons.mjs

styles: ## make the stylesheet anew after a change of classes
	@scripts/install.sh --tests
	npm run --silent styles
