#!/usr/bin/env bash
# Installs the Debian packages that are missing; asks nothing of apt when none is. usage: scripts/packages.sh run|test
set -euo pipefail

run="g++ cmake ninja-build pkg-config qt6-base-dev libhwy-dev libtbb-dev libxxhash-dev libfmt-dev libpng-dev zlib1g-dev libtiff-dev nettle-dev
     nlohmann-json3-dev libcli11-dev libqt6opengl6-dev qt6-svg-dev libgl-dev libopengl-dev fonts-lato fonts-urw-base35 fonts-dejavu-core"
test="$run libbenchmark-dev xvfb xauth python3 python3-jsonschema g++-aarch64-linux-gnu qemu-user poppler-utils"
case "${1:-run}" in
  run) wanted=$run ;;
  test) wanted=$test ;;
  *) echo "usage: $0 run|test" >&2; exit 2 ;;
esac

fail() { echo "$1" >&2; exit 1; }

command -v dpkg-query >/dev/null || fail "This is no Debian system: install these packages, or what they are called here, and build with cmake --preset release: $(echo $wanted)"

# One question for all of them: "installed" is there, anything else but unknown is half there.
# shellcheck disable=SC2086
status=$(dpkg-query -W -f='${Package} ${db:Status-Status}\n' $wanted 2>/dev/null || true)
missing=() half=()
for package in $wanted; do
  case "$(awk -v p="$package" '$1 == p { print $2; exit }' <<<"$status")" in
    installed) ;;
    ''|not-installed|config-files) missing+=("$package") ;;
    *) half+=("$package") ;;
  esac
done
[ ${#half[@]} -eq 0 ] || fail "Half installed: ${half[*]}. Run 'dpkg --configure -a' and 'apt-get --fix-broken install' as root, then this again."
[ ${#missing[@]} -gt 0 ] || exit 0

if [ "$(id -u)" = 0 ]; then as_root=()
elif command -v sudo >/dev/null; then as_root=(sudo)
else fail "Missing: ${missing[*]}. Installing packages needs root, and there is no sudo: have them installed, then run this again."
fi
echo "Installing ${#missing[@]} Debian packages, which needs root: ${missing[*]}"
quiet() { # What apt says is shown only when it fails.
  local said
  if said=$("${as_root[@]}" env DEBIAN_FRONTEND=noninteractive "$@" 2>&1); then return 0; fi
  echo "$said" | tail -n 5 >&2
  return 1
}
# Without a connection apt-get update warns and goes on with old lists.
quiet apt-get update -qq -o APT::Update::Error-Mode=any ||
  fail "The package lists cannot be fetched: is there a connection to Debian's servers? Still missing: ${missing[*]}"
quiet apt-get install -y -qq --no-install-recommends "${missing[@]}" ||
  fail "The packages cannot be installed (what apt said is above). Still missing: ${missing[*]}"
