#!/usr/bin/env bash
# Puts a backup back into an empty database: restore.sh FILE. Stop the service before.
# DATABASE_URL, or a private PostgreSQL in MONSOON_DATA (.data), which is made.
set -euo pipefail
cd "$(dirname "$0")/.."
file=$(realpath -m "${1:?say the file: scripts/restore.sh monsoon.tar}")
[ -f "$file" ] || { echo "$file: there is no such file: nothing was restored; give the path of a backup" >&2; exit 4; }
folder=$(realpath -m "${MONSOON_DATA:-.data}")
mkdir -p "$folder"
work=$(mktemp -d); trap 'rm -rf "$work"' EXIT
umask 77
tar -C "$work" -xf "$file"
url=${DATABASE_URL:-$(bash packages/service/scripts/postgres.sh start "$folder/postgres")}
bin=$(ls -d /usr/lib/postgresql/*/bin | sort -V | tail -1)
if [ -n "$("$bin/psql" -XAtc "select 1 from pg_tables where schemaname = 'public' limit 1" "$url")" ]; then
  echo "the database is not empty: nothing was restored; give another, or empty this one yourself" >&2; exit 4
fi
if [ -f "$work/key" ] && [ -f "$folder/key" ] && ! cmp -s "$work/key" "$folder/key"; then
  echo "$folder/key is another key than the backup's: nothing was restored; move it away first" >&2; exit 4
fi
"$bin/pg_restore" --no-owner --exit-on-error --dbname "$url" "$work/database"
[ ! -f "$work/key" ] || { cp "$work/key" "$folder/key"; chmod 600 "$folder/key"; }
# What changed since is found by looking: both sides are read whole at the next run, nothing is made twice, and conflicts are
# asked about. The backup may be of an earlier version, whose tables do not have the column yet.
"$bin/psql" -qXc "alter table lanes add column if not exists restored_at timestamptz; update lanes set swept_version = null, restored_at = now(); delete from cursors" "$url"
# Calendar programs may know of changes that the backup does not: a new epoch makes them read hosted calendars whole.
"$bin/psql" -qXc "do \$\$ begin if to_regclass('hosted_calendars') is not null then update hosted_calendars set epoch = gen_random_uuid(); end if; end \$\$" "$url"
echo "restored; start the service"
