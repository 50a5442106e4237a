# To be sourced: starts PostgreSQL, radicale, cyrus and dovecot for tests and benchmarks, and stops them when the shell ends.
# Sets MONSOON_TEST_PG, MONSOON_TEST_RADICALE, MONSOON_TEST_CYRUS, MONSOON_TEST_DOVECOT (URLs), MONSOON_TEST_DOVECOT_CERT,
# MONSOON_TEST_TOKENS (the port where dovecot asks whose an access token is); user alderwren, password well-tempered.
# In memory where there is room: what is tested is not the disk, and a slow one makes time-outs of its own.
free_memory=$(df --output=avail -k /dev/shm 2>/dev/null | tail -1)
[ "${free_memory:-0}" -gt 4000000 ] && place=/dev/shm || place=/tmp
work=$(mktemp -d "${TMPDIR:-$place}/monsoon.XXXXXX"); chmod 711 "$work"
free_port() { node -e 's=require("net").createServer().listen(0,"127.0.0.1",()=>{console.log(s.address().port);s.close()})'; }
stop_servers() {
  bash scripts/radicale.sh stop "$work/radicale" || true
  bash scripts/cyrus.sh stop "$work/cyrus" || true
  [ -z "${MONSOON_TEST_DOVECOT:-}" ] || bash scripts/dovecot.sh stop "$work/dovecot" || true
  bash packages/service/scripts/postgres.sh stop "$work/pg" || true
  if [ "$(id -u)" = 0 ]; then rm -rf "$work"; else sudo rm -rf "$work"; fi
}
trap stop_servers EXIT
trap 'exit 130' INT TERM
echo "- starting PostgreSQL, radicale and cyrus" >&2
MONSOON_TEST_PG=$(MONSOON_PG_FAST=1 bash packages/service/scripts/postgres.sh start "$work/pg")
MONSOON_TEST_RADICALE=$(bash scripts/radicale.sh start "$work/radicale" "$(free_port)" alderwren well-tempered)
MONSOON_TEST_CYRUS=$(${MONSOON_CYRUS_CORE:+taskset -c $MONSOON_CYRUS_CORE} bash scripts/cyrus.sh start "$work/cyrus" "$(free_port)" alderwren well-tempered)
MONSOON_TEST_PG_FOLDER=$work/pg
# The benchmarks read no mail.
if [ -x /usr/lib/dovecot/imap ]; then
  MONSOON_TEST_TOKENS=$(free_port)
  MONSOON_TEST_DOVECOT=$(bash scripts/dovecot.sh start "$work/dovecot" "$(free_port)" visits@alder-wren.example well-tempered "$MONSOON_TEST_TOKENS")
  export MONSOON_TEST_DOVECOT MONSOON_TEST_TOKENS MONSOON_TEST_DOVECOT_CERT=$work/dovecot/cert.pem
fi
# What cyrus would have mailed to guests.
MONSOON_TEST_OUTBOX=$work/cyrus/outbox.txt
export MONSOON_TEST_PG MONSOON_TEST_RADICALE MONSOON_TEST_CYRUS MONSOON_TEST_PG_FOLDER MONSOON_TEST_OUTBOX
