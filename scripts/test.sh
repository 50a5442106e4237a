#!/usr/bin/env bash
# Sets up what the tests need, starts the servers they talk to, runs them: test.sh [mocha arguments]
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/setup.sh test
. scripts/servers.sh
export MONSOON_TEST_BUILT=1
node node_modules/mocha/bin/mocha.js "$@"
