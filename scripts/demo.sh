#!/bin/sh
# Brings up Varnok with its demo data: `npm run demo`, `npm run demo -- --fresh` to start over.
set -eu
cd "$(dirname "$0")/.."
. scripts/install.sh
varnok_install $mariadb_packages poppler-utils:/usr/bin/pdftoppm
exec node scripts/demo.mjs "$@"
