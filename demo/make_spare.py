#!/usr/bin/env python3
"""Makes theatre-spare.img.gz: the Candlewick Lane theatre's backup disk, NTFS, formatted again by mistake.

usage: make_spare.py [OUT]         needs theatre-backup.img.gz beside it, ntfs-3g, faketime

Its story: somebody took the backup disk for the spare one and formatted it, as NTFS as before.
"""
import gzip
import os
import shutil
import subprocess

import packing


def build(disk):
    whole = os.path.join(os.path.dirname(os.path.abspath(__file__)), "theatre-backup.img.gz")
    with gzip.open(whole) as f, open(disk, "wb") as out:
        shutil.copyfileobj(f, out)
    subprocess.run(["faketime", "-f", "2025-10-11 09:30:00", "mkntfs", "-F", "-Q", "-L", "SPARE", disk], check=True,
                   stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


packing.make("theatre-spare", build, copy_of="theatre-backup")
