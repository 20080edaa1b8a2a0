#!/usr/bin/env python3
"""Writes an NTFS image with many small files: the boot sector and file records directly, contents left as holes.

usage: bench/make_ntfs_volume.py IMAGE FILES [--columns]        1 KiB of records a file; every tenth file is deleted

Writes beside it IMAGE.records, the records alone, for `cat` to be measured on.
"""
import struct
import sys

CLUSTER, RECORD, MFT_CLUSTER = 4096, 1024, 4
WHEN = 133_540_000_000_000_000


def resident(kind, value, name=""):
    at = (24 + len(name) * 2 + 7) // 8 * 8
    size = (at + len(value) + 7) // 8 * 8
    head = struct.pack("<IIBBHHHIHBB", kind, size, 0, len(name), 24, 0, 0, len(value), at, 0, 0)
    return (head + name.encode("utf-16le")).ljust(at, b"\0") + value.ljust(size - at, b"\0")


def packed(n):
    """The shortest little-endian form of a number that keeps its sign."""
    size = n.bit_length() // 8 + 1
    return n.to_bytes(size, "little", signed=True)


def non_resident(kind, runs, size, name=""):
    data, before, clusters = b"", 0, 0
    for lcn, count in runs:
        length, step = packed(count), packed(lcn - before)
        data += bytes([len(length) | len(step) << 4]) + length + step
        before, clusters = lcn, clusters + count
    data += b"\0"
    at = (64 + len(name) * 2 + 7) // 8 * 8
    total = (at + len(data) + 7) // 8 * 8
    head = struct.pack("<IIBBHHHQQHBBIQQQ", kind, total, 1, len(name), 64, 0, 0, 0, clusters - 1, at, 0, 0, 0, clusters * CLUSTER, size, size)
    return (head + name.encode("utf-16le")).ljust(at, b"\0") + data.ljust(total - at, b"\0")


def record(number, sequence, flags, attributes):
    body = b"".join(attributes) + struct.pack("<II", 0xFFFFFFFF, 0)
    head = struct.pack("<4sHHQHHHHIIQHHI", b"FILE", 48, 3, 0, sequence, 1, 56, flags, 56 + len(body), RECORD, 0, len(attributes), 0, number)
    r = bytearray((head + b"\1\0\0\0\0\0\0\0" + body).ljust(RECORD, b"\0"))
    for i, tail in enumerate((510, 1022)):
        r[50 + 2 * i:52 + 2 * i] = r[tail:tail + 2]
        r[tail:tail + 2] = b"\1\0"
    return bytes(r)


def file_name(parent, name, size=0):
    units = name.encode("utf-16le")
    value = struct.pack("<QQQQQQQII", 5 | 5 << 48 if parent == 5 else parent | 1 << 48, WHEN, WHEN, WHEN, WHEN, (size + 4095) // 4096 * 4096, size, 0x20, 0)
    return value + bytes([len(units) // 2, 1]) + units


STANDARD = resident(0x10, struct.pack("<QQQQIIIIIIQQ", WHEN, WHEN, WHEN, WHEN, 0x20, 0, 0, 0, 0, 0, 0, 0))


def main():
    image, files = sys.argv[1], int(sys.argv[2])
    folders = max(1, files // 1000)
    first_folder, first_file = 24, 24 + folders
    records = first_file + files
    mft_clusters = (records * RECORD + CLUSTER - 1) // CLUSTER
    content = MFT_CLUSTER + mft_clusters
    sizes = [1 + i * 7919 % 20000 for i in range(files)]
    clusters = content + sum((s + CLUSTER - 1) // CLUSTER for s in sizes) + files // 8 // CLUSTER + 64
    bitmap_clusters = (clusters // 8 + CLUSTER) // CLUSTER
    clusters += bitmap_clusters
    with open(image, "wb") as f, open(image + ".records", "wb") as alone:
        f.truncate(clusters * CLUSTER + 512)
        boot = struct.pack("<3s8sHB", b"\xeb\x52\x90", b"NTFS    ", 512, 8).ljust(40, b"\0") + struct.pack(
            "<QQQbxxxbxxxQ", clusters * 8, MFT_CLUSTER, 1, -10, 1, 0xB0A710AD00C0FFEE)
        f.write(boot.ljust(510, b"\0") + b"\x55\xaa")
        out = [record(0, 1, 1, [STANDARD, resident(0x30, file_name(5, "$MFT")), non_resident(0x80, [(MFT_CLUSTER, mft_clusters)], records * RECORD)])]
        out += [record(n, max(n, 1), 1, [STANDARD]) for n in range(1, 5)]
        out.append(record(5, 5, 3, [STANDARD, resident(0x30, file_name(5, "."))]))
        out.append(record(6, 6, 1, [STANDARD, resident(0x30, file_name(5, "$Bitmap")),
                                    non_resident(0x80, [(clusters - bitmap_clusters, bitmap_clusters)], (clusters + 7) // 8)]))
        out += [record(n, n, 1, [STANDARD]) for n in range(7, first_folder)]
        out += [record(first_folder + i, 1, 3, [STANDARD, resident(0x30, file_name(5, f"Season {i:05}"))]) for i in range(folders)]
        f.seek(MFT_CLUSTER * CLUSTER)
        cluster = content
        for i in range(files):
            size = sizes[i]
            need = (size + CLUSTER - 1) // CLUSTER
            gone = i % 10 == 9
            out.append(record(first_file + i, 2 if gone else 1, 0 if gone else 1,
                              [STANDARD, resident(0x30, file_name(first_folder + i // 1000 % folders, f"cue sheet {i:07}.csv", size)),
                               non_resident(0x80, [(cluster, need)], size)]))
            cluster += need
            if len(out) >= 4096:
                f.write(b"".join(out))
                alone.write(b"".join(out))
                out = []
        f.write(b"".join(out))
        alone.write(b"".join(out))


main()
