#!/usr/bin/env python3
"""Makes theatre-photos.img.gz: the photographer's card of the Candlewick Lane theatre, FAT32, formatted by mistake.

usage: make_photos.py [OUT]         needs dosfstools, mtools, faketime

Its story: a season of costume photos was on the card. Before a rehearsal somebody formatted it, in another device that
uses larger clusters, and took a few new pictures before the mistake was noticed.
"""
import packing
from fat_volume import FatVolume

SIZE = 80 << 20


def build(path):
    card = FatVolume(path, SIZE, 32, "5EA50251", "COSTUMES", "2025-05-02 09:00:00")
    card.folder("Costumes", "Costumes/Fox", "Costumes/Miller", "Costumes/Owl", "Stage", "Ledger")
    for day, (who, first) in enumerate((("Fox", 1), ("Miller", 7), ("Owl", 13)), 3):
        card.now = f"2025-05-{day:02} 14:20:00"
        for n in range(first, first + 6):
            card.put(f"Costumes/{who}/CWL_{n:04}.PNG", 50000 + 7000 * (n % 4))
    card.now = "2025-06-11 19:00:00"
    card.put("Stage/bridge at night.png", 140000)
    card.put("Stage/Bühnenbild Mühle.pdf", 64000)
    card.put("Ledger/costumes 2025.csv", 9000, "ledger")
    # A film was written while pictures were deleted, so that it lies in pieces.
    card.now = "2025-06-30 21:15:00"
    card.delete("Costumes/Fox/CWL_0002.PNG", "Costumes/Fox/CWL_0004.PNG", "Costumes/Miller/CWL_0008.PNG")
    card.forget_hint()
    card.put("Stage/curtain call.wav", 260000)
    card.put("Stage/storm machine.wav", 90000)
    # The mistake.
    card.now = "2025-09-20 10:05:00"
    card.format(32, 2, "0920A005", "CAMERA")
    card.folder("DCIM", "DCIM/100CANDL")
    for n in range(1, 4):
        card.put(f"DCIM/100CANDL/CNDL{n:04}.PNG", 90000)


packing.make("theatre-photos", build)
