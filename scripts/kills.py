#!/usr/bin/python3
"""Kills commands at random moments, gives them again, and holds what they leave against an undisturbed run.

usage: scripts/kills.py [--bin PROGRAM] [--image FILE] [--scan N] [--check N] [--capture N] [--export N] [--seed S]

Without --image: the demo's card. Prints a line for each command: how many kills, how many were stuck (the command did not end as
it does undisturbed), and how many left other rows or bytes. Exits with 1 when any did.
"""
import argparse
import glob
import gzip
import hashlib
import os
import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time

HERE = os.path.dirname(os.path.abspath(__file__))


def rows(shelf):
    """All rows that two scans of one source must have alike."""
    db = sqlite3.connect(f"file:{shelf}?mode=ro", uri=True)
    out = []
    for (table,) in db.execute("SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY name").fetchall():
        if table != "scans":
            out += sorted(repr((table, row)) for row in db.execute(f"SELECT * FROM {table}"))
    db.close()
    return out


def digest(path):
    with open(path, "rb") as file:
        return hashlib.sha256(file.read()).hexdigest()


def bag(folder):
    lines = sorted(open(f"{folder}/exported.jsonl", encoding="utf-8"))
    files = sorted(f for f in glob.glob(f"{folder}/**", recursive=True, include_hidden=True) if os.path.isfile(f))
    return lines, [f[len(folder):] for f in files], [digest(f) for f in files if "/data/" in f]


class Trial:
    """One command, and how what it leaves is looked at."""

    def __init__(self, program, work, prepare, command, state):
        self.program, self.work, self.prepare, self.state = program, work, prepare, state
        self.command = [program, *command]

    def begin(self):
        shutil.rmtree(self.work, ignore_errors=True)
        os.makedirs(self.work)
        self.prepare(self.work)

    def run(self, kill_after=None):
        process = subprocess.Popen(self.command, cwd=self.work, stdout=subprocess.PIPE, stderr=subprocess.STDOUT)
        if kill_after is not None:
            time.sleep(kill_after)
            process.send_signal(signal.SIGKILL)
        out = process.communicate(timeout=300)[0].decode(errors="replace")
        return process.returncode, out

    def kills(self, count, seed):
        self.begin()
        began = time.time()
        status, _ = self.run()
        took = time.time() - began
        expected = self.state(self.work)
        chance = random.Random(seed)
        stuck = other = 0
        for _ in range(count):
            self.begin()
            for _ in range(chance.choice([1, 1, 2])):
                self.run(chance.uniform(0, took * 1.05))
            after, out = self.run()
            if after != status and "holds this export, finished" not in out:
                stuck += 1
                print(out, file=sys.stderr)
            elif self.state(self.work) != expected:
                other += 1
        return took, stuck, other


def main():
    options = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    options.add_argument("--bin", default=os.path.join(HERE, "..", "build", "undershelf"))
    options.add_argument("--image")
    options.add_argument("--seed", type=int, default=1)
    for name, count in (("scan", 300), ("check", 100), ("capture", 100), ("export", 100)):
        options.add_argument("--" + name, type=int, default=count)
    given = options.parse_args()
    program = os.path.abspath(given.bin)
    home = tempfile.mkdtemp(prefix="kills-")
    image = home + "/card.img"
    if given.image:
        shutil.copy(given.image, image)
    else:
        with gzip.open(os.path.join(HERE, "..", "demo", "theatre-card.img.gz")) as packed, open(image, "wb") as out:
            shutil.copyfileobj(packed, out)
    shelf = home + "/card.shelf"
    subprocess.run([program, "scan", image, "--shelf", shelf], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, check=False)

    def nothing(_):
        pass

    def with_shelf(work):
        shutil.copy(shelf, work)

    trials = {
        "scan": (nothing, ["scan", image, "--shelf", "a.shelf", "--reach", "content"], lambda w: rows(w + "/a.shelf")),
        "check": (with_shelf, ["check", "card.shelf"], lambda w: rows(w + "/card.shelf")),
        "capture": (nothing, ["capture", image, "copy.img", "--hash"],
                    lambda w: [digest(f"{w}/copy.img{s}") for s in ("", ".sha256", ".blocks.csv", ".coverage.csv")]),
        "export": (with_shelf, ["export", "card.shelf", "--to", "out", "--all"], lambda w: bag(w + "/out")),
    }
    bad = 0
    for name, (prepare, command, state) in trials.items():
        count = getattr(given, name)
        if count:
            took, stuck, other = Trial(program, home + "/work", prepare, command, state).kills(count, given.seed)
            print(f"{name}: {count} kills within {took:.2f} s, {stuck} stuck, {other} with other results", flush=True)
            bad += stuck + other
    shutil.rmtree(home)
    sys.exit(bad > 0)


if __name__ == "__main__":
    main()
