#!/bin/sh
# Everything with the demo's data, for whoever works on it: `npm run dev`, `npm run dev -- --fresh` to start over.
set -eu
cd "$(dirname "$0")/.."
. scripts/install.sh
varnok_install $mariadb_packages poppler-utils:/usr/bin/pdftoppm
exec node scripts/dev.mjs "$@"
