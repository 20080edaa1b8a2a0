#!/usr/bin/env python3
"""Makes theatre-card.img.gz: the memory card of the Candlewick Lane theatre, FAT32, written and deleted with mtools.

usage: make_card.py [OUT]         needs dosfstools, mtools, faketime

Its story: the season's papers were put on the card in spring; in autumn somebody tidied up, deleted the summer play and
half of the photos, and put new recordings on it before noticing what was gone.
"""
import packing
import theatre
from fat_volume import FatVolume

SIZE = 48 << 20
# Places in free space, at starts of clusters.
POSTER, SOUND = 30 << 20, 36 << 20


def build(path):
    card = FatVolume(path, SIZE, 32, "5CA1D1E5", "CANDLEWICK", "2025-03-04 10:00:00")
    card.folder("Scripts", "Cue sheets", "Posters", "Sound effects", "Costume photos", "Prop ledgers", "Figuren für Odile")
    card.put("Scripts/Winter play.txt", 41000)
    card.put("Scripts/操り人形の台本.txt", 18000)
    card.put("Cue sheets/Summer lamps.csv", 9000)
    card.put("Cue sheets/Свет для зимней пьесы.csv", 7000)
    card.put("Posters/Plakat Sommerbühne.pdf", 52000)
    card.put("Posters/Winter night.pdf", 46000)
    card.now = "2025-04-18 15:30:00"
    for n in range(1, 13):
        card.put(f"Costume photos/CWL_{n:04}.PNG", 60000 + 9000 * (n % 5))
    card.put("Sound effects/thunder behind the mill.wav", 180000)
    card.put("Sound effects/owl.wav", 60000)
    card.put("Sound effects/carriage wheels on gravel.wav", 240000)
    card.put("Prop ledgers/2024 autumn.csv", 6000, "ledger")
    card.put("Prop ledgers/2025 spring.csv", 8000, "ledger")
    card.put("Figuren für Odile/Maße und Fäden.txt", 3000)
    card.now = "2025-06-02 11:00:00"
    card.put("Scripts/rehearsal notes.zip", 90000)
    card.put("Posters/season flyer.png", 120000)
    card.folder("Scripts/Summer play")
    for act in (1, 2, 3):
        card.put(f"Scripts/Summer play/The fox under the bridge, act {act}.txt", 24000 + 3000 * act)
    # Somebody tidies up.
    card.now = "2025-09-12 17:45:00"
    card.delete("Cue sheets/Summer lamps.csv", "Sound effects/owl.wav", "Posters/Plakat Sommerbühne.pdf", "Prop ledgers/2024 autumn.csv")
    card.delete(*[f"Costume photos/CWL_{n:04}.PNG" for n in (2, 3, 5, 8, 9, 11)])
    card.delete_tree("Scripts/Summer play")
    # New recordings go where the first deleted files were, in pieces.
    card.now = "2025-10-03 09:20:00"
    card.forget_hint()
    card.put("Sound effects/rain on the roof.wav", 150000)
    card.put("Sound effects/applause, full house.wav", 110000)
    card.put("Figuren für Odile/Christmas special.txt", 12000)
    card.now = "2025-10-04 08:00:00"
    card.delete("Scripts/rehearsal notes.zip")
    # The stage door's player kept its list of tracks in free space for a moment; nothing tells of it.
    card.scribble("Costume photos/CWL_0011.PNG", 69000, 40960, theatre.make("tracks.csv", 2000, "ledger"))
    # Two files of an earlier season, of which nothing but their contents is left.
    card.leave(POSTER, theatre.titled_picture("The owl and the moon, poster", 90000))
    card.leave(SOUND, theatre.titled_sound("Creaking stage door", 70000))


packing.make("theatre-card", build)
