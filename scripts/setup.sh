#!/usr/bin/env bash
# Installs what is missing from Debian's packages. "run" is what the application
# needs, "test" adds what only the tests need.
set -euo pipefail
for tool in go node npm; do
  command -v "$tool" >/dev/null || { echo "hammerset: $tool is missing; install it (Go 1.26 or later, Node 20 or later) and try again" >&2; exit 1; }
done
want=(g++ mariadb-server mariadb-client libocct-modeling-algorithms-dev libocct-data-exchange-dev libocct-ocaf-dev fonts-osifont)
case "${1:-run}" in
  test) want+=(chromium gmsh-doc netgen-doc) ;;
  bench) want+=(chromium gmsh-doc netgen-doc libcminpack-dev) ;;
esac
missing=()
for p in "${want[@]}"; do
  dpkg-query -W -f='${Status}' "$p" 2>/dev/null | grep -q 'ok installed' || missing+=("$p")
done
[ ${#missing[@]} -eq 0 ] && exit 0
free=$(df --output=avail -m / | tail -1)
[ "$free" -ge 3000 ] || { echo "hammerset: too little disk: $free MB are free on / and about 3000 MB are needed for ${missing[*]}" >&2; exit 1; }
as_root=()
if [ "$(id -u)" -ne 0 ]; then
  command -v sudo >/dev/null || { echo "hammerset: install these Debian packages as root and try again: ${missing[*]}" >&2; exit 1; }
  as_root=(sudo)
fi
echo "Installing ${missing[*]} ..."
# Debian would start a system-wide MariaDB; ours runs with its own data instead.
policy=/usr/sbin/policy-rc.d
made=0
if [ ! -e $policy ]; then
  printf '#!/bin/sh\nexit 101\n' | "${as_root[@]}" tee $policy >/dev/null
  "${as_root[@]}" chmod +x $policy
  made=1
fi
trap '[ $made -eq 1 ] && "${as_root[@]}" rm -f $policy || true' EXIT
log=$(mktemp)
if ! { "${as_root[@]}" apt-get update -qq && "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}"; } >"$log" 2>&1; then
  echo "hammerset: the packages could not be installed; the end of what apt-get said (all of it in $log):" >&2
  tail -5 "$log" >&2
  exit 1
fi
rm -f "$log"
