#!/usr/bin/env bash
# Former volumes made of very many traces: one million folder clusters of a FAT32 volume that has nothing else left.
# Prints the time of sweeping, settling, reading and rating them all, and the memory it takes.
# usage: bench/settle.sh [FOLDERS]        needs build-bench/; half a KiB of temporary space a folder
set -euo pipefail
cd "$(dirname "$0")/.."
folders=${1:-1000000}
program=$PWD/build-bench/undershelf
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work"
python3 - "$folders" <<'PY'
import struct, sys
folders = int(sys.argv[1])
stamp, date = 0x5000, 0x5A64
def slot(name, attr, cluster, size):
    return struct.pack("<11sBBBHHHHHHHI", name, attr, 0, 0, stamp, date, date, cluster >> 16, stamp, date, cluster & 0xFFFF, size)
with open("card.img", "wb") as f:
    f.write(bytes(1 << 20))
    for i in range(folders):
        own, parent = i + 2, 0 if i % 100 == 0 else i - i % 100 + 2
        cluster = slot(b".          ", 0x10, own, 0) + slot(b"..         ", 0x10, parent, 0) + slot(b"CUES    CSV", 0x20, own + folders, 400)
        f.write(cluster.ljust(512, b"\0"))
    f.write(bytes(folders * 8))
PY
/usr/bin/time -f "%e s, %M KiB" "$program" scan card.img --shelf card.shelf --reach traces 2>time.txt | tail -2
printf '%s folders and as many files           %s\n' "$folders" "$(tail -1 time.txt)"
