"""Whether what `tidy` files is read back as what it was: `python -m benchmarks.round_trip [FILE.jsonl …]`.

The trees of `benchmarks.trees` are filed by each naming scheme, copied to another place without magpie's own folder,
and scanned there as by somebody who never saw them. A thing that was moved is the same where its kind and all of its
fields are; `languages` stands in no name that the schemes make, so it is left out.
"""

from __future__ import annotations

import argparse
import shutil
import tempfile
from collections import Counter
from pathlib import Path

from benchmarks.trees import TREES, Row, read_trees, said

SCHEMES = ("screen", "plain")
PLAYED = ("movie", "episode", "track")
MADE = ("kit", "design", "font", "game")
SHELF = '[shelf.{kind}]\nkind = "{kind}"\nfolder = "Shelves/{kind}"\nnaming = "{naming}"\n'


def identity(item: Row) -> tuple[str, Row]:
    """Return what an item is, but for what no name carries."""
    return item["kind"], {name: value for name, value in item["fields"].items() if name != "languages"}


def filed_and_read(rows: list[Row], naming: str, faults: list[str]) -> Counter[str]:
    """File a tree by a scheme, read it elsewhere, and count what was moved and what is the same."""
    counts: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as folder:
        root, elsewhere = Path(folder) / "here", Path(folder) / "elsewhere"
        shelves = [SHELF.format(kind=kind, naming=naming) for kind in PLAYED]
        shelves += [SHELF.format(kind=kind, naming="maker") for kind in MADE]
        for row in rows:
            file = root / row["path"]
            file.parent.mkdir(parents=True, exist_ok=True)
            file.write_text(row["path"])
        (root / "magpie.toml").write_text("\n".join(['[collection]\nunplayable = "file"', *shelves]))
        said("-C", str(root), "scan", "--jobs", "1")
        before = {item["id"]: item["path"] for item in said("-C", str(root), "find")}
        said("-C", str(root), "tidy", "--now")
        filed = [item for item in said("-C", str(root), "find") if before.get(item["id"], "") != item["path"]]
        shutil.copytree(root, elsewhere, ignore=shutil.ignore_patterns(".magpie"))
        said("-C", str(elsewhere), "scan", "--jobs", "1")
        there = {item["path"]: item for item in said("-C", str(elsewhere), "find")}
    for item in filed:
        if item["kind"] in (*PLAYED, *MADE):
            read = there.get(item["path"])
            same = read is not None and identity(read) == identity(item)
            counts.update({"moved": 1, "same": same})
            if not same:
                faults.append(f"{item['path']}\n   filed {identity(item)}\n   read  {read and identity(read)}")
    return counts


def main() -> None:
    """File, read, and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("files", nargs="*", type=Path, default=TREES)
    parser.add_argument("--faults", action="store_true", help="print what is read as something else")
    args = parser.parse_args()
    trees = read_trees(args.files)
    for naming in SCHEMES:
        faults: list[str] = []
        counts = sum((filed_and_read(rows, naming, faults) for rows in trees.values()), Counter())
        print(f"{naming}: {counts['same']:,} of {counts['moved']:,} the same, {counts['same'] / counts['moved']:.1%}")
        print("\n".join(faults) if args.faults else "", end="\n" if args.faults else "")


if __name__ == "__main__":
    main()
