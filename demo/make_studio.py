#!/usr/bin/env python3
"""Makes theatre-studio.img.gz: the disk of the theatre's sound studio, HFS+ with a journal, written and deleted by the kernel's driver.

usage: make_studio.py [OUT]         needs what guest_volume.py needs

Its story: the composer keeps takes and mixes on it. After the premiere the takes of the winter play were thrown away with their folder,
a mix was renamed, and new takes were recorded over some of the room that was free by then.
"""
import calendar
import time

import hfsplus_format
import packing
from guest_volume import GuestVolume


def phase(path, now, work):
    """One afternoon at the disk; what it changed goes into the journal."""
    before = hfsplus_format.special_blocks(path)
    disk = GuestVolume(path, "hfsplus", now)
    work(disk)
    disk.run()
    hfsplus_format.record_changes(path, before)


def recording(disk):
    disk.folder("Takes", "Takes/Winter play", "Mixes", "Noten für Odile")
    for n in range(1, 9):
        disk.put(f"Takes/Winter play/take {n:02}.wav", 90000 + 11000 * n)
    disk.put("Takes/Winter play/cue sheet.csv", 9000)
    disk.put("Mixes/overture, rough.wav", 260000)
    disk.put("Mixes/owl and moon.wav", 180000)
    disk.put("Noten für Odile/Das Lied der Mühle.pdf", 40000)
    disk.put("Noten für Odile/人形の歌.txt", 5000)


def after_the_premiere(disk):
    disk.move("Mixes/overture, rough.wav", "Mixes/overture, final.wav")
    disk.delete_tree("Takes/Winter play")
    disk.delete("Noten für Odile/Das Lied der Mühle.pdf")


def next_season(disk):
    disk.folder("Takes/The clockmaker's daughter")
    for n in range(1, 4):
        disk.put(f"Takes/The clockmaker's daughter/take {n:02}.wav", 120000)
    disk.delete("Mixes/owl and moon.wav")


def build(path):
    size = 40 << 20
    with open(path, "wb") as f:
        f.truncate(size)
    start = calendar.timegm(time.strptime("2025-02-01", "%Y-%m-%d"))
    hfsplus_format.format_volume(path, size, "STUDIO", start, journal=2 << 20)
    phase(path, "2025-02-03 14:00:00", recording)
    phase(path, "2025-03-15 23:10:00", after_the_premiere)
    phase(path, "2025-05-02 10:00:00", next_season)


packing.make("theatre-studio", build)
