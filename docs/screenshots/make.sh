#!/usr/bin/env bash
# Makes the pictures of this folder from the demo worlds. Needs the test packages and xdotool, imagemagick.
set -euo pipefail
cd "$(dirname "$0")/../.."
cmake --preset release >/dev/null
cmake --build --preset release
app=$PWD/build/release/bin/kindred-acre
here=$PWD/docs/screenshots
home=$(mktemp -d)
display=:$((90 + RANDOM % 9))
Xvfb $display -screen 0 1280x800x24 >/dev/null 2>&1 &
server=$!
trap 'kill $server; rm -rf "$home"' EXIT
sleep 1

# shot NAME COMMANDS: opens the demo, runs the commands (xdotool), takes the picture.
world=saltfen-reach
shot() {
  local name=$1
  shift
  rm -rf "$home/.config" "$home/.local"
  DISPLAY=$display HOME=$home XDG_RUNTIME_DIR=$home QT_QPA_PLATFORM=xcb "$app" "$world" 2>/dev/null &
  local pid=$!
  sleep 4
  export DISPLAY=$display
  local window
  window=$(xdotool search --onlyvisible --name "Kindred Acre" | head -1)
  xdotool windowmove "$window" 0 0 windowsize "$window" 1280 800 windowfocus "$window"
  sleep 0.7
  for command in "$@"; do xdotool $command; sleep 0.3; done
  sleep 0.7
  import -window root "$here/$name.png"
  kill $pid
  wait $pid 2>/dev/null || true
}

shot heights "mousemove 300 420"
shot plumb "mousemove 330 470" "click 1" "mousemove 520 560" "keydown shift" "click 1" "keyup shift"
shot climate "mousemove 300 420" "key 3"
shot biomes "mousemove 300 420" "key 4" "mousemove 1120 330"
shot strata "key 5" "sleep 6" "mousemove 440 390"
shot frame-night "key ctrl+n" "sleep 4" "key ctrl+shift+n" "mousemove 440 390" "click 5" "sleep 2"
# From above: chunks wanted, in work, ready and leaving.
shot traverse "mousemove 700 390" "click 5" "click 5" "mousemove 14 333" "click 1" "mousemove 150 122" "click 1" "key Down" "key Down" "key Return" \
  "mousemove 346 153" "click 1" "key Down" "key Return" "mousemove 65 422" "click 1" "sleep 5"
shot proof "mousemove 14 333" "click 1" "mousemove 100 531" "click 1" "sleep 100" "mousemove 240 600" "click 5" "click 5" "click 5"
shot water "mousemove 460 320" "key 8" "click 5" "click 5" "sleep 3" "mousemove 167 10" "click 1" "sleep 1" "mousemove 280 485" "mousemove 282 491" "click 1" "sleep 1" "mousemove 560 530" "mousemove 562 537" "sleep 1" "click 1" "sleep 6" "mousemove 470 190" "sleep 2"
shot tiles "mousemove 395 400" "click --repeat 7 --delay 300 4" "sleep 2" "mousemove 1206 748" "click 1" "sleep 3" "mousemove 888 500" "click --repeat 150 --delay 15 5" "sleep 2" "mousemove 1198 368" "click 1" "sleep 3" "mousemove 888 500" "click --repeat 5 --delay 30 5" "sleep 1"
world=patchwork-parish
shot regions "mousemove 300 420" "key 4" "mousemove 14 105" "click 1" "mousemove 120 220" "click 1"
world=swallet-edge
# What objects are made of, drawn layer by layer, at the foot of the column.
shot objects "mousemove 300 300" "key 9" "sleep 6" "mousemove 888 560" "click --repeat 150 --delay 15 5" "sleep 5" "mousemove 1198 344" "click 1" "sleep 3" "mousemove 888 300" "click --repeat 60 --delay 15 5" "sleep 15"
shot blocks "mousemove 300 420" "key 6" "sleep 16"
shot landmarks "mousemove 14 180" "click 1" "sleep 4" "mousemove 231 157" "click 1" "sleep 1" "mousemove 200 241" "click 1" "sleep 1" "mousemove 660 300" "click 5" "click 5" "click 5" "click 5" "sleep 3"
shot walk "mousemove 300 300" "sleep 16" "key ctrl+3" "sleep 12" "mousemove 268 83" "click 1" "mousemove 440 520"
shot trees "key 9" "sleep 4" "key ctrl+4" "sleep 4" "mousemove 450 300" "click 1" "click --repeat 4 --delay 700 5" "mousemove 577 87" "click 1" "sleep 2"
world=lantern-shelf
shot side "key 2" "sleep 3" "mousemove 400 300"
world=underkiln
shot replay "mousemove 300 420" "key 7" "sleep 1" "mousemove 1150 285" "click 1" "sleep 1" "key Home" "key Right" "key Right" "key Right" "mousemove 700 300"
world=first-steps
shot hand "mousemove 14 408" "click 1" "mousemove 104 157" "click 1" "mousemove 560 200" "mousedown 1" "mousemove 640 260" "mousemove 720 240" "mousemove 780 330" "mouseup 1" "sleep 1"
