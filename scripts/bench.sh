#!/bin/sh
# Figures of speed and size, printed and not judged; every page beside a trivial one of the same stack in one run.
set -eu
cd "$(dirname "$0")/.."
. scripts/install.sh
varnok_install $mariadb_packages
npm run --silent build >/dev/null 2>&1
exec node --import tsx tests/bench/run.ts "$@"
