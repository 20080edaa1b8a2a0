"""Empty HFS+ volumes, written from Apple's TN1150, and their journals: the kernel's driver writes every file afterwards, and
record_changes() then adds what it changed to the journal, as a journaling driver does."""
import struct


def format_volume(path, size, label, when, block=4096, node=8192, catalog_nodes=None, case_sensitive=False, journal=0):
    """when: seconds since 1970 UTC. journal: bytes of journal to lay out, empty."""
    blocks = size // block
    now = int(when) + 2082844800
    bitmap_blocks = -(-(-(-blocks // 8)) // block)
    ext_node = 4096
    ext_blocks = max(1, ext_node * 16 // block)
    cat_nodes = catalog_nodes or max(64, size // (1 << 20) * 4)
    cat_blocks = -(-cat_nodes * node // block)
    cat_nodes = cat_blocks * block // node
    first = -(-1536 // block)            # boot blocks and the volume header
    bitmap_at = first
    ext_at = bitmap_at + bitmap_blocks
    cat_at = ext_at + ext_blocks
    jib_at = cat_at + cat_blocks
    used_end = jib_at + (1 + journal // block if journal else 0)
    tail = 1 if block >= 1024 else 2     # the alternate header's block(s)
    used = bytearray(bitmap_blocks * block)
    taken = list(range(used_end)) + list(range(blocks - tail, blocks))
    for b in taken:
        used[b >> 3] |= 0x80 >> (b & 7)

    def fork(nbytes, start, count, clump):
        return struct.pack(">QII", nbytes, clump, count) + struct.pack(">II", start, count) + b"\0" * 56

    def header_node(nsize, nodes, depth, root, records, first_leaf, last_leaf, free, max_key, attrs, clump, compare=0):
        n = bytearray(nsize)
        n[0:14] = struct.pack(">IIbBHH", 0, 0, 1, 0, 3, 0)
        n[14:14 + 106] = struct.pack(">HIIIIHHIIHIBBI", depth, root, records, first_leaf, last_leaf, nsize, max_key, nodes, free, 0, clump, 0, compare, attrs) + b"\0" * 64
        mapoff = 14 + 106 + 128
        map_len = nsize - mapoff - 8
        for i in range(nodes - free):
            n[mapoff + (i >> 3)] |= 0x80 >> (i & 7)
        n[nsize - 2:nsize] = struct.pack(">H", 14)
        n[nsize - 4:nsize - 2] = struct.pack(">H", 14 + 106)
        n[nsize - 6:nsize - 4] = struct.pack(">H", mapoff)
        n[nsize - 8:nsize - 6] = struct.pack(">H", mapoff + map_len)
        assert nodes <= map_len * 8, "catalogue too big for one map node"
        return n

    name = label.encode("utf-16-be")
    nlen = len(label)
    folder = struct.pack(">HHIIIIIII", 1, 0, 0, 2, now, now, now, 0, 0) + struct.pack(">IIBBHI", 0, 0, 0, 0, 0o40755, 0) + b"\0" * 32 + struct.pack(">II", 0, 0)
    rec1 = struct.pack(">HIH", 6 + nlen * 2, 1, nlen) + name + folder
    rec2 = struct.pack(">HIH", 6, 2, 0) + struct.pack(">HHIH", 3, 0, 1, nlen) + name
    leaf = bytearray(node)
    leaf[0:14] = struct.pack(">IIbBHH", 0, 0, -1, 1, 2, 0)
    o = 14
    offs = []
    for r in (rec1, rec2):
        offs.append(o)
        leaf[o:o + len(r)] = r
        o += len(r)
    offs.append(o)
    for i, x in enumerate(offs):
        leaf[node - 2 * (i + 1):node - 2 * i if i else node] = struct.pack(">H", x)
    cat = header_node(node, cat_nodes, 1, 1, 2, 1, 1, cat_nodes - 2, 516, 6, cat_blocks * block, 0xBC if case_sensitive else 0xCF) + leaf
    ext_nodes = ext_blocks * block // ext_node
    ext = header_node(ext_node, ext_nodes, 0, 0, 0, 0, 0, ext_nodes - 1, 10, 2, ext_blocks * block)
    free = blocks - len(taken)
    vh = struct.pack(">2sHI4sI", b"HX" if case_sensitive else b"H+", 5 if case_sensitive else 4, 0x100 | (0x2000 if journal else 0),
                     b"HFSJ" if journal else b"10.0", jib_at if journal else 0)
    vh += struct.pack(">IIII", now, now, 0, now) + struct.pack(">II", 0, 0)
    vh += struct.pack(">IIIIIII", block, blocks, free, used_end, 65536, 65536, 16) + struct.pack(">IQ", 1, 1)
    vh += b"\0" * 32
    vh += fork(bitmap_blocks * block, bitmap_at, bitmap_blocks, bitmap_blocks * block)
    vh += fork(ext_blocks * block, ext_at, ext_blocks, ext_blocks * block)
    vh += fork(cat_blocks * block, cat_at, cat_blocks, cat_blocks * block)
    vh += b"\0" * 160
    assert len(vh) == 512
    with open(path, "r+b") as f:
        def put(at, data):
            f.seek(at)
            f.write(data)
        put(0, b"\0" * 1536)
        put(1024, vh)
        put(blocks * block - 1024, vh)
        put(bitmap_at * block, bytes(used))
        put(ext_at * block, bytes(ext))
        put(cat_at * block, bytes(cat))
        if journal:
            put(jib_at * block, struct.pack(">I32sQQ", 1, b"", (jib_at + 1) * block, journal).ljust(block, b"\0"))
            put((jib_at + 1) * block, journal_header(512, 512, journal).ljust(512, b"\0"))


def checksum(data):
    c = 0
    for b in data:
        c = ((c << 8) ^ (c + b)) & 0xFFFFFFFF
    return ~c & 0xFFFFFFFF


def journal_header(start, end, size):
    """Journal header and block lists are in the writing machine's byte order: little-endian here."""
    h = struct.pack("<IIQQQIII", 0x4A4E4C78, 0x12345678, start, end, size, 4096, 0, 512)
    return h[:36] + struct.pack("<I", checksum(h[:44])) + h[40:]


def special_blocks(path):
    """{offset: 4096 bytes} of the header, bitmap, extents and catalogue files (inline extents only)."""
    with open(path, "rb") as f:
        f.seek(1024)
        vh = f.read(512)
        block = struct.unpack(">I", vh[40:44])[0]
        out = {0: None}
        for fork in (112, 192, 272):
            for k in range(8):
                at, n = struct.unpack(">II", vh[fork + 16 + k * 8:fork + 24 + k * 8])
                for o in range(at * block, (at + n) * block, 4096):
                    out[o] = None
        for o in out:
            f.seek(o)
            out[o] = f.read(4096)
    return out


def record_changes(path, before):
    """Writes one transaction per 60 changed blocks (their new images) into the ring and leaves it as after a clean unmount:
    nothing open. before: what special_blocks() gave."""
    with open(path, "r+b") as f:
        f.seek(1024)
        vh = f.read(512)
        block, jib = struct.unpack(">I", vh[40:44])[0], struct.unpack(">I", vh[12:16])[0]
        f.seek(jib * block)
        _, _, jat, jsize = struct.unpack(">I32sQQ", f.read(52))
        f.seek(jat)
        end = struct.unpack("<IIQQQIII", f.read(44))[3]
        after = special_blocks(path)
        changed = [(o, d) for o, d in sorted(after.items()) if before.get(o) != d]

        def ring(at, data):
            for i in range(0, len(data), 512):
                pos = 512 + (at - 512 + i) % (jsize - 512)
                f.seek(jat + pos)
                f.write(data[i:i + 512])
        for i in range(0, len(changed), 60):
            part = changed[i:i + 60]
            infos = struct.pack("<QII", 0, 0, 0) + b"".join(struct.pack("<QII", o // 512, 4096, 0) for o, _ in part)
            used = 4096 + 4096 * len(part)
            head = struct.pack("<HHIII", (4096 - 16) // 16, len(part) + 1, used, 0, 0) + infos
            head = head[:8] + struct.pack("<I", checksum(head[:32])) + head[12:]
            ring(end, head.ljust(4096, b"\0") + b"".join(d for _, d in part))
            end = 512 + (end - 512 + used) % (jsize - 512)
        f.seek(jat)
        f.write(journal_header(end, end, jsize))
        return len(changed)
