#!/usr/bin/env bash
# Builds the core for 64-bit ARM, runs it under an emulator and compares the fingerprints of all demos with
# those that a native program printed.
# usage: scripts/cross.sh FOLDER NATIVE   FOLDER: where to build; NATIVE: the program acre_fingerprint of this machine
set -euo pipefail
source=$(cd "$(dirname "$0")/.." && pwd)
mkdir -p "$1"
folder=$(cd "$1" && pwd)
native=$2
root=$folder/root
libraries="libhwy-dev libhwy1 libxxhash-dev libfmt-dev libfmt9 libpng-dev libpng16-16 zlib1g-dev zlib1g libtbb-dev libtbb12
           libtbbmalloc2 libtbbbind-2-5 nlohmann-json3-dev"

# The libraries come as packages that are unpacked here, not installed; the lists are kept here as well.
if [ ! -e "$root/complete" ]; then
  rm -rf "$root" "$folder/packages"
  mkdir -p "$root" "$folder/packages" "$folder/lists/partial" "$folder/cache/archives/partial"
  apt=(apt-get -qq -o APT::Architecture=arm64 -o APT::Architectures::=arm64 -o "Dir::State::lists=$folder/lists"
       -o "Dir::Cache=$folder/cache" -o APT::Sandbox::User=root)
  "${apt[@]}" update
  # shellcheck disable=SC2086
  (cd "$folder/packages" && "${apt[@]}" download $libraries)
  for package in "$folder"/packages/*.deb; do dpkg -x "$package" "$root"; done
  touch "$root/complete"
fi

cmake -S "$source" -B "$folder/build" -G Ninja -DCMAKE_TOOLCHAIN_FILE="$source/cmake/aarch64.cmake" \
  -DACRE_CROSS_ROOT="$root" -DCMAKE_BUILD_TYPE=Release -DCMAKE_CXX_FLAGS_RELEASE=-O2 -DACRE_WERROR=ON -DACRE_CORE_ONLY=ON >/dev/null
cmake --build "$folder/build" --target acre_fingerprint | tail -n 1

libs=$root/usr/lib/aarch64-linux-gnu
"$native" > "$folder/native.txt"
qemu-aarch64 -cpu cortex-a72 -L /usr/aarch64-linux-gnu -E LD_LIBRARY_PATH="$libs:$root/lib/aarch64-linux-gnu:/usr/aarch64-linux-gnu/lib" \
  "$folder/build/tests/cross/acre_fingerprint" > "$folder/aarch64.txt"
diff "$folder/native.txt" "$folder/aarch64.txt"
# And both are the fingerprints of record.
while read -r name print; do
  grep -q "^$name $print" "$folder/aarch64.txt" || { echo "$name is not $print" >&2; exit 1; }
done < "$source/tests/golden/fingerprints.txt"
cat "$folder/aarch64.txt"
