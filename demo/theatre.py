"""The papers of the Candlewick Lane marionette theatre: made-up files, the same at every run."""
import hashlib
import io
import random
import struct
import wave
import zipfile
import zlib

WORDS = ("curtain string puppet lantern velvet fox miller moon bridge candle thimble owl carriage violin "
         "trapdoor painted forest winter balcony rope whisper cue spotlight shadow drum silver masked dance").split()


def words(r, n):
    return " ".join(r.choice(WORDS) for _ in range(n))


def script(r, size):
    cast = ["FOX", "MILLER", "OWL", "THE MOON", "ODILE"]
    out = ["THE FOX UNDER THE BRIDGE\nA marionette play in three acts\n\n"]
    while sum(map(len, out)) < size:
        out.append(f"{r.choice(cast)}: {words(r, r.randint(6, 18)).capitalize()}.\n")
    return "".join(out)[:size].encode()


def cue_sheet(r, size):
    out = ["cue,at,lamp,level,note\n"]
    while sum(map(len, out)) < size:
        out.append(f"{len(out)},{r.randint(0, 89)}:{r.randint(0, 59):02},L{r.randint(1, 24)},{r.randint(5, 100)},{words(r, 3)}\n")
    return "".join(out).encode()


def ledger(r, size):
    out = ["number,prop,shelf,worth\n"]
    while sum(map(len, out)) < size:
        out.append(f"{r.randint(1000, 9999)},{words(r, 2)},{r.randint(1, 40)},{r.randint(1, 300)}.{r.randint(0, 99):02}\n")
    return "".join(out).encode()


def titled_picture(title, size):
    """The same as picture(), with a title inside."""
    return picture(random.Random(title), size, title)


def titled_sound(title, size):
    """The same as sound(), with a title inside."""
    plain = sound(random.Random(title), size)
    name = title.encode() + b"\0" + (b"\0" if len(title) % 2 == 0 else b"")
    info = b"INFO" + b"INAM" + struct.pack("<I", len(title) + 1) + name
    data = plain[8:] + b"LIST" + struct.pack("<I", len(info)) + info
    return b"RIFF" + struct.pack("<I", len(data)) + data


def picture(r, size, title=None):
    """A PNG of soft stripes with noise, about `size` bytes."""
    side = max(24, int((size / 3) ** 0.5))
    rows = bytearray()
    for y in range(side):
        rows += b"\0" + bytes((r.randrange(256) if c else (y * 3) & 255) for x in range(side) for c in range(3))

    def chunk(kind, data):
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
    return (b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", side, side, 8, 2, 0, 0, 0)) +
            (chunk(b"tEXt", b"Title\0" + title.encode()) if title else b"") + chunk(b"IDAT", zlib.compress(bytes(rows), 6)) + chunk(b"IEND", b""))


def sound(r, size):
    out = io.BytesIO()
    with wave.open(out, "wb") as w:
        w.setparams((1, 2, 22050, 0, "NONE", ""))
        w.writeframes(b"".join(struct.pack("<h", r.randint(-9000, 9000)) for _ in range(size // 2)))
    return out.getvalue()


def poster(r, size):
    """A one-page PDF whose drawing is a compressed stream."""
    drawing = zlib.compress("".join(f"{r.random():.3f} {r.random():.3f} {r.random():.3f} rg {r.randint(0, 500)} {r.randint(0, 700)} {r.randint(4, 90)} "
                                    f"{r.randint(4, 90)} re f\n" for _ in range(max(4, size // 24))).encode())
    objects = [b"<< /Type /Catalog /Pages 2 0 R >>", b"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
               b"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 4 0 R >>",
               b"<< /Length %d /Filter /FlateDecode >>\nstream\n%s\nendstream" % (len(drawing), drawing)]
    out, places = bytearray(b"%PDF-1.4\n"), []
    for number, body in enumerate(objects, 1):
        places.append(len(out))
        out += b"%d 0 obj\n%s\nendobj\n" % (number, body)
    start = len(out)
    out += b"xref\n0 5\n0000000000 65535 f \n" + b"".join(b"%010d 00000 n \n" % p for p in places)
    out += b"trailer\n<< /Size 5 /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n" % start
    return bytes(out)


def bundle(r, size):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as z:
        for i in range(4):
            z.writestr(zipfile.ZipInfo(f"act {i + 1}.txt", (2024, 5, 1, 12, 0, 0)), bytes(r.randrange(256) for _ in range(size // 4)))
    return out.getvalue()


KINDS = {"txt": script, "csv": cue_sheet, "ledger": ledger, "png": picture, "wav": sound, "pdf": poster, "zip": bundle}


made = {}  # SHA-256 of every content that was asked for, by the path it was made for


def make(name, size, kind=None):
    """The content of a file, decided by its name alone."""
    content = KINDS[kind or name.rsplit(".", 1)[-1].lower()](random.Random(name), size)
    note(name, content)
    return content


def note(name, content):
    """Keeps that a volume had this content under this name."""
    made[name] = hashlib.sha256(content).hexdigest()
