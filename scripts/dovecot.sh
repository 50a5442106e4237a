#!/usr/bin/env bash
# A private Dovecot (IMAP over TLS) on loopback, for tests. It needs root, or sudo.
#   dovecot.sh start DIR PORT USER PASSWORD TOKENS   prints its address; its certificate is DIR/cert.pem
#     TOKENS: the port of loopback where it asks whose an OAuth 2.0 access token is (RFC 7662)
#   dovecot.sh stop DIR
set -euo pipefail
here=$(cd "$(dirname "$0")" && pwd)
[ "$(id -u)" = 0 ] || exec sudo bash "$0" "$@"
verb=$1; mkdir -p "$2"; dir=$(cd "$2" && pwd)
[ ! -f "$dir/conf" ] || dovecot -c "$dir/conf" stop 2>/dev/null || true
[ "$verb" = start ] || exit 0
port=$3; user=$4; password=$5; tokens=$6
mkdir -p "$dir/run" "$dir/mail"
openssl req -x509 -newkey ec -pkeyopt ec_paramgen_curve:prime256v1 -nodes -days 30 -subj /CN=127.0.0.1 -addext subjectAltName=IP:127.0.0.1 \
  -keyout "$dir/key.pem" -out "$dir/cert.pem" 2>/dev/null
printf '%s:{PLAIN}%s:::::\n' "$user" "$password" >"$dir/users"
cat >"$dir/tokens.conf" <<C
introspection_mode = post
introspection_url = http://127.0.0.1:$tokens/introspect
username_attribute = username
active_attribute = active
active_value = true
C
cat >"$dir/conf" <<C
base_dir = $dir/run
state_dir = $dir/run
log_path = $dir/log
protocols = imap
listen = 127.0.0.1
ssl = required
ssl_cert = <$dir/cert.pem
ssl_key = <$dir/key.pem
mail_location = maildir:$dir/mail/%u
mail_uid = mail
mail_gid = mail
first_valid_uid = 1
default_internal_user = dovecot
default_login_user = dovenull
auth_mechanisms = plain oauthbearer xoauth2
auth_username_format = %Lu
passdb {
  driver = oauth2
  mechanisms = oauthbearer xoauth2
  args = $dir/tokens.conf
}
passdb {
  driver = passwd-file
  args = username_format=%u $dir/users
}
userdb {
  driver = static
  args = uid=mail gid=mail home=$dir/mail/%u
}
service imap-login {
  inet_listener imap {
    port = 0
  }
  inet_listener imaps {
    port = $port
    ssl = yes
  }
}
C
chown -R mail:mail "$dir/mail"
chmod 755 "$dir" "$dir/run"
dovecot -c "$dir/conf" >&2
echo "imaps://127.0.0.1:$port"
