#!/usr/bin/env python3
"""Changes one line of a room at a time, and says which changes no test notices.

usage: scripts/mutate.py ROOM...|FILE:LINE... [--count N] [--seed N] [--slow] [--first SUITE,...] [--work FOLDER]

A room is a folder of src/. Lines and changes are drawn by the seed, which is printed; nobody chooses them. Each change
is built in a copy of the repository, and the unit tests of the room and then the tests that run the program are run
against it. A change that lets a test fail, crash or go on forever is noticed; one that does not
compile is drawn again. Prints a line for each change, one room after the other, and then for each room how many were
noticed; so it does when it is interrupted. Suites that --first names run before the others that run the program.

Tests that take more than two seconds, most of which kill the program at a hundred places or flip a million bytes, are
run with --slow alone: without them fewer changes are noticed, never more.

With FILE:LINE instead of a room, every change of that line is tried.

The copy is built once; with --work it stays, with how long each test takes, and the next run brings it up to date.
"""
import argparse
import glob
import json
import os
import random
import re
import resource
import shutil
import signal
import subprocess
import sys
import tempfile
import time

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


MEMORY = 6 << 30  # bytes that a test may take: a change can let it ask for ever more
QUICK, SLOW = 0.3, 2  # seconds


def limited():
    resource.setrlimit(resource.RLIMIT_DATA, (MEMORY, MEMORY))


def build(copy):
    """True where it builds."""
    command = ["ninja", "-C", f"{copy}/build", "undershelf", "unit_tests", "program_tests"]
    return subprocess.run(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL).returncode == 0


def prepare(copy):
    """Brings the copy up to date and builds it; files that did not change keep their time."""
    os.makedirs(copy, exist_ok=True)
    tracked = subprocess.run(["git", "ls-files", "-z"], check=True, capture_output=True, text=True).stdout.split("\0")
    for path in filter(None, tracked):
        there = os.path.join(copy, path)
        os.makedirs(os.path.dirname(there), exist_ok=True)
        if os.path.isfile(path) and not (os.path.isfile(there) and open(path, "rb").read() == open(there, "rb").read()):
            shutil.copy(path, there)
    flags = ["-DUNDERSHELF_TESTS=ON"]
    if shutil.which("ld.lld"):  # each change links everything anew
        flags += [f"-DCMAKE_{kind}_LINKER_FLAGS=-fuse-ld=lld" for kind in ("EXE", "MODULE")]
    if shutil.which("ccache"):  # what was changed back is compiled already
        os.environ.setdefault("CCACHE_SLOPPINESS", "pch_defines,time_macros")  # else nothing with common headers is
        flags.append("-DCMAKE_CXX_COMPILER_LAUNCHER=ccache")
    configure = ["cmake", "-S", copy, "-B", f"{copy}/build", "-G", "Ninja", *flags]
    subprocess.run(configure, check=True, stdout=subprocess.DEVNULL)
    if not build(copy):
        sys.exit("The code does not build as it is.")


def suites(room):
    """The suites of the unit tests that are beside the room's code."""
    out = set()
    for folder, _, names in os.walk(os.path.join("src", room)):
        for name in names:
            if name.endswith("_test.cpp"):
                found = re.findall(r"^(?:TYPED_)?TEST(?:_F|_P)?\((\w+),", open(os.path.join(folder, name)).read(), re.M)
                out.update(found)
    return out


class Tests:
    """The tests of one program that are to notice a change."""

    def __init__(self, copy, program, slow, among):
        self.copy, self.program = copy, program
        names = self.names(among)
        took = self.measured(names)
        wanted = sorted((t for t in names if slow or took[t] < SLOW), key=took.get)
        self.quick, self.others = ([t for t in wanted if (took[t] < QUICK) == quick] for quick in (True, False))
        self.seconds = sum(took[t] for t in wanted)

    def measured(self, names):
        """Seconds that each takes on the code as it is; what fails there can notice nothing, and is left out."""
        kept = os.path.join(self.copy, "build", f"{self.program}.seconds.json")
        took = json.load(open(kept)) if os.path.exists(kept) else {}
        for test in list(names):
            begun = time.monotonic()
            if test not in took and self.start([test]).wait() != 0:
                print(f"does not pass as it is: {test}", flush=True)
                names.remove(test)
                continue
            took.setdefault(test, time.monotonic() - begun)
        with open(kept, "w") as f:
            json.dump(took, f)
        return took

    def names(self, among):
        listed = subprocess.run([self.path(), "--gtest_list_tests"], capture_output=True, text=True, check=True, cwd=self.copy).stdout
        out, suite = [], ""
        for line in listed.splitlines():
            name = line.split("#")[0].rstrip()
            if not line.startswith(" "):
                suite = name
            elif among(set(suite.rstrip(".").split("/"))):
                out.append(suite + name.strip())
        return out

    def path(self):
        return f"{self.copy}/build/tests/{self.program}"

    def start(self, tests):
        command = [self.path(), "--gtest_fail_fast", "--gtest_brief=1", "--gtest_filter=" + ":".join(tests)]
        return subprocess.Popen(command, cwd=self.copy, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
                                stdin=subprocess.DEVNULL, preexec_fn=limited, start_new_session=True)

    def notice(self):
        """True where one fails, crashes or takes far longer than it should."""
        return any(self.one_fails(tests) for tests in (self.quick, self.others))

    def one_fails(self, tests):
        cores = len(os.sched_getaffinity(0))
        parts = [tests[i::cores] for i in range(min(cores, len(tests)))]
        running = [self.start(part) for part in parts]
        ends = time.monotonic() + 30 + 5 * self.seconds
        failed = False
        try:
            while running and not failed:
                time.sleep(0.02)
                failed = time.monotonic() > ends or any(p.poll() not in (None, 0) for p in running)
                running = [p for p in running if p.poll() is None]
        finally:
            for process in running:
                os.killpg(process.pid, 9)
                process.wait()
        return failed


