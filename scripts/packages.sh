#!/usr/bin/env bash
# Installs the Debian packages that are missing. usage: scripts/packages.sh run|test
set -euo pipefail

run="g++ cmake ninja-build pkg-config qt6-base-dev libhwy-dev libtbb-dev libxxhash-dev libfmt-dev libpng-dev zlib1g-dev libtiff-dev
     nlohmann-json3-dev libcli11-dev qt6-charts-dev libqt6opengl6-dev libgl-dev libopengl-dev fonts-lato fonts-urw-base35 fonts-dejavu-core"
test="$run libbenchmark-dev xvfb xauth python3 python3-jsonschema g++-aarch64-linux-gnu qemu-user"
case "${1:-run}" in
  run) wanted=$run ;;
  test) wanted=$test ;;
  *) echo "usage: $0 run|test" >&2; exit 2 ;;
esac

missing=()
for package in $wanted; do
  dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'install ok installed' || missing+=("$package")
done
[ ${#missing[@]} -gt 0 ] || exit 0

if [ "$(id -u)" = 0 ]; then as_root=()
elif command -v sudo >/dev/null; then as_root=(sudo)
else
  echo "These packages are missing and installing them needs root or sudo: ${missing[*]}" >&2
  exit 1
fi
echo "Installing: ${missing[*]}"
"${as_root[@]}" apt-get update -qq
"${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
