#!/usr/bin/env python3
"""Makes theatre-backup.img.gz: the backup disk of the Candlewick Lane theatre's office, NTFS, written and deleted with ntfs-3g.

usage: make_backup.py [OUT]         needs ntfs-3g and its tools, faketime, attr, and /dev/fuse

Its story: the office kept ledgers, letters and costume photos on it. Somebody put last year's ledgers into the bin and emptied a part of
it, deleted the folder with the glove maker's letters, and later wrote new letters, some into records that were free by then.
"""
import os
import time

import packing
from ntfs_volume import SID, NtfsVolume


def build(path):
    os.environ["TZ"] = "UTC"
    time.tzset()
    disk = NtfsVolume(path, 40 << 20, "BACKUP", "2025-01-14 08:30:00")
    disk.folder("Prop ledgers", "Letters/The glove maker", "Costume photos", "Archive")
    disk.compress("Archive")
    for year in range(2019, 2026):
        disk.put(f"Prop ledgers/{year} all props.csv", 9000 + 1000 * (year % 4), "ledger")
    disk.put("Archive/The fox under the bridge, all acts.txt", 120000)
    disk.put("Archive/A winter on strings.txt", 90000)
    for n in range(1, 7):
        disk.put(f"Costume photos/coat of the miller {n}.png", 40000 + 7000 * n)
    disk.at("2025-03-02 10:00:00")
    for n, subject in enumerate(["order", "invoice", "colours", "measures, Ödön", "thanks"]):
        disk.put(f"Letters/The glove maker/{n + 1} {subject}.txt", 600 + 900 * n)
    disk.put("Letters/Einladung zur Premiere.txt", 2100)
    disk.write("Letters/Einladung zur Premiere.txt:list of guests", b"Odile; the miller's widow; row 3\n")
    os.link(disk.place("Prop ledgers/2025 all props.csv"), disk.place("Letters/ledger for the tax office.csv"))
    disk.at("2025-06-11 17:00:00")
    disk.bin("Prop ledgers/2019 all props.csv", "Q7ZL2M")
    disk.bin("Prop ledgers/2020 all props.csv", "A1B9XK")
    disk.at("2025-07-01 09:00:00")
    disk.delete(f"{SID}/$RA1B9XK.csv", f"{SID}/$IA1B9XK.csv")
    disk.delete_tree("Letters/The glove maker")
    disk.delete("Costume photos/coat of the miller 2.png", "Costume photos/coat of the miller 5.png", "Archive/A winter on strings.txt")
    disk.at("2025-08-20 12:00:00")
    disk.put("Letters/To the insurance.txt", 1800)
    disk.put("Letters/To the printers.txt", 5200)
    disk.close()


packing.make("theatre-backup", build)
