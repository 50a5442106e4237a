#!/usr/bin/env bash
# Benchmarks, each beside the bare work in the same run: bench.sh [latency|throughput|crash|planning|incremental|sweep|size|systems|console|workers|faults|memory|recurrence|calendars ...]
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/setup.sh test
for name in ${@:-latency throughput crash planning incremental sweep size systems console workers faults memory recurrence calendars}; do
  (
    case $name in throughput | systems)
      # A calendar server is another machine: here it gets a core of its own, for the bare work and for Monsoon's alike.
      if [ "$(nproc)" -ge 2 ]; then
        export MONSOON_CYRUS_CORE=0
        taskset -cp "1-$(($(nproc) - 1))" $BASHPID >/dev/null
      fi ;;
    # Its processes die and begin again, as they would where Monsoon is installed.
    workers | faults | memory) export MONSOON_TEST_BUILT=1 ;;
    esac
    # Commits are measured where they reach a disk.
    [ "$name" != calendars ] || export TMPDIR=/tmp
    . scripts/servers.sh
    # What is measured is what is installed; only benches that drive inner parts run from the sources.
    case $name in planning | incremental | size) from=source ;; *) from=default ;; esac
    node --import tsx --conditions=$from --no-warnings "bench/$name.ts"
  )
done
