"""How well whole collections are understood that others wrote down: `python -m benchmarks.trees [FILE.jsonl …]`.

Each line of a file is a path of a collector with its truth: kind, fields, whether experts would be sure of it
(`state`), and of a companion what it belongs to (`of`). Every collector's tree is made of empty files and scanned;
`find --json` is held against the truth. A file is right where its kind and every field of the truth are; it is wrong
while clear where it is not, or has a name's field that the truth lacks, and stands in an item that is called clear.
"""

from __future__ import annotations

import argparse
import contextlib
import io
import json
import tempfile
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

from lazy_magpie.cli.main import main
from lazy_magpie.identify.games import systems_named
from lazy_magpie.identify.path_reader import disc_folder
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Identity

Row = dict[str, Any]
TREES = sorted((Path(__file__).parents[1] / "tests" / "data" / "trees").glob("*.jsonl"))

ALSO = {"episode": ("episode_title",), "movie": ("edition",), "track": ("artist",)}
"""Fields that a kind's truth names wherever there is anything to name: what else is said there is wrong."""
KINDS = ("movie", "episode", "track", "game", "kit", "design", "font", "companion")
COLUMNS = f"{'':<24}{'files':>7}{'right':>9}{'wrong clear':>13}{'clear called':>14}"


def read_trees(files: Iterable[Path]) -> dict[str, list[Row]]:
    """Return the rows of each collector, by the name of its file and its own."""
    trees: dict[str, list[Row]] = defaultdict(list)
    for file in files:
        for line in file.read_text().splitlines():
            row = json.loads(line)
            trees[f"{file.stem} {row['collector']}"].append(row)
    return trees


def said(*words: str) -> list[Row]:
    """Run a command; return what it says as JSON."""
    text = io.StringIO()
    with contextlib.redirect_stdout(text), contextlib.redirect_stderr(io.StringIO()):
        main([*words, "--json"])
    return [json.loads(line) for line in text.getvalue().splitlines()]


def found_in(root: Path) -> dict[str, Row]:
    """Return by path what each file of a collection is taken for: its item, with `role` and `part` of the file."""
    return {
        file["path"]: item | {"file_role": file["role"], "file_part": file.get("part", 0)}
        for item in said("-C", str(root), "find")
        for file in item["files"]
    }


def answer_folders(root: Path, rows: list[Row], count: int) -> None:
    """Answer the first questions about folders that `settle` puts by the truth, each after the one before."""
    from benchmarks.roles import listing_of, truth_of
    from lazy_magpie.identify.roles.features import tree_of
    from lazy_magpie.identify.roles.place import ROLES

    folders = tree_of(listing_of(row["path"] for row in rows))
    truth = {
        folder.path: ROLES[role]
        for folder, role in zip(folders, truth_of(folders, rows), strict=True)
        if role >= 0 and folder.path
    }
    asked: set[str] = set()
    while len(asked) < count:
        open_ones = (question["folder"] for question in said("-C", str(root), "settle") if question["folder"])
        folder = next((folder for folder in open_ones if folder not in asked), None)
        if folder is None:
            return
        asked.add(folder)
        if folder in truth:
            said("-C", str(root), "settle", f"{root}/{folder}/", "--set", f"role={truth[folder]}")


def has(said: Mapping[str, Any], field: str, value: Any) -> bool:
    """Say whether a field has a value; of what several files are together one of several values is enough."""
    given = said.get(field)
    if field == "system" and given:  # one system goes by several short codes
        return match_key(str(given)) == match_key(str(value)) or bool(
            systems_named(str(given)) & systems_named(str(value))
        )
    if isinstance(given, list) and not isinstance(value, list):
        return match_key(str(value)) in map(match_key, map(str, given))
    if isinstance(value, list) and isinstance(given, list):
        return sorted(map(str, given)) == sorted(map(str, value))
    return given is not None and match_key(str(given)) == match_key(str(value))


def as_item(identity: Identity) -> Row:
    """Return a reading of a file as the item that it would be alone."""
    return {
        "kind": identity.kind.value,
        "fields": identity.fields,
        "facts": identity.facts,
        "files": [0],
        "file_role": "main",
        "file_part": 0,
    }


