#!/usr/bin/env python3
"""Makes theatre-stick.img.gz: the touring stick of the Candlewick Lane theatre, exFAT, written and deleted by the kernel's driver.

usage: make_stick.py [OUT]         needs exfatprogs and what guest_volume.py needs

Its story: the stick went on tour with the recordings and the posters of every town; one of the posters was replaced on the way. Back
home the owl made room for the first recordings of the new play, and then the whole folder of the tour was deleted.
"""
import subprocess

import packing
from guest_volume import GuestVolume

TOWNS = ["Alderbrook", "Köstritz am See", "Marrow Bay", "Tinnefeld"]


def build(path):
    with open(path, "wb") as f:
        f.truncate(48 << 20)
    subprocess.run(["mkfs.exfat", "-c", "4096", "-L", "TOUR", path], check=True, stdout=subprocess.DEVNULL)
    subprocess.run(["tune.exfat", "-I", "0x70A57EA7", path], check=True, stdout=subprocess.DEVNULL)
    stick = GuestVolume(path, "exfat", "2025-03-20 09:00:00")
    stick.folder("Sound effects", "Tour 2025", *[f"Tour 2025/{t}" for t in TOWNS])
    stick.put("Sound effects/thunder behind the mill.wav", 180000)
    stick.put("Sound effects/owl.wav", 60000)
    for n, town in enumerate(TOWNS):
        stick.at(f"2025-04-{3 + 7 * n:02} 18:00:00")
        stick.put(f"Tour 2025/{town}/Poster {town}.pdf", 50000 + 4000 * n)
        stick.put(f"Tour 2025/{town}/Stage from the left.png", 70000)
        stick.put(f"Tour 2025/{town}/Evening recording.wav", 300000)
        stick.put(f"Tour 2025/{town}/cue sheet.csv", 8000)
    stick.remount()
    stick.at("2025-04-12 10:00:00")
    stick.delete("Tour 2025/Köstritz am See/Poster Köstritz am See.pdf")
    stick.put("Tour 2025/Köstritz am See/Poster Köstritz am See, new date.pdf", 61000)
    stick.move("Tour 2025/Tinnefeld/cue sheet.csv", "Tour 2025/Tinnefeld/cue sheet, short version.csv")
    stick.remount()
    stick.at("2025-06-02 09:15:00")
    stick.delete("Sound effects/owl.wav")
    stick.put("Sound effects/The clockmaker's daughter, first reading.wav", 420000)
    stick.put("Sound effects/The clockmaker's daughter, script.txt", 32000)
    stick.at("2025-06-30 16:00:00")
    stick.delete_tree("Tour 2025")
    stick.run()


packing.make("theatre-stick", build)
