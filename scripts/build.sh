#!/usr/bin/env bash
# Configures and builds a preset, telling what it does. usage: scripts/build.sh PRESET ROOM MINUTES [TARGETS...]
# ROOM: MiB that the whole build takes. MINUTES: of one processor, for the whole build.
set -euo pipefail
cd "$(dirname "$0")/.."
preset=$1 room=$2 minutes=$3
shift 3
folder=build/$preset
fail() { echo "$1" >&2; exit 1; }

mkdir -p "$folder" 2>/dev/null || fail "$PWD/$folder cannot be made: is the disk full, or the folder not yours to write to?"
if [ -e "$folder/CMakeCache.txt" ]; then
  home=$(sed -n 's/^CMAKE_HOME_DIRECTORY:INTERNAL=//p' "$folder/CMakeCache.txt")
  [ "$home" = "$PWD" ] || fail "$PWD/$folder belongs to another checkout ($home): remove it, or build there."
fi
free() { df -Pk "$folder" | awk 'NR == 2 { print int($4 / 1024) }'; }
full() { fail "There is no room left to build: $PWD/$folder takes up to $room MiB in all, and $(free) MiB are free on its disk."; }
taken=$(du -sm "$folder" | cut -f1)
[ $((taken + $(free))) -ge "$room" ] || full

# Configured anew when the presets changed; for all else the build sees to it itself.
said=$(mktemp)
trap 'rm -f "$said"' EXIT
if [ ! -e "$folder/build.ninja" ] || [ CMakePresets.json -nt "$folder/build.ninja" ]; then
  echo "Looking at this machine's compiler and libraries ..."
  cmake --preset "$preset" >"$said" 2>&1 || { cat "$said" >&2; [ "$(free)" -ge 8 ] || full; fail "The build cannot be set up (what cmake said is above)."; }
fi
if [ ! -e "$folder/.ninja_log" ]; then
  cores=$(nproc)
  echo "Building everything: about $(((minutes + cores - 1) / cores)) minutes with $cores processors. Later only what changed is built."
else
  ninja -C "$folder" -n "$@" 2>/dev/null | grep -q 'no work to do' && exit 0
  echo "Building what changed ..."
fi
# One at a time in a folder: start.sh goes on with it behind the window.
NINJA_STATUS='  [%f of %t, %e s] ' flock "$folder/.building" ninja -C "$folder" "$@" ||
  { [ "$(free)" -ge 8 ] || full; fail "The build failed (the first error is above)."; }
