#!/usr/bin/env bash
# Installs what is missing, builds with warnings as errors, and tests.
#   ./test.sh              the usual: everything but what takes minutes on its own
#   ./test.sh quick        the set to run before each commit
#   ./test.sh all          the usual and the long ones: samples at full size, every header on its own, the
#                          benchmarks built, the sanitizers
#   ./test.sh sanitizers   the usual ones under the address, undefined-behaviour and thread sanitizers
# tests/README.md says which case runs where.
set -euo pipefail
cd "$(dirname "$0")"
what=${1:-usual}
case "$what" in
  quick|usual|all|sanitizers) ;;
  *) echo "usage: ./test.sh [quick|usual|all|sanitizers]" >&2; exit 2 ;;
esac
scripts/packages.sh test
jobs=$(nproc)
# What steps aside in the window, to nice 10, is not to wait for other tests: all of them go as low.
low="nice -n 10"
if [ "$what" != sanitizers ]; then
  scripts/build.sh check 1500 19
  case "$what" in
    quick) $low ctest --preset check -j "$jobs" -L quick ;;
    usual) $low ctest --preset check -j "$jobs" ;;
    all)
      scripts/build.sh check 1500 8 headers benches
      $low ctest --preset check -j "$jobs"
      $low ctest --preset long -j "$jobs"
      ;;
  esac
fi
if [ "$what" = all ] || [ "$what" = sanitizers ]; then
  for preset in asan tsan; do
    scripts/build.sh "$preset" 4000 40
    $low ctest --preset "$preset" -j "$jobs"
  done
fi
