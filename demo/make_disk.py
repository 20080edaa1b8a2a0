#!/usr/bin/env python3
"""Makes theatre-disk.img.gz: the office disk of the Candlewick Lane theatre, an MBR with two FAT volumes and a free stretch
between them.

usage: make_disk.py [OUT]         needs dosfstools, mtools, faketime
"""
import os
import struct
import tempfile

import packing
from fat_volume import FatVolume

MIB = 1 << 20
# Start, size, partition type, FAT width, serial, label.
VOLUMES = [(1 * MIB, 16 * MIB, 0x06, 16, "0FF1CE01", "OFFICE"), (25 * MIB, 40 * MIB, 0x0C, 32, "0FF1CE02", "ARCHIVE")]
SIZE = 66 * MIB


def fill(volume, label):
    if label == "OFFICE":
        volume.folder("Prop ledgers", "Letters")
        for year in (2022, 2023, 2024):
            volume.put(f"Prop ledgers/{year} all props.csv", 7000, "ledger")
        volume.put("Letters/To the glove maker.txt", 2500)
        volume.put("Letters/Einladung zur Premiere.txt", 2100)
        volume.now = "2025-08-20 12:00:00"
        volume.delete("Prop ledgers/2022 all props.csv", "Letters/To the glove maker.txt")
    else:
        volume.folder("Old seasons")
        for season in ("2019 The clockwork owl", "2021 The miller's moon", "2023 A winter on strings"):
            volume.put(f"Old seasons/{season}.txt", 30000)
            volume.put(f"Old seasons/{season}, poster.pdf", 40000)
        volume.now = "2025-08-21 09:30:00"
        volume.delete("Old seasons/2019 The clockwork owl.txt", "Old seasons/2019 The clockwork owl, poster.pdf")


def build(disk):
    table = b""
    with open(disk, "wb") as f, tempfile.TemporaryDirectory() as work:
        f.truncate(SIZE)
        for start, size, kind, bits, serial, label in VOLUMES:
            part = os.path.join(work, label)
            fill(FatVolume(part, size, bits, serial, label, "2025-02-10 09:00:00"), label)
            f.seek(start)
            f.write(open(part, "rb").read())
            table += struct.pack("<B3sB3sII", 0, b"\xfe\xff\xff", kind, b"\xfe\xff\xff", start // 512, size // 512)
        f.seek(440)
        f.write(b"CWL!\0\0" + table.ljust(64, b"\0") + b"\x55\xaa")


packing.make("theatre-disk", build)
