#!/usr/bin/env bash
# Installs what a bare Debian with Rust and Node lacks, and says what and why. With --tests also what the tests need.
set -euo pipefail
cd "$(dirname "$0")/.."
sudo=""
[ "$(id -u)" = 0 ] || sudo=sudo
missing=()
ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || { echo "Installing PostgreSQL: the workspace is kept in it."; missing+=(postgresql); }
if [ "${1:-}" = --tests ]; then
  command -v chromium >/dev/null || { echo "Installing Chromium: the tests drive the real pages in it."; missing+=(chromium); }
fi
command -v cc >/dev/null || { echo "Installing a C compiler: Rust links with it."; missing+=(gcc libc6-dev); }
if [ ${#missing[@]} -gt 0 ]; then
  $sudo apt-get update -qq
  # No cluster of its own is started by the package: ours is private and in a folder of ours.
  $sudo mkdir -p /etc/postgresql-common
  [ -e /etc/postgresql-common/createcluster.conf ] || echo "create_main_cluster = false" | $sudo tee /etc/postgresql-common/createcluster.conf >/dev/null
  DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
fi
if [ "${1:-}" = --tests ] && ! cmp -s package-lock.json node_modules/.installed-lock; then
  echo "Installing npm packages: Playwright, axe and Tailwind, for the tests."
  # Not `npm ci`: it refuses the lock because Tailwind's packages for other systems are not in every registry. The versions are the
  # lock's all the same, and the lock is not written.
  PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD=1 npm install --no-save --no-fund --no-audit --silent
  cp package-lock.json node_modules/.installed-lock
fi
