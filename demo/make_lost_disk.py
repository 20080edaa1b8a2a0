#!/usr/bin/env python3
"""Makes theatre-lost.img.gz: a copy of the Candlewick Lane theatre's office disk that was begun a few sectors late. Its
partition map is missing, and its volumes stand where none usually does.

usage: make_lost_disk.py [OUT]         needs theatre-disk.img.gz beside it
"""
import gzip
import os
import shutil

import packing

SECTORS_MISSING = 5


def build(disk):
    whole = os.path.join(os.path.dirname(os.path.abspath(__file__)), "theatre-disk.img.gz")
    with gzip.open(whole) as f, open(disk, "wb") as out:
        f.seek(SECTORS_MISSING * 512)
        shutil.copyfileobj(f, out)


packing.make("theatre-lost", build, copy_of="theatre-disk")