def drawn(where, seed):
    """The room, and its places in the order that the seed draws; of FILE:LINE those of the line."""
    path, _, line = where.partition(":")
    room = path.split("/")[1] if line else where
    found = [p for p in places(room) if not line or p[:2] == (path, int(line))]
    if not found:
        sys.exit(f"There is no code to change in {where if line else 'src/' + room}.")
    random.Random(f"{seed} {room}").shuffle(found)
    return room, found


class Changed:
    """A file of the copy while it is changed. Afterwards it and what it was compiled to are as they were."""

    def __init__(self, copy, path, text):
        self.there = os.path.join(copy, path)
        self.text = text
        self.kept = {name: open(name, "rb").read() for name in
                     [self.there, *glob.glob(f"{copy}/build/CMakeFiles/*.dir/{path}.o")]}
        self.time = os.stat(self.there).st_mtime_ns

    def __enter__(self):
        with open(self.there, "w") as f:
            f.write(self.text)

    def __exit__(self, *_):
        for name, content in self.kept.items():
            with open(name, "wb") as f:
                f.write(content)
        # A file that was not compiled by itself is in many others, which are compiled anew.
        if len(self.kept) > 1:
            os.utime(self.there, ns=(self.time, self.time))


def judged(where, copy, kinds, asked, seed):
    """Gives what noticed one change after the other, and prints it."""
    room, found = drawn(where, seed)
    wanted = suites(room)
    beside = Tests(copy, "unit_tests", asked.slow, lambda names: names & wanted)
    for path, number, start, end, new in found:
        text, before, after = changed(path, number, start, end, new)
        with Changed(copy, path, text):
            if not build(copy):
                continue
            verdict = next((kind for kind, tests in {"beside": beside, **kinds}.items() if tests.notice()), "SURVIVED")
        print(f"{verdict:8} {path}:{number}: {before}  ->  {after}", flush=True)
        yield verdict


def worded(what, verdicts):
    done = len(verdicts)
    noticed = done - verdicts.count("SURVIVED")
    return f"{what}: {noticed} of {done} noticed ({100 * noticed / max(done, 1):.0f} of 100)"


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("where", nargs="+")
    parser.add_argument("--count", type=int, default=20)
    parser.add_argument("--seed", type=int, default=None)
    parser.add_argument("--slow", action="store_true")
    parser.add_argument("--first", default="", type=lambda names: set(names.split(",")))
    parser.add_argument("--work", default=None)
    asked = parser.parse_args()
    signal.signal(signal.SIGTERM, signal.default_int_handler)  # what goes on in the background takes no SIGINT
    seed = asked.seed if asked.seed is not None else random.SystemRandom().randrange(1 << 32)
    print(f"seed {seed}", flush=True)
    with tempfile.TemporaryDirectory() as own:
        copy = os.path.abspath(asked.work or own)
        prepare(copy)
        kinds = {"first": Tests(copy, "program_tests", asked.slow, lambda names: names & asked.first),
                 "program": Tests(copy, "program_tests", asked.slow, lambda names: not names & asked.first)}
        all_judged = {where: judged(where, copy, kinds, asked, seed) for where in asked.where}
        verdicts = {where: [] for where in asked.where}
        try:
            for _ in range(asked.count):
                for where, judge in all_judged.items():
                    verdicts[where] += [v for v in [next(judge, None)] if v]
        except KeyboardInterrupt:
            print("interrupted", flush=True)
    for where in asked.where:
        print(worded(where, verdicts[where]))
    print(worded("all", sum(verdicts.values(), [])))


if __name__ == "__main__":
    main()
