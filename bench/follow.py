#!/usr/bin/env python3
"""Follow the steps that undershelf gives, from inspect on, and hold the end against a search for contents straight away.

usage: follow.py --corpus DIR [--bin PATH] [--json FILE] [NAME...]

Every volume NAME.img.zst in the corpus has NAME.truth.json beside it, with the SHA-256 of each file that was ever written.
For each volume the first of the `steps` is taken again and again, with destinations filled in, until no step is left; what
leaves nothing in the shelf is run as well, and the summary is asked after it. Then the same source is scanned with
`--reach content` into another shelf. Both must list the same files.

A pass brought something when a file, name or volume more is listed after it, or a lost file more is byte-exact.
"""
import argparse, collections, glob, hashlib, json, os, shutil, subprocess, sys, tempfile

MOST_STEPS = 20
PASSES = ("traces", "content")


def run(*command):
    p = subprocess.run(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, errors="replace", timeout=1800)
    if p.returncode not in (0, 1):
        raise RuntimeError(f"{' '.join(command)}: exit {p.returncode}: {p.stderr.strip()[-300:]}")
    return p.stdout


def sha(path):
    h = hashlib.sha256()
    with open(path, "rb") as f:
        for block in iter(lambda: f.read(1 << 20), b""):
            h.update(block)
    return h.hexdigest()


class Source:
    """One volume of the corpus, and what is known of it."""

    def __init__(self, binary, truth_path, work):
        self.binary, self.work = binary, work
        self.truth = json.load(open(truth_path))
        self.name = os.path.basename(truth_path)[:-len(".truth.json")]
        self.image = f"{work}/{self.name}.img"
        subprocess.run(["zstd", "-q", "-d", "-f", "--sparse", truth_path[:-len(".truth.json")] + ".img.zst", "-o", self.image], check=True)
        self.lost = {f["sha256"] for f in self.truth["files"] if f.get("sha256") and f["state"] != "live"}
        self.unreadable = []
        if self.truth.get("unreadable"):
            path = f"{work}/{self.name}.unreadable.csv"
            with open(path, "w") as f:
                f.write("offset,length\n" + "".join(f"{a},{n}\n" for a, n in self.truth["unreadable"]))
            self.unreadable = ["--unreadable", path]

    def state(self, shelf):
        """What is listed, and how many lost files are byte-exact."""
        out = tempfile.mkdtemp(dir=self.work)
        # A shelf notes what is exported from it: what is done to look must not count.
        shelf = shutil.copy(shelf, f"{out}/copy.shelf")
        entries = [json.loads(line) for line in run(self.binary, "list", shelf, "--format", "jsonl").splitlines()]
        exact = set()
        if any(not e["is_dir"] for e in entries):
            run(self.binary, "export", shelf, "--all", "--to", f"{out}/bag")
            lines = f"{out}/bag/exported.jsonl"
            for line in open(lines) if os.path.exists(lines) else []:
                place = json.loads(line).get("path_in_bag")
                if place and not place.startswith("data/live") and os.path.isfile(f"{out}/bag/{place}"):
                    exact.add(sha(f"{out}/bag/{place}"))
        # Volumes and stand-ins may be numbered otherwise: what counts is what is listed.
        files = collections.Counter((e["path"], e["stream"] or "", e["size"]) for e in entries if not e["is_dir"])
        volumes = len(json.loads(run(self.binary, "summary", shelf, "--format", "json"))["volumes"])
        shutil.rmtree(out)
        return {"files": files, "volumes": volumes, "exact": len(exact & self.lost)}

    def take(self, step, shelf):
        """Runs a step. Returns the steps that follow, or nothing where the command gives none."""
        argv = list(step["argv"])
        assert argv[0] == "undershelf", argv
        argv[0] = self.binary
        argv = [tempfile.mkdtemp(dir=self.work) + "/bag" if a == "DIR" else a for a in argv]
        if argv[1] == "scan":
            argv += ["--shelf", shelf] if "--shelf" not in argv else []
        if argv[1] in ("scan", "check", "export", "verify"):
            return json.loads(run(*argv, "--format", "json"))["steps"]
        run(*argv)
        return None


