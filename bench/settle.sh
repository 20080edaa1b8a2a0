#!/usr/bin/env bash
# Volumes made of very many traces. fat: one million folder clusters of a FAT32 volume that has nothing else left, with the
# time of sweeping, settling, reading and rating them all. ntfs, hfsplus: one million files of a volume that lost its heads,
# held against the scan of the same volume while it had them.
# usage: bench/settle.sh fat|ntfs|hfsplus [NUMBER]        needs build-bench/ and python3; a few GiB of temporary space
set -euo pipefail
cd "$(dirname "$0")/.."
kind=${1:?fat, ntfs or hfsplus}
number=${2:-1000000}
program=$PWD/build-bench/undershelf
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
measured() { # measured COMMAND...: seconds and KiB of memory
  /usr/bin/time -f "%e %M" "$@" 2>&1 >/dev/null | tail -1
}
if [ "$kind" = fat ]; then
  python3 - "$number" "$work/card.img" <<'PY'
import struct, sys
folders = int(sys.argv[1])
stamp, date = 0x5000, 0x5A64
def slot(name, attr, cluster, size):
    return struct.pack("<11sBBBHHHHHHHI", name, attr, 0, 0, stamp, date, date, cluster >> 16, stamp, date, cluster & 0xFFFF, size)
with open(sys.argv[2], "wb") as f:
    f.write(bytes(1 << 20))
    for i in range(folders):
        own, parent = i + 2, 0 if i % 100 == 0 else i - i % 100 + 2
        cluster = slot(b".          ", 0x10, own, 0) + slot(b"..         ", 0x10, parent, 0) + slot(b"CUES    CSV", 0x20, own + folders, 400)
        f.write(cluster.ljust(512, b"\0"))
    f.write(bytes(folders * 8))
PY
  read -r seconds memory < <(measured "$program" scan "$work/card.img" --shelf "$work/card.shelf" --reach traces)
  printf '%s folders and as many files: %s s, %s MiB\n' "$number" "$seconds" $((memory / 1024))
  exit
fi
python3 "bench/make_${kind}_volume.py" "$work/big.img" "$number"
read -r present _ < <(measured "$program" scan "$work/big.img" --shelf "$work/present.shelf")
python3 - "$kind" "$work/big.img" <<'PY'
import os, sys
size = os.path.getsize(sys.argv[2])
with open(sys.argv[2], "r+b") as f:
    # Boot sector and its copy; volume header and alternate header.
    for at in (0, size - 512) if sys.argv[1] == "ntfs" else (1024, size - 1024):
        f.seek(at)
        f.write(bytes(512))
PY
read -r lost memory < <(measured "$program" scan "$work/big.img" --shelf "$work/lost.shelf" --reach traces)
python3 -c 'import sys; a, b = float(sys.argv[2]), float(sys.argv[3]); print(f"{sys.argv[1]} files without heads: {a:.1f} s, {sys.argv[4]} MiB; with heads: {b:.1f} s; ratio {a / b:.2f}")' "$number" "$lost" "$present" $((memory / 1024))
