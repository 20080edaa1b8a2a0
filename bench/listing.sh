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

timed() { # timed NAME COMMAND...: seconds to the first line and to the last
  local name=$1
  shift
  python3 - "$name" "$@" <<'PY'
import subprocess, sys, time
began = time.time()
p = subprocess.Popen(sys.argv[2:], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL)
p.stdout.readline()
first = time.time() - began
lines = 1 + sum(1 for _ in p.stdout)
print(f"{sys.argv[1]:44} first line {first:6.3f} s   all {time.time() - began:6.2f} s   {lines} lines")
PY
}
timed "scan of $files files" "$program" scan big.img
timed "list, everything, jsonl" "$program" list big.shelf --format jsonl
timed "list --name '*99*.csv' --size 100.." "$program" list big.shelf --name '*99*.csv' --size 100..
timed "list --ext csv" "$program" list big.shelf --ext csv
timed "list --sort -size,name" "$program" list big.shelf --sort -size,name
timed "tree --name '*999.csv'" "$program" tree big.shelf --name '*999.csv'
timed "tree" "$program" tree big.shelf
timed "cat of the shelf" cat big.shelf
