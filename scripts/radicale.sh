#!/usr/bin/env bash
# A private radicale (CalDAV) on loopback.
#   radicale.sh start DIR PORT USER PASSWORD   prints its URL
#   radicale.sh stop DIR
set -euo pipefail
verb=$1; mkdir -p "$2"; dir=$(cd "$2" && pwd)
mine() { [ -f "$dir/pid" ] && tr '\0' ' ' <"/proc/$(cat "$dir/pid")/cmdline" 2>/dev/null | grep -qF -- "--config $dir/config"; }
stop() {
  mine || { rm -f "$dir/pid"; return 0; }
  p=$(cat "$dir/pid"); kill "$p" 2>/dev/null || true
  for _ in $(seq 1 50); do kill -0 "$p" 2>/dev/null || break; sleep 0.1; done
  kill -9 "$p" 2>/dev/null || true; rm -f "$dir/pid"
}
stop
[ "$verb" = start ] || exit 0
port=$3; user=$4; password=$5
if (exec 3<>"/dev/tcp/127.0.0.1/$port") 2>/dev/null; then echo "port $port is taken" >&2; exit 5; fi
mkdir -p "$dir/collections"
(umask 077; echo "$user:$(openssl passwd -apr1 "$password")" >"$dir/users")
(umask 077; cat >"$dir/config" <<C
[server]
hosts = 127.0.0.1:$port
ssl = False
max_connections = 8
timeout = 30
[auth]
type = htpasswd
htpasswd_filename = $dir/users
htpasswd_encryption = md5
delay = 0
[rights]
type = owner_only
[storage]
filesystem_folder = $dir/collections
[web]
type = none
[logging]
level = warning
C
)
# With pytz in sight its vobject answers 400 to every event that names an IANA zone: it is not to see it.
setsid /usr/bin/python3 -c 'import sys; sys.modules["pytz"] = None; from radicale.__main__ import run; sys.exit(run())' --config "$dir/config" >"$dir/log" 2>&1 </dev/null &
echo $! >"$dir/pid"
for _ in $(seq 1 150); do
  code=$(curl -s -o /dev/null -w '%{http_code}' --max-time 5 "http://127.0.0.1:$port/" || true)
  [ "$code" = 000 ] || { echo "http://127.0.0.1:$port/"; exit 0; }
  sleep 0.1
done
echo "radicale did not answer on port $port; its log: $dir/log" >&2; exit 1
