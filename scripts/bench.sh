#!/bin/sh
# Figures of speed and size, printed and not judged; every page beside a trivial one of the same stack in one run.
# What is measured is what is used: bundled as the application is, not read from its sources.
set -eu
cd "$(dirname "$0")/.."
. scripts/install.sh
varnok_install $mariadb_packages
[ "${VARNOK_BENCH_BUILT:-}" ] || npm run --silent build >/dev/null 2>&1
npx esbuild tests/bench/run.ts --bundle --platform=node --format=esm --packages=external --outfile=build/bench/run.js \
  --alias:core=./core --alias:server=./server --alias:words=./words --log-level=error
exec node build/bench/run.js "$@"
