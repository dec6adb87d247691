#!/usr/bin/env bash
# The core for 64-bit ARM under an emulator: the fingerprints of all demos must be those that a native program
# prints, and those of record.
# usage: scripts/cross.sh build FOLDER                 builds it there
#        scripts/cross.sh run FOLDER NATIVE [small]    NATIVE: this machine's acre_fingerprint; small: see there
set -euo pipefail
source=$(cd "$(dirname "$0")/.." && pwd)
what=$1
mkdir -p "$2"
folder=$(cd "$2" && pwd)
root=$folder/root
if [[ $root == *[[:space:]]* ]]; then  # pkg-config parts its answers at spaces: it is shown a name without.
  root=${TMPDIR:-/tmp}/acre-arm64-$(cksum <<<"$folder" | cut -d' ' -f1)
  mkdir -p "$folder/root"
  ln -sfn "$folder/root" "$root"
fi

if [ "$what" = build ]; then
  libraries="libhwy-dev libhwy1 libxxhash-dev libfmt-dev libfmt9 libpng-dev libpng16-16 zlib1g-dev zlib1g libtbb-dev libtbb12
             libtbbmalloc2 libtbbbind-2-5 nlohmann-json3-dev"
  # The libraries come as packages that are unpacked here, not installed; the lists are kept here as well.
  if [ ! -e "$root/complete" ]; then
    rm -rf "$folder/root" "$folder/packages"
    mkdir -p "$folder/root" "$folder/packages" "$folder/lists/partial" "$folder/cache/archives/partial"
    apt=(apt-get -qq -o APT::Architecture=arm64 -o APT::Architectures::=arm64 -o "Dir::State::lists=$folder/lists"
         -o "Dir::Cache=$folder/cache" -o APT::Sandbox::User=root)
    # shellcheck disable=SC2086
    "${apt[@]}" update && (cd "$folder/packages" && "${apt[@]}" download $libraries) ||
      { echo "The libraries of 64-bit ARM cannot be fetched: is there a connection to Debian's servers?" >&2; exit 1; }
    for package in "$folder"/packages/*.deb; do dpkg -x "$package" "$root"; done
    touch "$root/complete"
  fi
  [ -e "$folder/build/build.ninja" ] ||
    cmake -S "$source" -B "$folder/build" -G Ninja "-DCMAKE_TOOLCHAIN_FILE=$source/cmake/aarch64.cmake" \
      "-DACRE_CROSS_ROOT=$root" -DCMAKE_BUILD_TYPE=Release -DCMAKE_CXX_FLAGS_RELEASE=-O2 -DACRE_WERROR=ON -DACRE_CORE_ONLY=ON \
      -DCMAKE_UNITY_BUILD=ON -DCMAKE_UNITY_BUILD_BATCH_SIZE=12 -DACRE_PRECOMPILE=ON >/dev/null
  exec cmake --build "$folder/build" --target acre_fingerprint
fi

native=$3
size=${4:-}
libs=$root/usr/lib/aarch64-linux-gnu
# shellcheck disable=SC2086
"$native" $size > "$folder/native$size.txt"
# shellcheck disable=SC2086
qemu-aarch64 -cpu cortex-a72 -L /usr/aarch64-linux-gnu -E "LD_LIBRARY_PATH=$libs:$root/lib/aarch64-linux-gnu:/usr/aarch64-linux-gnu/lib" \
  "$folder/build/tests/cross/acre_fingerprint" $size > "$folder/aarch64$size.txt"
diff "$folder/native$size.txt" "$folder/aarch64$size.txt"
# And both are the fingerprints of record; a small run takes the demos without their water and objects.
golden=$source/tests/golden
records=$(cat "$golden/fingerprints.txt")
[ -z "$size" ] || records=$(awk 'NR == FNR { dry[$1] = $0; next } { print $1 in dry ? dry[$1] : $0 }' \
  "$golden/dry.txt" "$golden/fingerprints.txt")
while read -r name print; do
  grep -q "^$name $print" "$folder/aarch64$size.txt" || { echo "$name is not $print" >&2; exit 1; }
done <<<"$records"
cat "$folder/aarch64$size.txt"
