#!/usr/bin/env bash
# Starts one process of the service, for production: it installs and builds nothing. docs/operating.md lists the environment it reads.
set -euo pipefail
cd "$(dirname "$0")/.."
if [ ! -e packages/service/dist/main.js ] || [ ! -e packages/console/dist/index.html ]; then
  echo "start: nothing is built here yet. Once, and after each upgrade: npm run setup" >&2; exit 1
fi
exec node packages/service/dist/main.js
