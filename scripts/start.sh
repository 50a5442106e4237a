#!/usr/bin/env bash
# Sets up what is missing and starts the service alone; docs/operating.md lists the environment it reads.
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/setup.sh demo
exec node packages/service/dist/main.js
