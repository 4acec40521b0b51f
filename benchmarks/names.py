"""How well names are understood, over a generated corpus with known truth: `python -m benchmarks.names`.

Prints the share of fields that are right, wrong values in names called clear, the share of clear names called clear,
how often each band of confidence is right, the round trip through each naming, and microseconds a name, to be held
against those of another version on the same machine.
"""

from __future__ import annotations

import argparse
import json
import os
import subprocess
import sys
import tempfile
import time
from collections import Counter, defaultdict
from pathlib import Path

from tests.names import held_out_names, known_names

from benchmarks.corpus import Truth, names
from lazy_magpie.identify import identify
from lazy_magpie.model import Identity, Kind, State
from lazy_magpie.naming import MissingField, UnusableName, conventions, path_for, template_for
from lazy_magpie.paths import name_of, split_ending, written

BANDS = (0.5, 0.7, 0.85, 0.9, 0.95, 0.98, 1.01)


def is_right(truth: Truth, found: Identity) -> bool:
    """Say whether kind and every field are right, and no other field is there."""
    return found.kind.value == truth.kind and dict(found.fields) == truth.fields


def measure(count: int, seed: int, shown: int) -> None:
    """Identify the corpus and print the figures."""
    fields = right_fields = wrong_clear = clear = called = 0
    bands: dict[float, list[bool]] = defaultdict(list)
    faults: Counter[str] = Counter()
    examples: list[str] = []
    for truth in names(count, seed):
        found = identify(truth.path)
        right = is_right(truth, found)
        fields += len(truth.fields)
        right_fields += sum(found.fields.get(key) == value for key, value in truth.fields.items())
        is_clear = found.state is State.CLEAR
        wrong = bool(truth.fields) and is_clear and not right
        wrong_clear += wrong
        clear += truth.clear
        called += truth.clear and is_clear
        if truth.fields:
            bands[max(band for band in (0.0, *BANDS) if band <= found.confidence)].append(right)
        if truth.fields and (wrong or not right or (truth.clear and not is_clear)):
            faults[f"{truth.habit}{' CLEAR' if wrong else ''}"] += 1
            if len(examples) < shown:
                read = f"{found.kind} {found.state} {dict(found.fields)} {found.doubts}"
                examples.append(f"{'WRONG CLEAR ' * wrong}{truth.path}\n   is   {truth.fields}\n   read {read}")
    print(f"names                                {count:,}")
    print(f"fields right                         {right_fields / fields:.4%}")
    print(f"clear names with a wrong value       {wrong_clear}")
    print(f"clear names called clear             {called / clear:.4%}")
    for band in sorted(bands):
        ones = bands[band]
        print(f"confidence from {band:4.2f}                 {sum(ones) / len(ones):8.3%} right of {len(ones):,}")
    for habit, times in faults.most_common(12 if shown else 0):
        print(f"   {times:5}  {habit}")
    for example in examples:
        print(example)


def round_trip(count: int, seed: int) -> None:
    """Name all that is clear by each naming, read it afresh, and print how much comes out the same."""
    for name, naming in conventions().items():
        same = other = unusable = 0
        for truth in names(count, seed):
            kind = Kind(truth.kind)
            if not truth.clear or template_for(naming, kind, truth.fields) is None:
                continue
            found = identify(truth.path)
            known = {**found.fields, "name": split_ending(name_of(truth.path))[0]}
            try:
                path = path_for(naming, kind, known)
            except (MissingField, UnusableName):
                unusable += 1
                continue
            again = identify(_as_a_scan_reads(path, kind, name_of(truth.path)), kind)
            template = template_for(naming, kind, found.fields)
            carried = {key: value for key, value in found.fields.items() if template and key in template.fields()}
            kept = {key: again.fields.get(key) for key in carried}
            same += again.kind is kind and kept == carried
            other += not (again.kind is kind and kept == carried)
        print(f"round trip by {name:<10}             {same:,} the same, {other} not, {unusable} unusable")


def _as_a_scan_reads(path: str, kind: Kind, name: str) -> str:
    """Return the path, as a scan reads it, of the file that came as `name` and was filed under `path`."""
    below = f"{path}/{name}" if kind is Kind.KIT else path + split_ending(name)[1]
    return below if kind in (Kind.KIT, Kind.DESIGN, Kind.FONT) else f"Shelf/{below}"


