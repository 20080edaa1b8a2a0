#!/usr/bin/python3
"""Holds chances against outcomes: on volumes of which it is known what was on them, how many files of each chance came back exact.

usage: bench/calibration.py [--bin PROGRAM] [--to DIR] [FOLDER...]

Each FOLDER holds volumes, NAME.img.gz or NAME.img.zst, and beside each NAME.truth.json: {"files": [{"path", "sha256"}, ...]}, with "unreadable":
[[offset, length], ...] where the source was failing and "volumes": [{"formats": [{"fs", "writer"}, ...]}, ...] for who wrote it. Without a folder: the demo volumes. Every volume is scanned with all traces, rated by
metadata alone, exported; then contents are checked and it is exported again. Counted are lost files that have a length and a layout.

Writers differ, so that what was learnt from some must hold for the next one: for each writer the chances are also corrected by what the files of all
other writers say (a line through the log odds, fitted without this one). Where that makes the score better, the model's numbers do not fit this writer, and
would by the others; where it does not, there is nothing to learn. Every piece of evidence has a factor on the chance, which the shelf keeps; for each kind of it the files that have it
are held against what came of them: by how much their odds would have to be raised or lowered to be right, by all writers, and by all but one at a time.
What that range has 1 in is borne out.

Printed, and written to DIR (build/calibration): calibration.csv with a row for each file, evidence.md with a row for each kind of evidence (which
docs/rating-evidence.md is a copy of), and the curves, calibration.png and calibration.svg.
Needs python3-cairo; zstd for such images. Takes room for the largest volume twice.
"""
import argparse
import collections
import csv
import glob
import gzip
import hashlib
import json
import math
import os
import re
import shutil
import sqlite3
import struct
import subprocess
import sys
import tempfile
import unicodedata

import cairo

HERE = os.path.dirname(os.path.abspath(__file__))
BINS = 10
ENOUGH = 20  # files in a bin, below which its share says little
RATINGS = ("metadata", "contents")
KERNELS = {"fat": "vfat", "exf": "exfat", "hfs": "hfsplus", "ntf": "ntfs-3g"}  # whose driver wrote it where nothing says so
File = collections.namedtuple("File", "volume writer rating path chance exact checked passed grade evidence")


def run(*command):
    done = subprocess.run(command, capture_output=True, text=True, errors="replace")
    if done.returncode not in (0, 1):
        sys.exit(f"{' '.join(command)}: {(done.stderr or done.stdout).strip()[-300:]}")
    return done.stdout


def facts():
    """The names of facts by their numbers."""
    with open(os.path.join(HERE, "..", "src", "volume", "model.hpp")) as f:
        enum = re.search(r"enum class Fact.*?\n};", f.read(), re.S).group(0)
    return {int(number): name for name, number in re.findall(r"(\w+) = (\d+)", enum)}


FACTS = facts()


def factors(packed):
    """{fact: its factor on the chance} of an entry's evidence, as docs/shelf-format.md has it."""
    out, at = {}, 0

    def number():
        nonlocal at
        value = shift = 0
        while True:
            byte = packed[at]
            at += 1
            value |= (byte & 0x7F) << shift
            shift += 7
            if not byte & 0x80:
                return value

    while at < len(packed):
        fact = number()
        number(), number()
        length = number()
        at += length
        chance, _ = struct.unpack_from("<ff", packed, at)
        at += 8
        out[FACTS.get(fact, str(fact))] = out.get(FACTS.get(fact, str(fact)), 1) * chance
    return out


def unpack(image, to):
    if image.endswith(".gz"):
        with gzip.open(image) as packed, open(to, "wb") as out:
            shutil.copyfileobj(packed, out)
    else:
        subprocess.run(["zstd", "-q", "-d", "-f", "--sparse", image, "-o", to], check=True)


def digest(path):
    with open(path, "rb") as f:
        return hashlib.file_digest(f, "sha256").hexdigest() if hasattr(hashlib, "file_digest") else hashlib.sha256(f.read()).hexdigest()