def is_right(truth: Row, item: Row) -> tuple[bool, bool]:
    """Say whether a file is taken for what it is, and whether nothing is said of it that is not so."""
    kind, fields = truth["kind"], truth["fields"]
    said = {**item["facts"], **item["fields"]}
    beside = item["file_role"] not in ("main", "cue", "other")
    if item["file_part"]:
        said["part"] = said["disc"] = item["file_part"]
    if kind == "companion":
        beside = item["file_role"] != "main"
        role = item["file_role"] if beside else said.get("role", "")
        right = (beside or item["kind"] in ("companion", "extra", "picture")) and role == fields.get("role", role)
        return right, right
    if kind == "document" and "date" in said and "date" not in fields:
        said = _dated_in_title(fields, said)
    if kind == "episode" and {"season", "running"} & fields.keys():
        fields, said = _counted_alike(fields, said)
    of_file = {"glyph"} if len(item["files"]) > 1 else set()  # what an item of several files does not say
    wanted = {field: value for field, value in fields.items() if field not in of_file}
    right = not beside and item["kind"] == kind and all(has(said, field, value) for field, value in wanted.items())
    return right, right and not any(field in said and field not in fields for field in ALSO.get(kind, ()))


def _dated_in_title(truth: Mapping[str, Any], said: Row) -> Row:
    """Return what a reading has of a document whose date stands in its title, where it does so in the truth."""
    titles = (f"{said['date']} {said.get('title')}", f"{said.get('title')} {said['date']}")
    same = (title for title in titles if has({"title": title}, "title", truth.get("title", "")))
    return said | {"title": next(same, said.get("title"))}


def _counted_alike(truth: Mapping[str, Any], said: Mapping[str, Any]) -> tuple[Row, Row]:
    """Return what the truth and a reading have of an episode, where a show without seasons counts as one season."""
    return (_in_one_season(truth), _in_one_season(said))


def _in_one_season(fields: Mapping[str, Any]) -> Row:
    running = fields.get("running")
    if running is None or "season" in fields:
        return dict(fields)
    return {key: value for key, value in fields.items() if key != "running"} | {"season": 1, "episode": running}


def judge(rows: Iterable[Row], found: Mapping[str, Row], faults: list[str]) -> Counter[str]:
    """Count files, right ones, those wrong while clear, those that are clear and those called so."""
    counts: Counter[str] = Counter()
    for truth in rows:
        item = found.get(disc_folder(truth["path"]) or truth["path"])  # a disc laid out by its standard is one thing
        right, exact = is_right(truth, item) if item else (False, False)
        called = item is not None and item["state"] == "clear"
        counts["files"] += 1
        counts["right"] += right
        counts["wrong clear"] += called and not exact
        if truth.get("state") == "clear":
            counts["clear"] += 1
            counts["called"] += called
        if item and (not exact if called else not right):
            read = f"{item['kind']} {item['fields']} {item['state']}"
            faults.append(f"{truth['path']}\n   is   {truth['kind']} {truth['fields']}\n   read {read}")
    return counts


def line(name: str, counts: Counter[str]) -> str:
    """Return a row of the table."""
    return (
        f"{name:<24}{counts['files']:>7,}{counts['right'] / counts['files']:>9.1%}"
        f"{counts['wrong clear'] / counts['files']:>13.1%}{counts['called'] / max(counts['clear'], 1):>14.1%}"
    )


def measure() -> None:
    """Measure and print."""
    from benchmarks.slots import fitted_all

    parser = argparse.ArgumentParser()
    parser.add_argument("files", nargs="*", type=Path, default=TREES)
    parser.add_argument("--faults", action="store_true", help="print every file that is wrong while clear")
    parser.add_argument("--leave-out", action="store_true", help="measure each file by weights fitted on the others")
    parser.add_argument("--answers", type=int, default=0, help="so many questions about folders are answered first")
    parser.add_argument("--only", default="", help="collectors whose name begins so")
    args = parser.parse_args()
    by_file: dict[str, Counter[str]] = defaultdict(Counter)
    by_kind: dict[str, Counter[str]] = defaultdict(Counter)
    faults: list[str] = []
    print(COLUMNS)
    weights = fitted_all(args.files) if args.leave_out else {}
    for name, rows in read_trees(args.files).items():
        if not name.startswith(args.only):
            continue
        if args.leave_out:
            weights[name.split()[0]].use()
        with tempfile.TemporaryDirectory() as folder:
            root = Path(folder)
            (root / "magpie.toml").write_text("")
            for row in rows:
                file = root / row["path"]
                file.parent.mkdir(parents=True, exist_ok=True)
                file.touch()
            said("-C", str(root), "scan", "--jobs", "1")
            answer_folders(root, rows, args.answers)
            found = found_in(root)
        counts = judge(rows, found, faults)
        for kind in KINDS:
            if some := [row for row in rows if row["kind"] == kind]:
                by_kind[kind] += judge(some, found, [])
        by_file[name.split()[0]] += counts
        print(line(name, counts), flush=True)
    for table in (by_kind, by_file):
        print()
        for name, counts in table.items():
            print(line(name, counts))
    print(f"\n{line('all', sum(by_file.values(), Counter()))}")
    print("\n".join(faults) if args.faults else "")


if __name__ == "__main__":
    measure()
