#!/usr/bin/env bash
# Writes the database and the key into one file: backup.sh FILE. The service may go on meanwhile.
# DATABASE_URL, or the private PostgreSQL in MONSOON_DATA (.data), which is started if it is not.
set -euo pipefail
cd "$(dirname "$0")/.."
file=$(realpath -m "${1:?say the file: scripts/backup.sh monsoon.tar}")
folder=$(realpath -m "${MONSOON_DATA:-.data}")
url=${DATABASE_URL:-$(bash packages/service/scripts/postgres.sh start "$folder/postgres")}
bin=$(ls -d /usr/lib/postgresql/*/bin | sort -V | tail -1)
work=$(mktemp -d); trap 'rm -rf "$work"' EXIT
umask 77
# A file that was there before would keep its mode.
touch "$file"; chmod 600 "$file"
# What a sweep or a call leaves in unlogged tables is not worth keeping.
"$bin/pg_dump" --format=custom --no-owner --exclude-table-data='swept_*' --exclude-table-data=recorded_calls --file "$work/database" "$url"
if [ -z "${MONSOON_KEY:-}" ] && [ -f "$folder/key" ]; then cp "$folder/key" "$work/key"; fi
tar -C "$work" -cf "$file" .
echo "$file: $(du -h "$file" | cut -f1); it holds $([ -f "$work/key" ] && echo 'the key too: keep it as you keep passwords' || echo 'no key: MONSOON_KEY is kept elsewhere')"
