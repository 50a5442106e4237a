#!/usr/bin/env bash
# Benchmarks, each beside the bare work in the same run: bench.sh [latency|throughput|crash|planning|incremental|sweep|systems|workers ...]
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/setup.sh test
. scripts/servers.sh
for name in ${@:-latency throughput crash planning incremental sweep systems workers}; do
  node --import tsx --conditions=source --no-warnings "bench/$name.ts"
done
