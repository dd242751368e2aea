# Installs what is missing: Debian packages (named as arguments) and the npm packages of the lock file. Sourced, or run.
# On other systems it says exactly what to install.
set -eu
varnok_install() {
  node_major=$(node -p 'process.versions.node.split(".")[0]' 2>/dev/null || echo 0)
  case "$node_major" in
    20 | 22 | 24) ;;
    *)
      echo "Varnok is tested with Node 20, 22 and 24; found ${node_major}. Install one of these and start again." >&2
      exit 1
      ;;
  esac
  missing=""
  for pair in "$@"; do
    package=${pair%%:*}
    program=${pair##*:}
    [ -x "$program" ] || missing="$missing $package"
  done
  if [ -n "$missing" ]; then
    if ! command -v apt-get >/dev/null 2>&1; then
      echo "Varnok needs these packages, under the names that Debian 12 gives them:$missing" >&2
      echo "Install them with your system's package manager and start again." >&2
      exit 1
    fi
    as_root=""
    [ "$(id -u)" -eq 0 ] || as_root="sudo"
    echo "installing$missing"
    $as_root apt-get update -qq
    DEBIAN_FRONTEND=noninteractive $as_root apt-get install -y -qq --no-install-recommends $missing >/dev/null
  fi
  # installed once for a state of the lock file
  stamp=node_modules/.varnok-lock
  if [ ! -f "$stamp" ] || ! cmp -s package-lock.json "$stamp"; then
    echo "installing npm packages"
    npm install --no-save --no-audit --no-fund --loglevel=error
    cp package-lock.json "$stamp"
  fi
}
mariadb_packages="mariadb-server-core:/usr/sbin/mariadbd mariadb-client-core:/usr/bin/mariadb mariadb-client:/usr/bin/mariadb-dump"