class Truth:
    """What was on a volume."""

    def __init__(self, path):
        with open(path) as f:
            told = json.load(f)
        self.unreadable = told.get("unreadable") or []
        self.writer = self.writer_of(told)
        files = [t for t in told["files"] if t.get("sha256")]
        self.contents = {t["sha256"] for t in files}
        self.named = {(self.name(t["path"]), t["sha256"]) for t in files}

    @staticmethod
    def writer_of(told):
        """Who wrote its first volume, the life before the last where it was formatted over: that has the lost files."""
        formats = (told.get("volumes") or [{}])[0].get("formats") or [{}]
        life = formats[-2] if len(formats) > 1 else formats[-1]
        return life.get("writer") or KERNELS.get((life.get("fs") or "").lower()[:3], "unknown")

    @staticmethod
    def name(path):
        return unicodedata.normalize("NFC", os.path.basename(path))

    def has(self, entry, content):
        """Was it there, under the name that it is listed by, where that is known in full?"""
        name = self.name(entry["name"]) + (":" + entry["stream"] if entry.get("stream") else "")
        sure = entry["name_certainty"] == "full" and any(name == known for known, _ in self.named)
        return content in self.contents and (not sure or (name, content) in self.named)


def rated(program, shelf, out, truth):
    """Every lost file of a shelf that has a length and a layout, with what its export came to."""
    run(program, "export", shelf, "--all", "--to", out)
    with open(os.path.join(out, "exported.jsonl")) as f:
        exported = {e["id"]: e for e in map(json.loads, f)}
    with sqlite3.connect(f"file:{shelf}?mode=ro", uri=True) as db:
        evidence = dict(db.execute("SELECT id, evidence FROM entries"))
    for entry in map(json.loads, run(program, "list", shelf, "--format", "jsonl").splitlines()):
        if entry["is_dir"] or entry["system"] or entry["origin"] == "live" or not entry["size"] or entry["layout"] == "none":
            continue
        path = exported.get(entry["id"], {}).get("path_in_bag")
        yield entry, bool(path) and truth.has(entry, digest(os.path.join(out, path))), factors(evidence.get(entry["id"]) or b"")
    shutil.rmtree(out)


def measure(program, image):
    name = os.path.basename(image).split(".img.")[0]
    truth = Truth(image.split(".img.")[0] + ".truth.json")
    with tempfile.TemporaryDirectory() as work:
        source, shelf, out = (os.path.join(work, n) for n in ("volume.img", "volume.shelf", "out"))
        unpack(image, source)
        bad = []
        if truth.unreadable:
            bad = ["--unreadable", os.path.join(work, "bad.csv")]
            with open(bad[1], "w") as f:
                f.write("offset,length\n" + "".join(f"{at},{length}\n" for at, length in truth.unreadable))
        run(program, "scan", source, "--shelf", shelf, "--reach", "traces", *bad)
        for rating in RATINGS:
            if rating == "contents":
                run(program, "check", shelf)
            for entry, exact, by in rated(program, shelf, out, truth):
                passed = bool(entry["complete"]) and entry["holds_to"] == entry["size"]
                yield File(name, truth.writer, rating, entry["path"], entry["chance"], exact, entry["checked"] or "", passed, entry["grade"], by)


def in_bins(files):
    """For each bin of chances: how many files, their mean chance, the share that was exact."""
    bins = [[] for _ in range(BINS)]
    for f in files:
        bins[min(int(f.chance * BINS), BINS - 1)].append(f)
    return [(len(b), sum(f.chance for f in b) / len(b), sum(f.exact for f in b) / len(b)) if b else (0, 0, 0) for b in bins]


def brier(files):
    return sum((f.chance - f.exact) ** 2 for f in files) / len(files) if files else 0


def log_odds(chance):
    chance = min(max(chance, 0.001), 0.999)
    return math.log(chance / (1 - chance))


