#!/usr/bin/env bash
# Scanning and listing a FAT folder of many files, held against `cat` of what was read and written.
# usage: bench/listing.sh [FILES]        needs a built program; writes about 4 KiB a file into a temporary folder, sparse
set -euo pipefail
cd "$(dirname "$0")/.."
program=$PWD/build/undershelf
files=${1:-1000000}
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
python3 bench/make_fat_folder.py "$work/big.img" "$files"
cd "$work"

timed() { # timed NAME COMMAND...: seconds to the first line and to the last, and the most memory
  local name=$1
  shift
  python3 - "$name" "$@" <<'PY'
import resource, subprocess, sys, time
began = time.time()
p = subprocess.Popen(sys.argv[2:], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL)
p.stdout.readline()
first = time.time() - began
lines = 1 + sum(1 for _ in p.stdout)
p.wait()
memory = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
print(f"{sys.argv[1]:44} first line {first:6.3f} s   all {time.time() - began:6.2f} s   {memory:5.0f} MiB   {lines} lines")
PY
}
timed "scan of $files files" "$program" scan big.img
timed "list, everything, jsonl" "$program" list big.shelf --format jsonl
timed "list --name '*99*.csv' --size 100.." "$program" list big.shelf --name '*99*.csv' --size 100..
timed "list --ext csv" "$program" list big.shelf --ext csv
timed "list --sort -size,name" "$program" list big.shelf --sort -size,name
timed "tree --name '*999.csv'" "$program" tree big.shelf --name '*999.csv'
timed "tree" "$program" tree big.shelf
timed "tree --folders --depth 2" "$program" tree big.shelf --folders --depth 2
for by in kind ext folder grade month; do
  timed "list --group $by" "$program" list big.shelf --group $by
done
timed "list --group kind --name 99" "$program" list big.shelf --group kind --name 99
timed "summary" "$program" summary big.shelf
"$program" list big.shelf --format ids >numbers
timed "list --ids-from, a million lines" "$program" list big.shelf --ids-from numbers
timed "cat of the shelf" cat big.shelf
