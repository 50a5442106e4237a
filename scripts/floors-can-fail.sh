#!/usr/bin/env bash
# A checker that cannot fail is worth nothing: plants a climbing import in a copy and expects it to be caught.
set -euo pipefail
cd "$(dirname "$0")/.."
copy=$(mktemp -d); trap 'rm -rf "$copy"' EXIT
for p in packages/*/; do mkdir -p "$copy/$p"; cp -r "$p/src" "$copy/$p"; done
node scripts/floors.mjs "$copy" >/dev/null
for line in "core:import '@monsoon/service';" "core:import 'node:fs';" "systems:import '../../service/src/app.ts';" "standins:import '@monsoon/core';"; do
  file=$copy/packages/${line%%:*}/src/planted.ts
  echo "${line#*:}" >"$file"
  if node scripts/floors.mjs "$copy" >/dev/null 2>&1; then echo "not caught: $line" >&2; exit 1; fi
  rm "$file"
done
echo "floors: every planted climb was caught"
