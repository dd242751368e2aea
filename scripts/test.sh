#!/bin/sh
# Every check, in the order in which a fault is cheapest to find. Ends with one line: `N passed, N failed`.
set -eu
cd "$(dirname "$0")/.."
. scripts/install.sh
varnok_install $mariadb_packages chromium:/usr/bin/chromium poppler-utils:/usr/bin/pdftoppm cups-ipp-utils:/usr/bin/ipptool dbus-daemon:/usr/bin/dbus-daemon
exec node scripts/test.mjs "$@"