def cost(count: int, seed: int) -> None:
    """Print what a name takes of a processor, understood in this process and by `explain --json -` as a whole one."""
    paths = [truth.path for truth in names(count, seed)]
    start = time.process_time()
    for path in paths:
        identify(path)
    alone = time.process_time() - start
    with tempfile.TemporaryFile() as file, tempfile.TemporaryFile() as out:
        file.write("".join(written(path) + "\n" for path in paths).encode())
        file.seek(0)
        command = [sys.executable, "-m", "lazy_magpie", "explain", "--json", "-"]
        process = subprocess.Popen(command, stdin=file, stdout=out)
        _, _, usage = os.wait4(process.pid, 0)
        out.seek(0)
        assert sum(1 for _ in out) == count
    whole = usage.ru_utime + usage.ru_stime
    print(f"microseconds a name, of {count:<7,}      {alone / count * 1e6:.0f}")
    print(f"the same by explain --json -         {whole / count * 1e6:.0f}")
    print(f"explain, peak memory                 {usage.ru_maxrss / 1024:.0f} MiB")


def measure_held_out() -> None:
    """Print how the names are read that nothing was tuned on."""
    groups: dict[str, Counter[str]] = defaultdict(Counter)
    for row in held_out_names():
        found = identify(row["path"])
        given = {**found.facts, **found.fields}
        right = found.kind.value == row["kind"] and all(given.get(key) == row["fields"][key] for key in row["fields"])
        counts = groups["written by others" if row["origin"] == "independent" else "of our own lists"]
        counts["all"] += 1
        counts["right"] += right
        counts["wrong clear"] += found.state is State.CLEAR and not right
    for group, counts in groups.items():
        print(f"held out, {group:<18} right  {counts['right'] / counts['all']:.1%} of {counts['all']:,}")
        print(f"held out, {group:<18} wrong while clear  {counts['wrong clear'] / counts['all']:.1%}")


def dump(file: Path) -> None:
    """Write how each known name is read, for a later `--diff`."""
    rows = ((row["path"], identify(row["path"])) for row in (*known_names(), *held_out_names()))
    lines = (
        json.dumps([path, one.kind.value, one.state.value, dict(one.fields), list(one.doubts)]) for path, one in rows
    )
    file.write_text("".join(f"{text}\n" for text in lines))


def differences(file: Path) -> None:
    """Print which known names are read otherwise than a `--dump` of another version has them, and whether rightly."""
    before = {row[0]: row[1:] for row in map(json.loads, file.read_text().splitlines())}
    became: Counter[str] = Counter()
    for row in (*known_names(), *held_out_names()):
        found = identify(row["path"])
        now = [found.kind.value, found.state.value, json.loads(json.dumps(dict(found.fields)))]
        old = before.get(row["path"])
        if old is None or old[:3] == now:
            continue
        given = {**found.facts, **found.fields}
        right = now[0] == row["kind"] and all(given.get(key) == value for key, value in row["fields"].items())
        change = f"{old[1]} is {now[1]}, {'right' if right else 'wrong'} now"
        became[change] += 1
        print(f"{change}: {row['path']}\n   was {old[0]} {old[2]}\n   is  {now[0]} {now[2]} {list(found.doubts)}")
    for change, count in became.most_common():
        print(f"{count:>6,}  {change}")
    print(f"{len(before) - sum(became.values()):>6,}  as before")


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--count", type=int, default=20_000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--faults", type=int, default=0, metavar="N", help="print N faults")
    parser.add_argument("--held-out", action="store_true", help="only the names that nothing was tuned on")
    parser.add_argument("--dump", type=Path, metavar="FILE", help="write how all known names are read")
    parser.add_argument("--diff", type=Path, metavar="FILE", help="print what is read otherwise than in such a file")
    args = parser.parse_args()
    if args.dump or args.diff:
        dump(args.dump) if args.dump else differences(args.diff)
        return
    if args.held_out:
        measure_held_out()
        return
    measure(args.count, args.seed, args.faults)
    round_trip(args.count // 4, args.seed)
    for count in (args.count // 4, args.count * 5):
        cost(count, args.seed)


if __name__ == "__main__":
    main()
