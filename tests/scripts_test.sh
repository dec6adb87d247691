#!/usr/bin/env bash
# What scripts/packages.sh and scripts/build.sh say when something is missing: commands that they call are stood in
# for. usage: tests/scripts_test.sh SOURCE
set -euo pipefail
source=$1
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
checkout="$work/a path with spaces, żółć"
mkdir -p "$checkout/scripts" "$work/bin"
cp "$source"/scripts/*.sh "$checkout/scripts"
cp "$source/CMakePresets.json" "$checkout"
failed=0

# stand NAME BODY: a command of that name in front of the real one.
stand() { printf '#!/bin/bash\n%s\n' "$2" > "$work/bin/$1"; chmod +x "$work/bin/$1"; }
clear_stands() { rm -f "$work"/bin/*; : > "$work/calls"; }
# expect STATUS TEXT COMMAND...: ends so, and says it in one line (the last) that holds the text.
expect() {
  local status=$1 text=$2 said code=0
  shift 2
  said=$(PATH="$work/bin:$PATH" "$@" 2>&1) || code=$?
  if [ "$code" != "$status" ] || ! grep -qF -- "$text" <<<"$(tail -n 1 <<<"$said")"; then
    printf 'expected %s and "%s" of: %s\ngot %s: %s\n\n' "$status" "$text" "$*" "$code" "$said" >&2
    failed=1
  fi
}
installed='for p in "$@"; do case $p in -*) ;; *) echo "$p installed" ;; esac; done'
most='for p in "$@"; do case $p in -*|cmake) ;; *) echo "$p installed" ;; esac; done'
packages="$checkout/scripts/packages.sh" build="$checkout/scripts/build.sh"

# Nothing is missing: nothing is said, and apt is not called.
clear_stands
stand dpkg-query "$installed"
stand apt-get "echo called >> '$work/calls'"
expect 0 "" "$packages" run
[ ! -s "$work/calls" ] || { echo "apt was called though nothing was missing" >&2; failed=1; }

# Something is: it is named, with why root is needed.
clear_stands
stand dpkg-query "$most"
stand id "echo 0"
stand apt-get "exit 0"
expect 0 "Installing 1 Debian packages, which needs root: cmake" "$packages" run
stand apt-get 'case "$*" in *update*) echo "Temporary failure resolving"; exit 100 ;; esac'
expect 1 "is there a connection to Debian's servers? Still missing: cmake" "$packages" run
stand apt-get 'case "$*" in *install*) echo "E: broken"; exit 100 ;; esac'
expect 1 "The packages cannot be installed (what apt said is above). Still missing: cmake" "$packages" run

# Neither root nor sudo. (bash looks sudo up by PATH, so PATH holds no other folder.)
clear_stands
for tool in bash cat dirname awk grep tail env; do ln -s "$(command -v $tool)" "$work/bin/$tool"; done
stand dpkg-query "$most"
stand id "echo 1000"
real=$PATH
PATH=$work/bin
expect 1 "Missing: cmake. Installing packages needs root, and there is no sudo" "$packages" run
PATH=$real

# A package that stopped half way.
clear_stands
stand dpkg-query "$most; echo cmake half-configured"
expect 1 "Half installed: cmake. Run 'dpkg --configure -a'" "$packages" run
expect 2 "usage:" "$packages" everything

# No room: before the build begins, and when it runs out.
clear_stands
stand df 'printf "Filesystem 1024-blocks Used Available Capacity Mounted\nnone 100 98 20480 99%% /\n"'
expect 1 "There is no room left to build" "$build" release 400 8
clear_stands
stand df 'printf "Filesystem 1024-blocks Used Available Capacity Mounted\nnone 100 98 1024 99%% /\n"'
stand du 'printf "500\tx\n"'
stand cmake 'echo "No space left on device"; exit 1'
expect 1 "There is no room left to build" "$build" release 400 8
clear_stands
stand cmake 'echo "no compiler"; exit 1'
expect 1 "The build cannot be set up (what cmake said is above)." "$build" release 400 8

# A folder that was built from elsewhere.
clear_stands
mkdir -p "$checkout/build/release"
echo "CMAKE_HOME_DIRECTORY:INTERNAL=/elsewhere" > "$checkout/build/release/CMakeCache.txt"
expect 1 "build/release belongs to another checkout (/elsewhere): remove it, or build there." "$build" release 400 8

# Such a path is no hindrance: what is built lands in it, and a second time nothing is done.
rm -rf "$checkout/build"
clear_stands
stand cmake 'mkdir -p build/release && printf "rule touch\n  command = touch \$out\nbuild done: touch\n" > build/release/build.ninja'
expect 0 "" "$build" release 400 8
[ -e "$checkout/build/release/done" ] || { echo "nothing was built" >&2; failed=1; }
said=$(PATH="$work/bin:$PATH" "$build" release 400 8)
[ -z "$said" ] || { echo "a second build says: $said" >&2; failed=1; }
exit $failed