def brought(before, after):
    """In words; empty where a pass brought nothing."""
    gains = []
    if more := (after["files"] - before["files"]).total():
        gains.append(f"{more} files or names")
    if after["volumes"] > before["volumes"]:
        gains.append(f"{after['volumes'] - before['volumes']} volumes")
    if after["exact"] > before["exact"]:
        gains.append(f"{after['exact'] - before['exact']} exact")
    return ", ".join(gains)


def follow(binary, truth_path, work):
    source = Source(binary, truth_path, work)
    shelf, straight = f"{work}/{source.name}.shelf", f"{work}/{source.name}.straight.shelf"
    steps = json.loads(run(binary, "inspect", source.image, "--format", "json", *source.unreadable))["steps"]
    row = {"name": source.name, "steps": [], "passes": []}
    state = None
    while steps and len(row["steps"]) < MOST_STEPS:
        step = steps[0]
        words = step["argv"][1:]
        reach = words[words.index("--reach") + 1] if "--reach" in words else "volumes"
        steps = source.take(step, shelf)
        row["steps"].append(words[0] if words[0] != "scan" else f"scan {reach}")
        if words[0] in ("scan", "check"):
            after = source.state(shelf)
            if words[0] == "scan" and reach in PASSES:
                row["passes"].append({"reach": reach, "seconds": step["seconds"], "brought": brought(state, after)})
            state = after
        if not steps:
            steps = json.loads(run(binary, "summary", shelf, "--format", "json"))["steps"]
    row["ended"] = not steps
    run(binary, "scan", source.image, "--shelf", straight, "--reach", "content", *source.unreadable)
    whole = source.state(straight)
    row["files"], row["exact"] = state["files"].total(), state["exact"]
    row["missing"], row["beyond"] = sorted((whole["files"] - state["files"]).elements()), sorted((state["files"] - whole["files"]).elements())
    row["exact_straight"] = whole["exact"]
    row["same"] = not row["missing"] and not row["beyond"] and whole["exact"] == state["exact"]
    os.remove(source.image)
    return row


def main():
    a = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    a.add_argument("--corpus", required=True)
    a.add_argument("--bin", default="build/undershelf")
    a.add_argument("--json")
    a.add_argument("names", nargs="*")
    args = a.parse_args()
    binary = os.path.abspath(args.bin)
    rows = []
    for truth in sorted(glob.glob(f"{args.corpus}/*.truth.json")):
        if args.names and os.path.basename(truth)[:-len(".truth.json")] not in args.names:
            continue
        with tempfile.TemporaryDirectory() as work:
            row = follow(binary, truth, work)
        rows.append(row)
        passes = "; ".join(f"{p['reach']}: {p['brought'] or 'NOTHING'}" for p in row["passes"])
        print(f"{row['name']:20} {'same' if row['same'] else 'DIFFERS':8} {'' if row['ended'] else 'ENDLESS '}"
              f"{row['files']:5} files {row['exact']:5} exact  {', '.join(row['steps'])}  [{passes}]", flush=True)
        for what in ("missing", "beyond"):
            for f in row[what][:5]:
                print(f"{'':20} {what}: {f}")
    in_vain = {r: sum(1 for row in rows for p in row["passes"] if p["reach"] == r and not p["brought"]) for r in PASSES}
    print(f"{len(rows)} volumes, {sum(r['same'] for r in rows)} the same; in vain: {in_vain['traces']} sweeps, {in_vain['content']} contents passes")
    if args.json:
        json.dump(rows, open(args.json, "w"), indent=1)
    return 0 if all(r["same"] and r["ended"] for r in rows) else 1


if __name__ == "__main__":
    sys.exit(main())
