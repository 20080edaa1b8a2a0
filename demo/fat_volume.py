"""A FAT volume on an image, written and deleted with mtools. Needs dosfstools, mtools, faketime."""
import os
import subprocess
import tempfile

import theatre


class FatVolume:
    def __init__(self, path, size, bits, serial, label, now):
        self.path = path
        with open(path, "wb") as f:
            f.truncate(size)
        self.now = now
        self.format(bits, "1" if bits == 32 else "4", serial, label)

    def format(self, bits, sectors_per_cluster, serial, label):
        self.run("mkfs.fat", "-F", str(bits), "-s", str(sectors_per_cluster), "-i", serial, "-n", label, self.path)

    def run(self, *command):
        env = dict(os.environ, MTOOLS_SKIP_CHECK="1", TZ="UTC", LC_ALL="C.UTF-8")
        subprocess.run(["faketime", "-f", self.now, *command], check=True, env=env, stdout=subprocess.DEVNULL)

    def folder(self, *paths):
        for p in paths:
            self.run("mmd", "-i", self.path, "::/" + p)

    def put(self, path, size, kind=None):
        with tempfile.NamedTemporaryFile() as f:
            f.write(theatre.make(path, size, kind))
            f.flush()
            self.run("mcopy", "-i", self.path, "-o", f.name, "::/" + path)

    def delete(self, *paths):
        for p in paths:
            self.run("mdel", "-i", self.path, "::/" + p)

    def delete_tree(self, path):
        self.run("mdeltree", "-i", self.path, "::/" + path)

    def forget_hint(self):
        """Clears FSI_Nxt_Free: the next writer starts looking for room at the front, as devices without the hint do."""
        with open(self.path, "r+b") as f:
            f.seek(512 + 492)
            f.write(b"\xff\xff\xff\xff")

    def leave(self, place, content):
        """Puts content into free clusters at byte `place` of the volume, with no folder telling of it: as files stand there whose folders are long gone."""
        with open(self.path, "r+b") as f:
            f.seek(place)
            f.write(content)

    def scribble(self, path, size, at, scribbled):
        """Writes over what a file of put() has at offset `at`, as a device does that keeps something in free space for a moment."""
        content = theatre.make(path, size)
        with open(self.path, "r+b") as f:
            image = f.read()
            place = image.index(content[at:at + 512])
            f.seek(place)
            f.write(scribbled)
