#!/usr/bin/env python3
"""Holds the includes of src/ against the order of rooms in docs/architecture.md: a room knows only rooms below it. Says as well which
files include each other in a circle, and which are too long.

usage: scripts/check_rooms.py [REPOSITORY]        exit status 1 where something is wrong
"""
import pathlib
import re
import sys

MOST_LINES = 400
INCLUDE = re.compile(r'#include "([^"]+)"')


def order_of(document):
    """The rooms, from the top down: the names that begin the lines of the first block of code; those on one line do not know each other."""
    block = document.split("```")[1]
    rows = []
    for line in block.splitlines():
        rooms = re.match(r"((?:[a-z]+/ *)+)", line)
        if rooms:
            rows.append(rooms.group(1).replace("/", " ").split())
    return rows


def includes_of(path):
    return INCLUDE.findall(path.read_text())


def circles(graph):
    """Files that are reached from themselves."""
    state, found = {}, []

    def visit(start):
        stack = [(start, iter(graph.get(start, ())))]
        state[start] = "open"
        while stack:
            file, rest = stack[-1]
            for other in rest:
                if state.get(other) == "open":
                    way = [f for f, _ in stack]
                    found.append(way[way.index(other):] + [other])
                elif other not in state:
                    state[other] = "open"
                    stack.append((other, iter(graph.get(other, ()))))
                    break
            else:
                state[file] = "done"
                stack.pop()

    for file in sorted(graph):
        if file not in state:
            visit(file)
    return found


def main():
    root = pathlib.Path(sys.argv[1] if len(sys.argv) > 1 else pathlib.Path(__file__).parent.parent)
    rows = order_of((root / "docs/architecture.md").read_text())
    floor = {room: i for i, row in enumerate(rows) for room in row}
    wrong = []
    graph = {}
    files = sorted(p for folder in ("src", "tests", "fuzz", "bench") for p in (root / folder).rglob("*.[ch]pp"))
    for path in files:
        name = path.relative_to(root)
        lines = path.read_text().count("\n")
        if lines > MOST_LINES:
            wrong.append(f"{name} has {lines} lines; {MOST_LINES} are the most.")
        if name.parts[0] != "src":
            continue
        room = name.parts[1]
        if room not in floor:
            wrong.append(f"docs/architecture.md does not know the room {room}/.")
            continue
        key = str(pathlib.Path(*name.parts[1:]))
        graph[key] = [i for i in includes_of(path) if (root / "src" / i).exists()]
        if path.name.endswith("_test.cpp"):
            continue
        for other in graph[key]:
            there = other.split("/")[0]
            if there != room and floor.get(there, -1) <= floor[room]:
                wrong.append(f"{name} includes {other}: {there}/ is not below {room}/.")
    for room in floor:
        if not (root / "src" / room).is_dir():
            wrong.append(f"docs/architecture.md names the room {room}/, which does not exist.")
    wrong += [f"These include each other: {' -> '.join(way)}." for way in circles(graph)]
    for sentence in wrong:
        print(sentence)
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