def line_through(files):
    """a and b of a + b x log odds, by maximum likelihood (Newton's method), drawn a little to 0 and 1 where there are few files."""
    a, b, pull = 0.0, 1.0, 1.0
    points = [(log_odds(f.chance), f.exact) for f in files]
    for _ in range(25):
        ga, gb, haa, hab, hbb = -pull * a, -pull * (b - 1), pull, 0.0, pull
        for x, y in points:
            p = 1 / (1 + math.exp(-max(-30, min(30, a + b * x))))
            w = p * (1 - p)
            ga, gb = ga + y - p, gb + (y - p) * x
            haa, hab, hbb = haa + w, hab + w * x, hbb + w * x * x
        det = haa * hbb - hab * hab
        a, b = a + (hbb * ga - hab * gb) / det, b + (haa * gb - hab * ga) / det
    return a, b


def corrected(files, by):
    """Brier score of these files with their chances set right by what the others say."""
    a, b = line_through(by)
    return brier([f._replace(chance=1 / (1 + math.exp(-max(-30, min(30, a + b * log_odds(f.chance)))))) for f in files])


def odds_off(files):
    """The factor on the odds that would make chances and outcomes agree, by maximum likelihood, drawn a little to 1 where there are few files."""
    a, pull = 0.0, 1.0
    points = [(log_odds(f.chance), f.exact) for f in files]
    for _ in range(50):
        g, h = -pull * a, pull
        for x, y in points:
            p = 1 / (1 + math.exp(-max(-30, min(30, a + x))))
            g, h = g + y - p, h + p * (1 - p)
        a += max(-2, min(2, g / h))
    return math.exp(a)


def evidence_table(files):
    """A row for each kind of evidence that had an effect on some file's chance."""
    lines = ["| rated by | evidence | files | writers | factor | mean chance | exact | odds, all writers | least and most, one left out |",
             "|---|---|---|---|---|---|---|---|---|"]
    for rating in RATINGS:
        some = [f for f in files if f.rating == rating and f.chance > 0]
        for fact in FACTS.values():
            its = [f for f in some if abs(f.evidence.get(fact, 1) - 1) > 1e-6]
            if len(its) < ENOUGH:
                continue
            by = sorted(f.evidence[fact] for f in its)
            writers = sorted({f.writer for f in its})
            left_out = [odds_off([f for f in its if f.writer != w]) for w in writers] if len(writers) > 1 else []
            spread = f"{min(left_out):.2g} to {max(left_out):.2g}" if left_out else "one writer"
            factor = f"{by[0]:.3g}" if by[0] == by[-1] else f"{by[0]:.3g} to {by[-1]:.3g}"
            lines.append(f"| {rating} | {fact} | {len(its)} | {len(writers)} | {factor} | {sum(f.chance for f in its) / len(its):.3f} "
                         f"| {sum(f.exact for f in its) / len(its):.3f} | {odds_off(its):.2g} | {spread} |")
    return "\n".join(lines) + "\n"


EVIDENCE_HEAD = """# What each piece of evidence came to

Written by `bench/calibration.py`. For each kind of evidence the lost files whose chance it changed and that have one: the factors that it had, the
chance that they were told in the mean, the share that came back exact, and by what their odds would have to be multiplied to be right. Above 1 they
were doubted too much, below 1 too little. The last column leaves out one writer at a time: where it has 1 in it, the data do not say otherwise. Files
share evidence, so that a row is about its files, not about its factor alone; where nearly all of them are exact the odds say little but that.

These volumes were used for hours after files on them were deleted; what customers bring was used for weeks. That nobody has written over free bytes
(`not_reused`) is therefore told with less certainty than these volumes bear out, and all rows share that.

"""


