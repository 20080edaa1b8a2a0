#!/usr/bin/env bash
# The sweep held against `cat` of the same image: random bytes, a volume full of files, and a large sparse image held
# against its data alone. Prints ratios. usage: bench/sweep.sh [MIB]        needs build-bench/, mkfs.fat and mtools;
# three times MIB (4096) of temporary space
set -euo pipefail
cd "$(dirname "$0")/.."
mib=${1:-4096}
program=$PWD/build-bench/undershelf
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
seconds() { # seconds COMMAND...: of the best of three runs
  python3 - "$@" <<'PY'
import os, subprocess, sys, time
best = 1e9
for _ in range(3):
    if os.path.exists("swept.shelf"): os.remove("swept.shelf")
    began = time.time()
    subprocess.run(sys.argv[1:], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    best = min(best, time.time() - began)
print(f"{best:.3f}")
PY
}
row() { # row WHAT SECONDS COMPARED_WITH SECONDS
  python3 -c 'import sys; a, b = float(sys.argv[2]), float(sys.argv[4]); print(f"{sys.argv[1]:34} {a:8.2f} s   {sys.argv[3]:24} {b:8.2f} s   ratio {a / b:5.2f}")' "$@"
}
cd "$work"
dd if=/dev/urandom of=random.img bs=1M count="$mib" status=none
row "sweep of $mib MiB of random bytes" "$(seconds "$program" scan random.img --shelf swept.shelf --reach traces)" "cat" "$(seconds cat random.img)"
printf 'most memory of the sweep               %s MiB\n' "$(/usr/bin/time -f %M "$program" scan random.img --shelf memory.shelf --reach traces 2>&1 >/dev/null | tail -1 | awk '{print int($1 / 1024)}')"

truncate -s "${mib}M" files.img
mkfs.fat -F 32 files.img >/dev/null
split -b 64M --numeric-suffixes random.img part. && rm random.img
for part in part.*; do mcopy -i files.img "$part" :: 2>/dev/null || break; done
row "volume full of files, read and swept" "$(seconds "$program" scan files.img --shelf swept.shelf --reach traces)" "cat" "$(seconds cat files.img)"

dd if=files.img of=small.img bs=1M count=1024 status=none
truncate -s 1T sparse.img
dd if=small.img of=sparse.img bs=1M seek=500000 conv=notrunc status=none
row "1 TiB, 1 GiB of it data" "$(seconds "$program" scan sparse.img --shelf swept.shelf --reach traces)" "the data alone" "$(seconds "$program" scan small.img --shelf swept.shelf --reach traces)"
