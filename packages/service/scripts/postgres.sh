#!/usr/bin/env bash
# A private PostgreSQL on loopback, as root (then it runs as the user postgres) or as anybody.
#   postgres.sh start DIR [PID]   makes the cluster if there is none, starts it, prints its URL
#   postgres.sh remove DIR        stops it, and removes all its data
#   postgres.sh stop DIR [PID]    stops it, unless another process that it was started for still lives
# MONSOON_PG_FAST=1: settings for throw-away data. Where data is kept, a damaged cluster is refused, never made anew.
set -euo pipefail
verb=$1
dir=$(realpath -m "$2")
for=${3:-}
bin=$(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -1)
[ -n "$bin" ] || { echo "PostgreSQL is not installed: apt-get install postgresql" >&2; exit 3; }
who=$(id -un); as=()
if [ "$(id -u)" = 0 ]; then
  who=postgres; as=(setpriv --reuid=$who --regid=$who --init-groups env HOME=/tmp)
  # The user postgres cannot pass a closed folder such as /root: the cluster then lives beside the system's own data.
  mkdir -p "$dir"
  if ! (cd / && "${as[@]}" test -x "$(dirname "$dir")"); then
    real=/var/lib/monsoon/$(printf %s "$dir" | sha256sum | cut -c1-16)
    mkdir -p "$real"; chmod 711 /var/lib/monsoon; dir=$real
  fi
fi
data=$dir/data
run() { (cd / && exec "${as[@]}" "$@"); }
alive() { tr '\0' ' ' <"/proc/$(head -1 "$data/postmaster.pid")/cmdline" | grep -qF -- "-D $data"; } 2>/dev/null
# When the process began (proc(5), field 22): a number may be given to another process later.
began() { sed 's/.*) //' "/proc/$1/stat" 2>/dev/null | cut -d' ' -f20; }
others() { for user in "$dir"/users/*; do [ -e "$user" ] && [ "$(cat "$user")" = "$(began "$(basename "$user")")" ] && return 0; done; return 1; }
mkdir -p "$dir"; exec 9>"$dir.lock"; flock 9
if [ "$verb" = remove ]; then
  if alive; then run "$bin/pg_ctl" -D "$data" -m immediate -w stop >/dev/null 9>&-; fi
  rm -rf "$dir" "$dir.lock"; exit 0
fi
if [ "$verb" = stop ]; then
  [ -z "$for" ] || rm -f "$dir/users/$for"
  if alive && ! { [ -n "$for" ] && others; }; then run "$bin/pg_ctl" -D "$data" -m fast -w stop >/dev/null 9>&-; fi
  exit 0
fi
chown "$who" "$dir"; chmod 700 "$dir"
if [ ! -f "$dir/ready" ]; then
  if [ -n "$(ls -A "$data/base" 2>/dev/null)" ] && [ -f "$dir/used" ]; then echo "$dir holds data but is not whole; restore it or move it away" >&2; exit 4; fi
  rm -rf "$data"; od -An -N24 -tx1 /dev/urandom | tr -d ' \n' | run sh -c "umask 77; cat >'$dir/password'"
  run "$bin/initdb" -D "$data" -U app --pwfile="$dir/password" -A scram-sha-256 -E UTF8 --locale=C.UTF-8 -N >/dev/null
  { printf "listen_addresses='127.0.0.1'\nunix_socket_directories=''\nshared_buffers=256MB\njit=off\ntimezone='UTC'\n"
    [ -z "${MONSOON_PG_FAST:-}" ] || printf '%s\n' fsync=off synchronous_commit=off full_page_writes=off wal_level=minimal max_wal_senders=0 max_wal_size=4GB max_connections=300
  } | run tee -a "$data/postgresql.conf" >/dev/null
fi
if ! alive; then
  for try in 1 2 3 4 5 x; do
    [ $try != x ] || { tail -5 "$dir/log" >&2; exit 1; }
    port=$(cat "$dir/port" 2>/dev/null || node -e 's=require("net").createServer().listen(0,"127.0.0.1",()=>{console.log(s.address().port);s.close()})')
    run "$bin/pg_ctl" -D "$data" -l "$dir/log" -o "-p $port" -w start >/dev/null 2>&1 9>&- && break
    if tail -5 "$dir/log" | grep -q 'already in use'; then rm -f "$dir/port"; else sleep .5; fi
  done
  echo "$port" >"$dir/port"
fi
[ -z "$for" ] || { mkdir -p "$dir/users"; began "$for" >"$dir/users/$for"; }
url=postgres://app:$(cat "$dir/password")@127.0.0.1:$(cat "$dir/port")
[ -f "$dir/ready" ] || { "$bin/psql" -qX "$url/postgres" -c 'create database app'; touch "$dir/ready" "$dir/used"; }
echo "$url/app"
