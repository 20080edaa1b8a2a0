#!/usr/bin/env python3
"""Changes one line of a room at a time, and says which changes no test notices.

usage: scripts/mutate.py ROOM [--count N] [--seed N] [--tests unit|all] [--build FOLDER]

Lines and changes are drawn by the seed, which is printed; nobody chooses them. Each change is built in a copy of the
repository, and the unit tests of the room and those that run the program are run against it, the quick ones first. Changes that do not
compile are drawn again. Prints one line a change, and how many of them were noticed. Needs a configured build
folder with the tests in it, whose options the copy takes over.
"""
import argparse
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile

# What is looked for in a line, and what it becomes. Nothing in comments, texts, includes and declarations alone.
CHANGES = [
    (r"(?<![<>=!+\-*/&|])<(?![<>=:\w])|(?<= )<(?= )", "<="),
    (r"(?<= )>(?= )", ">="),
    (r"(?<= )<=(?= )", "<"),
    (r"(?<= )>=(?= )", ">"),
    (r"==", "!="),
    (r"!=", "=="),
    (r"&&", "||"),
    (r"\|\|", "&&"),
    (r"(?<= )\+(?= )", "-"),
    (r"(?<= )-(?= )", "+"),
    (r"(?<= )\*(?= )", "/"),
    (r"\btrue\b", "false"),
    (r"\bfalse\b", "true"),
    (r"\breturn std::nullopt;", ";"),
    (r"\bcontinue;", ";"),
    (r"\bbreak;", ";"),
    (r"(?<=[ (])!(?=\w)", ""),
    (r"(?<![\w.])1(?![\w.'])", "2"),
    (r"(?<![\w.])0(?![\w.'xu])", "1"),
    (r"std::min\b", "std::max"),
    (r"std::max\b", "std::min"),
]


def places(room):
    """All (file, line number, change) that could be drawn."""
    out = []
    for folder, _, names in os.walk(os.path.join("src", room)):
        for name in sorted(names):
            if not name.endswith((".cpp", ".hpp")) or name.endswith("_test.cpp"):
                continue
            path = os.path.join(folder, name)
            for number, line in enumerate(open(path), 1):
                code = re.sub(r'"(\\.|[^"\\])*"', lambda m: " " * len(m.group()), line.split("//")[0])
                if re.match(r"\s*(#|static_assert|namespace|using|template|struct|class|enum|\*|constexpr|inline constexpr)", code):
                    continue
                for pattern, new in CHANGES:
                    for match in re.finditer(pattern, code):
                        out.append((path, number, match.start(), match.end(), new))
    return out


def changed(path, number, start, end, new):
    lines = open(path).read().split("\n")
    line = lines[number - 1]
    lines[number - 1] = line[:start] + new + line[end:]
    return "\n".join(lines), line.strip(), lines[number - 1].strip()


def run(command, cwd, seconds):
    """Exit status; 124 where it took too long."""
    try:
        return subprocess.run(command, cwd=cwd, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, timeout=seconds).returncode
    except subprocess.TimeoutExpired:
        return 124


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("room")
    parser.add_argument("--count", type=int, default=20)
    parser.add_argument("--seed", type=int, default=None)
    parser.add_argument("--tests", choices=["unit", "all"], default="all")
    parser.add_argument("--build", default="build")
    asked = parser.parse_args()
    seed = asked.seed if asked.seed is not None else random.SystemRandom().randrange(1 << 32)
    print(f"room {asked.room}, seed {seed}", flush=True)
    all_places = places(asked.room)
    if not all_places:
        sys.exit(f"There is no code to change in src/{asked.room}.")
    draw = random.Random(seed)
    with tempfile.TemporaryDirectory() as work:
        copy = os.path.join(work, "copy")
        shutil.copytree(".", copy, ignore=shutil.ignore_patterns("build*", ".git", "demo-run"))
        options = [f"-D{name}={value}" for name, value in cached(asked.build).items()]
        subprocess.run(["cmake", "-S", copy, "-B", f"{copy}/build", "-G", "Ninja", *options], check=True, stdout=subprocess.DEVNULL)
        build = ["ninja", "-C", f"{copy}/build", "undershelf", "unit_tests", *(["program_tests"] if asked.tests == "all" else [])]
        if run(build, copy, 3600) != 0:
            sys.exit("The code does not build as it is.")
        noticed, done = 0, 0
        while done < asked.count:
            path, number, start, end, new = draw.choice(all_places)
            text, before, after = changed(path, number, start, end, new)
            there = os.path.join(copy, path)
            with open(there, "w") as f:
                f.write(text)
            verdict = judge(build, copy, asked.tests)
            shutil.copy(path, there)
            if verdict is None:
                continue
            done += 1
            noticed += verdict
            print(f"{'noticed ' if verdict else 'SURVIVED'} {path}:{number}: {before}  ->  {after}", flush=True)
    print(f"{noticed} of {done} noticed ({100 * noticed / done:.0f} of 100)")


def cached(build):
    """What the build folder was configured with, as far as it makes a difference."""
    out = {}
    with open(os.path.join(build, "CMakeCache.txt")) as f:
        for line in f:
            match = re.match(r"(CMAKE_CXX_COMPILER_LAUNCHER|CMAKE_CXX_COMPILER|UNDERSHELF_\w+):\w+=(.*)", line.strip())
            if match:
                out[match.group(1)] = match.group(2)
    return out | {"UNDERSHELF_TESTS": "ON"}


def judge(build, copy, tests):
    """True where a test notices, False where none does, None where it does not compile."""
    if run(build, copy, 1800) != 0:
        return None
    if run(["build/tests/unit_tests", "--gtest_fail_fast", "--gtest_brief=1"], copy, 600) != 0:
        return True
    if tests == "unit":
        return False
    return run(["ctest", "--test-dir", "build", "-j", str(os.cpu_count()), "--stop-on-failure", "-R", "", "--timeout", "300"], copy, 1800) != 0


if __name__ == "__main__":
    main()
