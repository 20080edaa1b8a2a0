#!/usr/bin/env python3
"""Writes a FAT32 image with one folder of many files, straight as bytes.

usage: make_fat_folder.py IMAGE [FILES]
"""
import struct
import sys


def checksum(name):
    total = 0
    for c in name:
        total = ((total >> 1 | total << 7) + c) & 0xFF
    return total


def slots(number, cluster):
    """A long and a short entry of one file."""
    name = f"cue sheet {number:06}.csv".encode("utf-16-le") + b"\0\0"
    short = f"CS{number:06}CSV".encode()
    name += b"\xff" * (-len(name) % 26)
    parts = [name[i:i + 26] for i in range(0, len(name), 26)]
    out = b""
    for order in range(len(parts), 0, -1):
        p = parts[order - 1]
        out += bytes([order | (0x40 if order == len(parts) else 0)]) + p[:10] + b"\x0f\0" + bytes([checksum(short)]) + p[10:22] + b"\0\0" + p[22:]
    return out + struct.pack("<11sBBBHHHHHHHI", short, 0x20, 0, 0, 0x5000, 0x5A64, 0x5A64, cluster >> 16, 0x5000, 0x5A64, cluster & 0xFFFF, 300)


def main():
    image, files = sys.argv[1], int(sys.argv[2]) if len(sys.argv) > 2 else 100_000
    size = 4096
    folder = b"".join(slots(n, 0) for n in range(1))
    per_file = len(folder)
    folder_clusters = (64 + files * per_file + size - 1) // size
    clusters = 2 + folder_clusters + files + 1000
    fat_sectors = (clusters * 4 + 511) // 512 + 1
    data = (32 + 2 * fat_sectors) * 512
    boot = bytearray(512)
    boot[0:3] = b"\xeb\x58\x90"
    struct.pack_into("<HBHBHHBHHHII", boot, 11, 512, size // 512, 32, 2, 0, 0, 0xF8, 0, 0, 0, 0, data // 512 + clusters * size // 512)
    struct.pack_into("<IHHIHH", boot, 36, fat_sectors, 0, 0, 2, 1, 6)
    boot[510:512] = b"\x55\xaa"
    first_file = 3 + folder_clusters
    fat = [0x0FFFFFF8, 0x0FFFFFFF, 0x0FFFFFFF] + [3 + i + 1 for i in range(folder_clusters - 1)] + [0x0FFFFFFF] + [0x0FFFFFFF] * files
    dots = b"".join(struct.pack("<11sBBBHHHHHHHI", n, 0x10, 0, 0, 0x5000, 0x5A64, 0x5A64, 0, 0x5000, 0x5A64, c, 0) for n, c in ((b".          ", 3), (b"..         ", 0)))
    folder = dots + b"".join(slots(n, first_file + n) for n in range(files))
    root = struct.pack("<11sBBBHHHHHHHI", b"CUES       ", 0x10, 0, 0, 0x5000, 0x5A64, 0x5A64, 0, 0x5000, 0x5A64, 3, 0)
    with open(image, "wb") as f:
        f.write(boot)
        for copy in range(2):
            f.seek((32 + copy * fat_sectors) * 512)
            f.write(struct.pack(f"<{len(fat)}I", *fat))
        f.seek(data)
        f.write(root)
        f.seek(data + size)
        f.write(folder)
        f.truncate(data + clusters * size)


main()
