#!/usr/bin/env bash
# A private Cyrus (CalDAV) on loopback, for tests and benchmarks. It needs root, or sudo.
#   cyrus.sh start DIR PORT USER PASSWORD   prints its URL; DIR is short, and open to the user cyrus
#   cyrus.sh stop DIR
set -euo pipefail
here=$(cd "$(dirname "$0")" && pwd)
[ "$(id -u)" = 0 ] || exec sudo bash "$0" "$@"
verb=$1; mkdir -p "$2"; dir=$(cd "$2" && pwd); cd /
if [ -f "$dir/pid" ]; then
  p=$(cat "$dir/pid")
  if tr '\0' ' ' <"/proc/$p/cmdline" 2>/dev/null | grep -qF "$dir/etc"; then
    kill "$p" 2>/dev/null || true
    for _ in $(seq 1 50); do kill -0 "$p" 2>/dev/null || break; sleep 0.1; done
    kill -9 "$p" 2>/dev/null || true
    pkill -9 -f -- "-C $dir/etc/imapd.conf" 2>/dev/null || true
  fi
  rm -f "$dir/pid"
fi
[ "$verb" = start ] || exit 0
port=$3; user=$4; password=$5
[ ${#dir} -le 80 ] || { echo "the path $dir is too long for unix sockets" >&2; exit 1; }
for d in etc lib/db lib/socket lib/proc lib/log lib/msg lib/ptclient spool run/proc run/lock sieve; do mkdir -p "$dir/$d"; done
# Where scheduling is on, storing an event can send mail to its guests: a stub writes it to DIR/outbox.txt instead.
install -m 755 "$here/sendmail-stub.py" "$dir/etc/sendmail"
imapd=/usr/lib/cyrus/bin/imapd
if [ ! -x $imapd ]; then imapd=$dir/etc/imapd; install -m 755 "$here/../.data/cyrus/usr/lib/cyrus/bin/imapd" "$imapd"; fi
cat >"$dir/etc/imapd.conf" <<C
configdirectory: $dir/lib
proc_path: $dir/run/proc
mboxname_lockpath: $dir/run/lock
defaultpartition: default
partition-default: $dir/spool
sievedir: $dir/sieve
servername: 127.0.0.1
admins: cyrus
altnamespace: no
unixhierarchysep: yes
virtdomains: off
autocreate_quota: 0
umask: 077
httpmodules: caldav carddav
allowplaintext: yes
sasl_pwcheck_method: auxprop
sasl_auxprop_plugin: sasldb
sasl_mech_list: PLAIN LOGIN
sasl_sasldb_path: $dir/etc/sasldb2
sasl_auto_transition: no
lmtpsocket: $dir/run/lmtp
idlesocket: $dir/run/idle
notifysocket: $dir/run/notify
hashimapspool: true
syslog_prefix: davcyrus
smtp_backend: sendmail
sendmail: $dir/etc/sendmail
C
cat >"$dir/etc/cyrus.conf" <<C
START {
  recover cmd="/usr/lib/cyrus/bin/ctl_cyrusdb -C $dir/etc/imapd.conf -r"
}
SERVICES {
  imap cmd="$imapd -C $dir/etc/imapd.conf -U 30" listen="$dir/run/imap" prefork=0 maxchild=10
  http cmd="/usr/lib/cyrus/bin/httpd -C $dir/etc/imapd.conf -U 250" listen="127.0.0.1:$port" proto="tcp4" prefork=2 maxchild=100
}
EVENTS {
  checkpoint cmd="/usr/lib/cyrus/bin/ctl_cyrusdb -C $dir/etc/imapd.conf -c" period=30
}
C
printf '%s' "$password" | saslpasswd2 -p -c -f "$dir/etc/sasldb2" -u 127.0.0.1 "$user"
chown -R cyrus:mail "$dir"
setsid /usr/lib/cyrus/bin/master -C "$dir/etc/imapd.conf" -M "$dir/etc/cyrus.conf" -p "$dir/run/master.pid" >"$dir/log" 2>&1 </dev/null &
echo $! >"$dir/pid"
for _ in $(seq 1 150); do
  code=$(curl -s -o /dev/null -w '%{http_code}' --max-time 5 "http://127.0.0.1:$port/dav/" || true)
  [ "$code" = 000 ] || break
  sleep 0.2
done
# Calendar homes are made only once the account's INBOX is there: one IMAP login over the unix socket makes it.
/usr/bin/python3 - "$dir/run/imap" "$user" "$password" <<'P'
import imaplib, socket, sys, time
class Local(imaplib.IMAP4):
    def _create_socket(self, timeout=None):
        s = socket.socket(socket.AF_UNIX); s.connect(sys.argv[1]); return s
for _ in range(200):
    try:
        m = Local(); break
    except OSError: time.sleep(0.3)
m.login(sys.argv[2], sys.argv[3]); assert m.list()[0] == 'OK'; m.logout()
P
curl -s -o /dev/null -u "$user:$password" -X PROPFIND -H 'Depth: 0' "http://127.0.0.1:$port/dav/calendars/user/$user/"
echo "http://127.0.0.1:$port/dav/"
