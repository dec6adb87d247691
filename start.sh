#!/usr/bin/env bash
# Installs what is missing, builds, and opens the application with the demo world; the command `acre` is built
# after it. Without a display it draws the demo into out/ instead. Arguments go to the application (a recipe file or a demo's name).
set -euo pipefail
cd "$(dirname "$0")"
scripts/packages.sh run
if [ -n "${DISPLAY:-}${WAYLAND_DISPLAY:-}" ]; then
  scripts/build.sh release 400 8 kindred-acre
  # The command is built while the window is open, out of its way.
  nice -n 19 scripts/build.sh release 400 2 >build/release/command.log 2>&1 &
  exec build/release/bin/kindred-acre "$@"
fi
scripts/build.sh release 400 6 acre

echo
echo "There is no display: drawing the demo world into out/ instead."
mkdir -p out
acre=build/release/bin/acre
"$acre" info saltfen-reach
"$acre" map saltfen-reach --size 1280x800 --out out/saltfen-reach.png
"$acre" map saltfen-reach --size 1280x800 --step 8 --out out/saltfen-reach-wide.png
"$acre" map saltfen-reach --size 1280x800 --centre 2000000000,-2000000000 --out out/saltfen-reach-far.png
"$acre" map saltfen-reach --size 1280x800 --step 4 --show height --out out/saltfen-reach-height.png
"$acre" map saltfen-reach --size 1024x1024 --format png16 --out out/saltfen-reach-height-16bit.png
"$acre" map saltfen-reach --size 64x64 --show material --out out/saltfen-reach-material.csv
"$acre" map saltfen-reach --size 1280x800 --show slope --out out/saltfen-reach-slope.png
"$acre" map saltfen-reach --size 1024x1024 --out out/saltfen-reach-height.tif
"$acre" map saltfen-reach --size 1024x1024 --contours 5 --out out/saltfen-reach-contours.svg
"$acre" plumb saltfen-reach --at 120,40
"$acre" census saltfen-reach
"$acre" check saltfen-reach
"$acre" chunk saltfen-reach --at 0,0 --out out/saltfen-reach-chunk-0-0.json
"$acre" section swallet-edge --from -400,40 --to 400,40 --out out/swallet-edge-section.png
"$acre" view swallet-edge --from 0,0 --look 20,-8 --out out/swallet-edge-view.png
"$acre" chunk swallet-edge --at 0,1,0 --out out/swallet-edge-chunk-0-1-0.glb
"$acre" section lantern-shelf --from -400,0 --to 400,0 --out out/lantern-shelf-section.png
echo
echo "Written:"
ls -l out | awk 'NR > 1 { printf "  out/%-36s %9d bytes\n", $9, $5 }'
