#!/usr/bin/env bash
# Installs what is missing and builds, each only when needed: setup.sh [start|demo|test]
#   start PostgreSQL unless DATABASE_URL names one, current time zones, npm packages, the build
#   demo  all of that, and the CalDAV server radicale
#   test  all of that, Chromium, nginx, the CalDAV server cyrus, and a CalDAV client
set -euo pipefail
cd "$(dirname "$0")/.."
what=${1:-demo}
say() { printf '%s\n' "- $*" >&2; }
fail() { printf '%s\n' "setup: $*" >&2; exit 1; }

node -e 'process.exit(Number(process.versions.node.split(".")[0]) >= 20 ? 0 : 1)' || fail "Node.js 20 or later is needed; this is $(node --version)"
command -v apt-get >/dev/null || fail "this needs Debian's apt-get; install postgresql, radicale, python3-passlib, openssl, tzdata (and for tests chromium, cyrus-caldav, dovecot-imapd) by your system's own means"
as_root=(); [ "$(id -u)" = 0 ] || as_root=(sudo)

# Rules for time zones change at short notice: older tables than this are wrong for places in the demo.
oldest_zones=2026a
zones=$(head -c 40 /usr/share/zoneinfo/tzdata.zi 2>/dev/null | sed -n 's/^# version //p')

missing=()
[ "$what" = start ] && [ -n "${DATABASE_URL:-}" ] || ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || missing+=(postgresql)
if [ "$what" != start ]; then
  [ -x /usr/bin/radicale ] || missing+=(radicale)
  /usr/bin/python3 -c 'import passlib' 2>/dev/null || missing+=(python3-passlib)
fi
command -v openssl >/dev/null || missing+=(openssl)
command -v curl >/dev/null || missing+=(curl)
command -v setpriv >/dev/null || missing+=(util-linux)
[[ "$zones" < "$oldest_zones" ]] && missing+=(tzdata)
if [ "$what" = test ]; then
  command -v chromium >/dev/null || missing+=(chromium)
  [ -x /usr/sbin/nginx ] || missing+=(nginx-light)
  /usr/bin/python3 -c 'import caldav' 2>/dev/null || missing+=(python3-caldav)
  fc-list 2>/dev/null | grep -qi emoji || missing+=(fonts-noto-color-emoji)
  [ -x /usr/lib/cyrus/bin/httpd ] || missing+=(cyrus-caldav)
  [ -x /usr/lib/dovecot/imap ] || missing+=(dovecot-imapd)
  command -v saslpasswd2 >/dev/null || missing+=(sasl2-bin)
  ls /usr/lib/*/sasl2/libsasldb.so* >/dev/null 2>&1 || missing+=(libsasl2-modules libsasl2-modules-db)
fi
if [ ${#missing[@]} -gt 0 ]; then
  say "installing Debian packages: ${missing[*]} (a minute or two)"
  log=$(mktemp)
  # No package may start a service of its own: what is needed is started privately.
  policy=/usr/sbin/policy-rc.d; made_policy=
  if [ ! -e $policy ]; then printf '#!/bin/sh\nexit 101\n' | "${as_root[@]}" tee $policy >/dev/null; "${as_root[@]}" chmod +x $policy; made_policy=1; fi
  # Another program may be installing packages, as a fresh machine does by itself: it is waited for.
  for try in $(seq 60); do
    "${as_root[@]}" apt-get update -qq >"$log" 2>&1 && break
    grep -q 'Could not get lock' "$log" || break
    [ "$try" != 1 ] || say "waiting for another program that installs packages (up to five minutes)"
    sleep 5
  done
  if ! "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get -o DPkg::Lock::Timeout=300 install -y -qq --no-install-recommends "${missing[@]}" >>"$log" 2>&1; then
    [ -z "$made_policy" ] || "${as_root[@]}" rm -f $policy
    tail -5 "$log" >&2
    fail "apt-get could not install: ${missing[*]}. Is a package mirror reachable? Install them by hand and start again."
  fi
  [ -z "$made_policy" ] || "${as_root[@]}" rm -f $policy
  rm -f "$log"
fi

# Cyrus needs its imapd, whose package cannot be installed beside Dovecot: the one program is unpacked.
if [ "$what" = test ] && [ ! -x /usr/lib/cyrus/bin/imapd ] && [ ! -x .data/cyrus/usr/lib/cyrus/bin/imapd ]; then
  mkdir -p .data/cyrus/download
  "${as_root[@]}" apt-get update -qq >/dev/null 2>&1 || true
  (cd .data/cyrus/download && apt-get download -qq cyrus-imapd >log 2>&1 && dpkg -x cyrus-imapd_*.deb ..) || fail "cyrus-imapd could not be fetched: $(tail -1 .data/cyrus/download/log)"
fi

stamp() { sha256sum "$@" 2>/dev/null | sha256sum | cut -d' ' -f1; }
lock=$(stamp package-lock.json)
if [ "$(cat node_modules/.monsoon-lock 2>/dev/null)" != "$lock" ]; then
  say "installing npm packages (up to a minute)"
  npm ci --no-audit --no-fund --loglevel=error >/dev/null || fail "npm ci failed; is the npm registry reachable?"
  echo "$lock" >node_modules/.monsoon-lock
fi

sources=$(find packages/*/src packages/*/*.json packages/*/index.html packages/*/vite.config.ts tsconfig*.json package-lock.json -type f -not -path packages/contract/src/openapi.ts 2>/dev/null | sort | xargs sha256sum | sha256sum | cut -d' ' -f1)
if [ "$(cat node_modules/.monsoon-build 2>/dev/null)" != "$sources" ] || [ ! -e packages/console/dist/index.html ]; then
  say "building (half a minute)"
  out=$(npm run --silent build 2>&1) || { printf '%s\n' "$out" | tail -30 >&2; fail "the build failed"; }
  echo "$sources" >node_modules/.monsoon-build
fi
