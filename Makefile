# The commands of this project. `make demo` and `make test` work from a fresh clone.
# Where it is set, every process of ours would compile anew all that it loads: three seconds each.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: demo tour test lint lint-python lint-console lint-tests bench breach trust screenshots console setup clean

demo: ## start the demo: database, simulated model, service; stays until Ctrl-C
	@tools/setup.sh demo
	@.venv/bin/harquel demo

tour: ## eight questions in the terminal, then end; language=de asks in German
	@tools/setup.sh demo
	@.venv/bin/harquel tour --language $(or $(language),en)

test: ## install what is missing, lint, run every test
	@tools/setup.sh test
	@$(MAKE) --no-print-directory lint
	@.venv/bin/python tools/run_tests.py

lint:
	@tools/setup.sh demo
	@$(MAKE) --no-print-directory --jobs=3 --output-sync=target lint-python lint-console lint-tests
	@.venv/bin/python tools/share_of_tests.py

lint-python:
	@.venv/bin/ruff check .
	@.venv/bin/ruff format --check --quiet . || (echo "Run: .venv/bin/ruff format ."; exit 1)
	@.venv/bin/mypy

lint-console:
	@.venv/bin/python tools/contract_types.py --check
	@tools/console.sh check lint test

lint-tests: # that all of them are found; those who then run them need not compile them, each for itself
	@.venv/bin/python -m pytest --collect-only -q >.stamps/tests || (cat .stamps/tests; exit 1)

bench: ## figures of speed beside their baselines, as a table and JSON
	@tools/setup.sh demo
	@.venv/bin/python -m benchmarks

breach: ## attacks, honest queries, restricted people, killed processes and hostile replies, on real engines
	@tools/setup.sh test
	@.venv/bin/python -m breach
	@.venv/bin/python -m breach.losses
	@.venv/bin/python -m breach.replies

trust: ## what becomes of wrong drafts and right ones; refreshes docs/trust.md
	@tools/setup.sh demo
	@.venv/bin/python -m trust

screenshots: ## the pictures in docs/screenshots, made from the demo data
	@tools/setup.sh pictures
	@.venv/bin/python tools/screenshots.py

console: ## build the console only
	@tools/setup.sh demo

setup:
	@tools/setup.sh test

clean: ## remove what was built; the demo's data too
	rm -rf .venv .stamps var console/node_modules src/harquel/service/console
