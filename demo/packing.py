"""Packing a finished image, and where it goes."""
import gzip
import os
import sys
import tempfile


def pack(image, out):
    with open(image, "rb") as f, gzip.GzipFile(out, "wb", 9, mtime=0) as z:
        z.write(f.read())


def make(name, build):
    """Calls build(path of the image to write) and packs the image as NAME.img.gz beside this file, or where the command line says."""
    out = sys.argv[1] if len(sys.argv) > 1 else os.path.join(os.path.dirname(os.path.abspath(__file__)), name + ".img.gz")
    with tempfile.TemporaryDirectory() as work:
        image = os.path.join(work, "volume.img")
        build(image)
        pack(image, out)
