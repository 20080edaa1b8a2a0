"""Packing a finished image, and where it goes, with the truth of what was ever on it."""
import gzip
import json
import os
import sys
import tempfile

import theatre


def pack(image, out):
    with open(image, "rb") as f, gzip.GzipFile(out, "wb", 9, mtime=0) as z:
        z.write(f.read())


def make(name, build, copy_of=None):
    """Calls build(path of the image to write) and packs the image as NAME.img.gz beside this file, or where the command line says. Beside
    it, NAME.truth.json tells what was put on it: bench/calibration.py holds chances against that."""
    out = sys.argv[1] if len(sys.argv) > 1 else os.path.join(os.path.dirname(os.path.abspath(__file__)), name + ".img.gz")
    with tempfile.TemporaryDirectory() as work:
        image = os.path.join(work, "volume.img")
        build(image)
        pack(image, out)
    truth = {"files": [{"path": path, "sha256": digest} for path, digest in sorted(theatre.made.items())]}
    if copy_of:
        with open(os.path.join(os.path.dirname(os.path.abspath(__file__)), copy_of + ".truth.json")) as f:
            truth = json.load(f)
    with open(out.removesuffix(".img.gz") + ".truth.json", "w") as f:
        json.dump(truth, f, ensure_ascii=False, indent=0)
        f.write("\n")
