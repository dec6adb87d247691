#!/usr/bin/env bash
# Installs what is missing, builds with warnings as errors, and runs every test.
#   ./test.sh              the usual
#   ./test.sh sanitizers   the tests under the address, undefined-behaviour and thread sanitizers
set -euo pipefail
cd "$(dirname "$0")"
scripts/packages.sh test
for preset in $([ "${1:-}" = sanitizers ] && echo asan tsan || echo dev); do
  cmake --preset "$preset" >/dev/null
  cmake --build --preset "$preset"
  ctest --preset "$preset"
done
