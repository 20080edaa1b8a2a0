#!/usr/bin/env bash
# Reading one million records, held against `cat` of the same bytes, and a whole scan, held against the sqlite3 shell
# inserting the same rows. Prints ratios.
# usage: bench/million.sh ntfs|hfsplus [FILES]        needs build-bench/, python3 and sqlite3; a few GiB of temporary space
set -euo pipefail
cd "$(dirname "$0")/.."
kind=${1:?ntfs or hfsplus}
files=${2:-1000000}
programs=$PWD/build-bench
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
python3 "bench/make_${kind}_volume.py" "$work/big.img" "$files"

seconds() { # seconds COMMAND...: of the best of three runs
  python3 - "$@" <<'PY'
import subprocess, sys, time
best = 1e9
for _ in range(3):
    began = time.time()
    subprocess.run(sys.argv[1:], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, check=True)
    best = min(best, time.time() - began)
print(f"{best:.3f}")
PY
}
row() { # row WHAT SECONDS COMPARED_WITH SECONDS
  python3 -c 'import sys; a, b = float(sys.argv[2]), float(sys.argv[4]); print(f"{sys.argv[1]:34} {a:8.2f} s   {sys.argv[3]:30} {b:8.2f} s   ratio {a / b:5.2f}")' "$@"
}
cat_seconds=$(seconds cat "$work/big.img.records")
parse_seconds=$("$programs/bench/parse_volume" "$work/big.img" 3 | cut -d' ' -f1)
row "records parsed" "$parse_seconds" "cat of the records" "$cat_seconds"
if [ -w /proc/sys/vm/drop_caches ]; then
  sync
  echo 3 >/proc/sys/vm/drop_caches
  cold_cat=$(python3 -c 'import subprocess, sys, time; t = time.time(); subprocess.run(["cat", sys.argv[1]], stdout=subprocess.DEVNULL); print(time.time() - t)' "$work/big.img.records")
  echo 3 >/proc/sys/vm/drop_caches
  row "records parsed, nothing cached" "$("$programs/bench/parse_volume" "$work/big.img" 1 | cut -d' ' -f1)" "cat, nothing cached" "$cold_cat"
fi
scan_seconds=$(seconds bash -c 'rm -f "$2" && "$0" scan "$1" --shelf "$2"' "$programs/undershelf" "$work/big.img" "$work/big.shelf")
sqlite3 "$work/big.shelf" .dump >"$work/rows.sql"
insert_seconds=$(seconds bash -c 'rm -f "$0" && sqlite3 "$0" <"$1"' "$work/again.db" "$work/rows.sql")
row "whole scan, shelf written" "$scan_seconds" "sqlite3 inserting the rows" "$insert_seconds"
/usr/bin/env python3 - "$programs/undershelf" "$work" <<'PY'
import os, resource, subprocess, sys
shelf = sys.argv[2] + "/memory.shelf"
subprocess.run([sys.argv[1], "scan", sys.argv[2] + "/big.img", "--shelf", shelf], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, check=True)
print(f"most memory of the scan            {resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024:8.0f} MiB")
PY
