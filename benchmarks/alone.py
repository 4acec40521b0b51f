"""How well single paths are understood that others wrote down: `python -m benchmarks.alone [FILE.jsonl …]`.

A path alone is a tree of one branch: the folders above it have roles, but with no files beside it and nothing around,
there is less evidence, so more is in doubt. "Patterns" is what `magpie explain` says of the path, "collection" what a
scan makes of it. No weight is fitted on these.
"""

from __future__ import annotations

import argparse
import json
from collections import Counter
from collections.abc import Callable
from functools import partial
from pathlib import Path

from benchmarks.trees import COLUMNS, as_item, is_right, line
from lazy_magpie.config import Config
from lazy_magpie.identify import Context, identify, siblings_of
from lazy_magpie.identify.folder_reader import FolderReader
from lazy_magpie.identify.roles import read_tree
from lazy_magpie.model import Identity, State
from lazy_magpie.paths import name_of, parent
from lazy_magpie.scan.folder_unit import Knowledge, read_by_roles

PATHS = sorted((Path(__file__).parents[1] / "tests" / "data" / "alone").glob("*.jsonl"))


def in_collection(path: str) -> Identity:
    """Return what a scan makes of a path that is all there is."""
    folder, names = parent(path), [name_of(path)]
    reader = FolderReader(folder, read_tree({folder: names}), names)
    around = Context(siblings_of(names), {}, frozenset(), Knowledge.of(Config()).systems)
    return reader.identity(path, partial(read_by_roles, around, None))


def counted(file: Path, reader: Callable[[str], Identity]) -> Counter[str]:
    """Count the paths of a file, the right ones, those wrong while clear, those that are clear and those called so."""
    counts: Counter[str] = Counter()
    for text in file.read_text().splitlines():
        row = json.loads(text)
        none = [field for field, value in row["fields"].items() if value is None]  # what it must not have
        row["fields"] = {field: value for field, value in row["fields"].items() if value is not None}
        identity = reader(row["path"])
        right, exact = is_right(row, as_item(identity))
        right, exact = (one and not any(field in identity.fields for field in none) for one in (right, exact))
        called = identity.state is State.CLEAR
        counts.update({"files": 1, "right": right, "wrong clear": called and not exact})
        if row.get("state") == "clear":
            counts.update({"clear": 1, "called": called})
    return counts


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("files", nargs="*", type=Path, default=PATHS)
    args = parser.parse_args()
    print(COLUMNS)
    for file in args.files:
        print(line(f"{file.stem}, patterns", counted(file, identify)))
        print(line(f"{file.stem}, collection", counted(file, in_collection)))


if __name__ == "__main__":
    main()
