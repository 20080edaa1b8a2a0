#!/usr/bin/env python3
"""Writes an HFS+ image with many small files: headers, bitmap and catalogue directly, contents left as holes.

usage: bench/make_hfsplus_volume.py IMAGE FILES        about half a KiB of catalogue a file

Writes beside it IMAGE.records, the catalogue file alone, for `cat` to be measured on.
"""
import struct
import sys

BLOCK, NODE = 4096, 8192
WHEN = 3_792_355_200


def key(parent, name):
    return struct.pack(">HIH", 6 + 2 * len(name), parent, len(name)) + name.encode("utf-16-be")


def folder(number, parent, name):
    return key(parent, name) + struct.pack(">HHIIIIIIIIIBBHI32sII", 1, 0, 0, number, WHEN, WHEN, WHEN, WHEN, 0, 0, 0, 0, 0, 0o40755, 0, b"", 0, 0)


def fork(size, start, count):
    return struct.pack(">QII", size, 0, count) + (struct.pack(">II", start, count) if count else b"").ljust(64, b"\0")


def file(number, parent, name, size, start):
    head = struct.pack(">HHIIIIIIIIIBBHI32sII", 2, 2, 0, number, WHEN, WHEN, WHEN, WHEN, 0, 0, 0, 0, 0, 0o100644, 1, b"", 0, 0)
    return key(parent, name) + head + fork(size, start, -(-size // BLOCK)) + fork(0, 0, 0)


def thread(number, parent, name, kind):
    return key(number, "") + struct.pack(">HHIH", kind, 0, parent, len(name)) + name.encode("utf-16-be")


def node(kind, height, records, forward, back):
    out = bytearray(NODE)
    out[:14] = struct.pack(">IIbBHH", forward, back, kind, height, len(records), 0)
    at = 14
    for i, r in enumerate(records):
        out[at:at + len(r)] = r
        out[NODE - 2 * (i + 1):NODE - 2 * i or None] = struct.pack(">H", at)
        at += len(r)
    out[NODE - 2 * (len(records) + 1):NODE - 2 * len(records)] = struct.pack(">H", at)
    return bytes(out)


def in_nodes(records, kind, height, first_node):
    """The nodes of one level, and the key and number of each for the level above."""
    groups, room = [[]], NODE - 16
    for r in records:
        if len(r) + 2 > room:
            groups.append([])
            room = NODE - 16
        groups[-1].append(r)
        room -= len(r) + 2
    last = first_node + len(groups) - 1
    nodes = [node(kind, height, g, first_node + i + 1 if first_node + i < last else 0, first_node + i - 1 if i else 0) for i, g in enumerate(groups)]
    above = [g[0][:2 + struct.unpack(">H", g[0][:2])[0]] + struct.pack(">I", first_node + i) for i, g in enumerate(groups)]
    return nodes, above


def catalogue(files, content):
    folders = max(1, files // 1000)
    first_folder, first_file = 16, 16 + folders
    records = [folder(2, 1, "Stage"), thread(2, 1, "Stage", 3)]
    records += [folder(first_folder + i, 2, f"Season {i:05}") for i in range(folders)]
    start = content
    for f in range(folders):
        records.append(thread(first_folder + f, 2, f"Season {f:05}", 3))
        for i in range(f * files // folders, (f + 1) * files // folders):
            size = 1 + i * 7919 % 20000
            records.append(file(first_file + i, first_folder + f, f"cue sheet {i:07}.csv", size, start))
            start += -(-size // BLOCK)
    records += [thread(first_file + i, first_folder + i * folders // files, f"cue sheet {i:07}.csv", 4) for i in range(files)]
    leaves, above = in_nodes(records, -1, 1, 1)
    nodes, height, root = leaves, 1, 1
    while len(above) > 1:
        height += 1
        level, above = in_nodes(above, 0, height, 1 + len(nodes))
        root = 1 + len(nodes)
        nodes = nodes + level
    total = len(nodes) + 1
    map_room = (NODE - 14 - 106 - 128 - 8) * 8
    map_nodes, bits = [], total - map_room
    while bits > 0:
        map_nodes.append(min(bits, (NODE - 20) * 8))
        bits -= map_nodes[-1]
    total += len(map_nodes)
    header = struct.pack(">HIIIIHHIIHIBBI", height, root, len(records), 1, len(leaves), NODE, 516, total, 0, 0, NODE, 0, 0xCF, 6) + b"\0" * 64
    first_map = 1 + len(nodes)
    out = [node(1, 0, [header, b"\0" * 128, b"\xff" * (map_room // 8)], first_map if map_nodes else 0, 0)] + nodes
    for i in range(len(map_nodes)):
        out.append(node(2, 0, [b"\xff" * (NODE - 20)], first_map + i + 1 if i + 1 < len(map_nodes) else 0, 0))
    return out, start, first_file + files


def main():
    image, files = sys.argv[1], int(sys.argv[2])
    # The contents stand before the catalogue, so that their places are known first.
    content = 64 + files // 8 // BLOCK * 4
    nodes, end, next_id = catalogue(files, content)
    catalogue_blocks = len(nodes) * NODE // BLOCK
    blocks = end + catalogue_blocks + 16
    bitmap_blocks = -(-blocks // 8 // BLOCK) + 1
    assert 2 + bitmap_blocks + 1 <= content
    header = struct.pack(">HHI4sI", 0x482B, 4, 0x100, b"10.0", 0) + struct.pack(">IIII", WHEN, WHEN, 0, WHEN)
    header += struct.pack(">IIIIIIIIIIQ", files, 1, BLOCK, blocks, 0, 0, 0, 0, next_id, 1, 1) + b"\0" * 32
    header = header.ljust(112, b"\0") + fork(bitmap_blocks * BLOCK, 2, bitmap_blocks) + fork(BLOCK, 2 + bitmap_blocks, 1)
    header += fork(len(nodes) * NODE, end, catalogue_blocks) + fork(0, 0, 0) + fork(0, 0, 0)
    with open(image, "wb") as f:
        f.truncate(blocks * BLOCK)
        for at in (1024, blocks * BLOCK - 1024):
            f.seek(at)
            f.write(header)
        f.seek(2 * BLOCK)
        f.write(b"\xff" * (blocks // 8))
        extents = bytearray(BLOCK)
        extents[:14] = struct.pack(">IIbBHH", 0, 0, 1, 0, 0, 0)
        extents[14 + 18:14 + 20] = struct.pack(">H", BLOCK)
        f.seek((2 + bitmap_blocks) * BLOCK)
        f.write(extents)
        f.seek(end * BLOCK)
        f.writelines(nodes)
    with open(image + ".records", "wb") as f:
        f.writelines(nodes)


main()