def report_writers(files):
    print(f"\n{'writer':12} {'files':>7} {'Brier':>8} {'by others':>10} {'likely':>7} {'wrong':>6} {'trusted':>8}")
    for writer in sorted({f.writer for f in files}):
        own, others = [f for f in files if f.writer == writer], [f for f in files if f.writer != writer]
        likely = [f for f in own if f.grade in ("likely", "verified")]
        exact = [f for f in own if f.exact]
        trusted = f"{100 * sum(f.exact for f in likely) / len(exact):7.1f}%" if exact else f"{'-':>8}"
        print(f"{writer:12} {len(own):7} {brier(own):8.4f} {corrected(own, others):10.4f} {len(likely):7} {sum(not f.exact for f in likely):6} {trusted}")


def report(files):
    for rating in RATINGS:
        some = [f for f in files if f.rating == rating]
        bins = in_bins(some)
        worst = max((abs(chance - share) for n, chance, share in bins if n >= ENOUGH), default=0)
        print(f"\n{rating}: {len(some)} files, Brier score {brier(some):.4f}, "
              f"farthest from the diagonal {worst:.3f} (bins of {ENOUGH} files and more)")
        print(f"{'chance':>10} {'files':>7} {'mean':>7} {'exact':>7} {'off':>7}")
        for i, (n, chance, share) in enumerate(bins):
            if n:
                print(f"{i / BINS:.1f} to {(i + 1) / BINS:.1f} {n:7} {chance:7.3f} {share:7.3f} {share - chance:+7.3f}")
        report_writers(some)
    print(f"\n{'check that passed':20} {'files':>7} {'wrong':>7}")
    for strength in ("strong", "fair", "weak"):
        passed = [f for f in files if f.rating == "contents" and f.checked == strength and f.passed]
        wrong = sum(not f.exact for f in passed)
        print(f"{strength:20} {len(passed):7} {wrong:7}" + (f"   1 in {len(passed) / wrong:.0f}" if wrong else ""))
    print(f"\n{'check that failed':20} {'files':>7} {'exact':>7}")
    for strength in ("strong", "fair", "weak"):
        failed = [f for f in files if f.rating == "contents" and f.checked == strength and not f.passed]
        print(f"{strength:20} {len(failed):7} {sum(f.exact for f in failed):7}")


INK, PALE, CURVE = (0.16, 0.18, 0.22), (0.85, 0.86, 0.88), (0.13, 0.36, 0.48)
WIDTH, HEIGHT, SIDE, LEFT, TOP = 1280, 760, 480, 120, 120


class Panel:
    """One square of the figure: chance to the right, share that was exact upwards."""

    def __init__(self, context, left, title):
        self.c, self.left, self.title = context, left, title

    def at(self, chance, share):
        return self.left + chance * SIDE, TOP + (1 - share) * SIDE

    def width(self, words, size):
        self.c.set_font_size(size)
        return self.c.text_extents(words).x_advance

    def text(self, x, y, words, size=18, centred=False, colour=INK):
        self.c.set_source_rgb(*colour)
        self.c.set_font_size(size)
        width = self.c.text_extents(words).x_advance
        self.c.move_to(x - (width / 2 if centred else 0), y)
        self.c.show_text(words)

    def frame(self):
        c = self.c
        self.text(self.left, TOP - 24, self.title, 22)
        c.set_line_width(1)
        for i in range(0, BINS + 1, 2):
            c.set_source_rgb(*PALE)
            for a, b in (((0, i / BINS), (1, i / BINS)), ((i / BINS, 0), (i / BINS, 1))):
                c.move_to(*self.at(*a))
                c.line_to(*self.at(*b))
            c.stroke()
            x, y = self.at(i / BINS, 0)
            self.text(x, y + 26, f"{i / BINS:.1f}", 16, centred=True)
            x, y = self.at(0, i / BINS)
            self.text(x - 40, y + 6, f"{i / BINS:.1f}", 16)
        x, y = self.at(0.5, 0)
        self.text(x, y + 56, "chance that was told", 18, centred=True)
        c.save()
        c.translate(self.left - 62, TOP + SIDE / 2)
        c.rotate(-1.5708)
        self.text(0, 0, "share that came back exact", 18, centred=True)
        c.restore()
        c.set_source_rgb(*INK)
        c.set_dash([6, 5])
        c.move_to(*self.at(0, 0))
        c.line_to(*self.at(1, 1))
        c.stroke()
        c.set_dash([])

    def curve(self, files, colour):
        """Bins of enough files, as discs whose area tells how many; smaller bins as a small ring."""
        c = self.c
        labels = []
        c.set_source_rgb(*colour)
        for n, chance, share in in_bins(files):
            if not n:
                continue
            x, y = self.at(chance, share)
            c.new_sub_path()
            c.arc(x, y, 4 + 0.45 * min(n, 900) ** 0.5 if n >= ENOUGH else 3, 0, 7)
            c.set_line_width(2)
            c.fill() if n >= ENOUGH else c.stroke()
            if n >= ENOUGH:
                labels.append((f"{n} files, {share - chance:+.3f}", x, y, chance))
        # Room is right of the lower left corner, and below the upper right one, there with a line to each disc.
        lines = 0
        for words, x, y, chance in sorted(labels, key=lambda label: label[3]):
            if chance < 0.5:
                self.text(x + 26, y - 14, words, 16, colour=colour)
                continue
            at = TOP + 0.3 * SIDE + 30 * lines
            lines += 1
            end = self.left + 0.62 * SIDE
            self.text(end - self.width(words, 16), at, words, 16, colour=colour)
            c.set_line_width(1)
            c.move_to(end + 6, at - 6)
            c.line_to(x, y)
            c.stroke()


