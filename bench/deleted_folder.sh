#!/usr/bin/env bash
# Scans an exFAT volume of which a folder of many files was deleted. Its clusters are between the files that it names, as
# drivers write them, and no table has them any more.
# usage: bench/deleted_folder.sh [FILES [CLUSTER [PROGRAM]]]        100,000 files, clusters of 32,768 bytes; needs build-bench/, python3 and bc
set -euo pipefail
cd "$(dirname "$0")/.."
files=${1:-100000}
cluster=${2:-32768}
program=${3:-build-bench/undershelf}
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cat >"$work/write.py" <<'PY'
import struct, sys

FILES, CLUSTER, HEAP = int(sys.argv[2]), int(sys.argv[3]), 2 << 20


def rotated(total, byte):
    return ((total << 15 | total >> 1) + byte) & 0xFFFF


def checksum(data, left_out):
    total = 0
    for i, byte in enumerate(data):
        if i not in left_out:
            total = rotated(total, byte)
    return total


def name_hash(name):
    total = 0
    for byte in name.upper().encode("utf-16le"):
        total = rotated(total, byte)
    return total


def entry_set(name, start, size, folder=False, chained=False, second=0):
    names = (len(name) + 14) // 15
    stamp = 0x5A645000 + second // 3600 * 2048 + second // 60 % 60 * 32 + second % 60 // 2
    head = struct.pack("<BBHHHIIIBBBBB7x", 0x85, 1 + names, 0, 0x10 if folder else 0x20, 0, stamp, stamp, stamp, 0, 0, 0x84, 0x84, 0x84)
    stream = struct.pack("<BBBBHHQIIQ", 0xC0, 1 if chained else 3, 0, len(name), name_hash(name), 0, size, 0, start, size)
    units = name.encode("utf-16le").ljust(names * 30, b"\0")
    data = bytearray(head + stream + b"".join(b"\xc1\0" + units[i * 30:i * 30 + 30] for i in range(names)))
    struct.pack_into("<H", data, 2, checksum(data, (2, 3)))
    for at in range(0, len(data), 32):
        data[at] &= 0x7F  # deleted
    return bytes(data)


# The bitmap, the up-case table and the root folder, then the deleted folder.
bitmap = (FILES // 4 + CLUSTER) // CLUSTER
up_case, root_folder, first = bitmap + 2, bitmap + 3, bitmap + 4
clusters = FILES + FILES * 128 // CLUSTER + 200
with open(sys.argv[1], "wb") as image:
    image.truncate(HEAP + clusters * CLUSTER)

    def put(cluster, data, at=0):
        image.seek(HEAP + (cluster - 2) * CLUSTER + at)
        image.write(data)

    boot = bytearray(12 * 512)
    boot[0:11] = b"\xeb\x76\x90EXFAT   "
    struct.pack_into("<QQIIIIIIHHBBBBB", boot, 64, 0, (HEAP + clusters * CLUSTER) // 512, 24, 2048, HEAP // 512, clusters, root_folder, 0x12345678, 0x100, 0, 9, CLUSTER.bit_length() - 10, 1, 0x80, 0)
    for sector in range(9):
        boot[sector * 512 + 510:sector * 512 + 512] = b"\x55\xaa"
    total = 0
    for i in range(11 * 512):
        if i not in (106, 107, 112):
            byte = boot[i]
            total = ((total << 31 | total >> 1) + byte) & 0xFFFFFFFF
    boot[11 * 512:] = struct.pack("<I", total) * 128
    image.seek(0)
    image.write(boot + boot)
    image.seek(24 * 512)
    image.write(struct.pack("<II", 0xFFFFFFF8, 0xFFFFFFFF) + b"".join(struct.pack("<I", 3 + i) for i in range(bitmap - 1)) + struct.pack("<I", 0xFFFFFFFF) * 3)
    put(2, ((1 << bitmap + 2) - 1).to_bytes(bitmap // 8 + 2, "little"))
    at, folder, data = first + 1, first, b""
    root = struct.pack("<BB18xIQ", 0x81, 0, 2, (clusters + 7) // 8) + struct.pack("<B3xI12xIQ", 0x82, 0, up_case, 5836)
    for i in range(FILES):
        found = entry_set(f"evening letter {i:06}.gz", at, 500, second=i // 20)
        data += found
        put(at, b"\x1f\x8b\x08\0\0\0\0\0\0\x03letter %d" % i)
        at += 1
        if len(data) >= CLUSTER:
            put(folder, data[:CLUSTER])
            data, folder, at = data[CLUSTER:], at, at + 1
    put(folder, data)
    put(root_folder, root + entry_set("Letters", first, CLUSTER, folder=True, chained=True))
PY
python3 "$work/write.py" "$work/letters.img" "$files" "$cluster"
best=
for run in 1 2 3; do
    rm -f "$work/s.shelf"
    began=$(date +%s.%N)
    "$program" scan "$work/letters.img" --shelf "$work/s.shelf" --reach volumes >"$work/said"
    took=$(echo "$(date +%s.%N) - $began" | bc)
    [ -z "$best" ] || [ "$(echo "$took < $best" | bc)" = 1 ] && best=$took
done
found=$("$program" list "$work/s.shelf" --under Letters --format csv | grep -c 'evening letter' || true)
printf 'scan of a deleted folder of %s files, clusters of %s bytes: %.2f s, the best of 3; %s of them are in their folder\n' \
    "$files" "$cluster" "$best" "$found"