def draw(surface, files):
    c = cairo.Context(surface)
    c.set_source_rgb(1, 1, 1)
    c.paint()
    c.select_font_face("DejaVu Sans")
    for i, (rating, title) in enumerate(zip(RATINGS, ("Rated by metadata and first bytes", "Contents checked to their end"))):
        panel = Panel(c, LEFT + i * (SIDE + 130), title)
        panel.frame()
        panel.curve([f for f in files if f.rating == rating], CURVE)
    panel = Panel(c, LEFT, "")
    panel.text(LEFT, 50, "Chance against outcome: share of lost files that came back byte for byte", 26)
    y = HEIGHT - 46
    panel.text(LEFT, y, f"{len({f.volume for f in files})} volumes by {len({f.writer for f in files})} writers; discs: the larger, the more files", 16)
    panel.text(LEFT + 780, y, f"small rings: fewer than {ENOUGH} files", 16)


def main():
    arguments = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    arguments.add_argument("--bin", default=os.path.join(HERE, "..", "build", "undershelf"))
    arguments.add_argument("--to", default=os.path.join(HERE, "..", "build", "calibration"))
    arguments.add_argument("folders", nargs="*", default=[os.path.join(HERE, "..", "demo")])
    options = arguments.parse_args()
    images = sorted((i for folder in options.folders for i in glob.glob(os.path.join(folder, "*.img.*"))
                     if os.path.exists(i.split(".img.")[0] + ".truth.json")), key=os.path.basename)
    if not images:
        sys.exit("no volumes with a truth beside them in " + ", ".join(options.folders))
    files = []
    for number, image in enumerate(images):
        files += measure(os.path.abspath(options.bin), image)
        print(f"\r{number + 1} of {len(images)} volumes", end="", file=sys.stderr, flush=True)
    print(file=sys.stderr)
    os.makedirs(options.to, exist_ok=True)
    with open(os.path.join(options.to, "calibration.csv"), "w", newline="") as f:
        csv.writer(f).writerows([File._fields[:-1], *(row[:-1] for row in files)])
    with open(os.path.join(options.to, "evidence.md"), "w") as f:
        f.write(EVIDENCE_HEAD + evidence_table(files))
    report(files)
    png = cairo.ImageSurface(cairo.FORMAT_RGB24, WIDTH, HEIGHT)
    draw(png, files)
    png.write_to_png(os.path.join(options.to, "calibration.png"))
    with cairo.SVGSurface(os.path.join(options.to, "calibration.svg"), WIDTH, HEIGHT) as svg:
        draw(svg, files)


if __name__ == "__main__":
    main()
