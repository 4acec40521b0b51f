"""Whether things stay what they are under names by hand: `python -m benchmarks.renamed [FILE …]`.

Every collector's tree (JSON Lines, as `tests/data/trees` has them) is laid out with empty files' stand-ins, all that is
clear gets a number for a name, and is read again; then that is undone, and compared with what was there.
"""

from __future__ import annotations

import sys
import tempfile
from collections import Counter
from collections.abc import Sequence
from pathlib import Path

from tests.conftest import Collection, picture

from benchmarks.trees import TREES, read_trees

_KINDS = frozenset("movie episode track game kit design font".split())
Known = dict[str, tuple[str, dict[str, object]]]
"""Kind and fields of clear and settled things, by their ids."""


def _known(collection: Collection) -> Known:
    lines = collection.run("find", "--json").lines
    sure = (one for one in lines if one["state"] in ("clear", "settled") and one["kind"] in _KINDS)
    return {one["id"]: (one["kind"], one["fields"]) for one in sure}


def renamed(collection: Collection) -> Counter[str]:
    """Return how many clear things of a collection stay what they are, are in doubt, or are another thing."""
    collection.run("scan")
    before, was = picture(collection.root), _known(collection)
    collection.run("rename", "state", "is", "clear", "--to", "{number}", "--now")
    collection.run("scan")
    now = _known(collection)
    found: Counter[str] = Counter()
    for id, one in was.items():
        found["in doubt" if id not in now else "as it was" if now[id] == one else "another"] += 1
    collection.run("undo")
    found["undone exactly" if picture(collection.root) == before else "undone otherwise"] += 1
    return found


def main(files: Sequence[Path]) -> None:
    """Print the sums over all trees in some files."""
    sums: Counter[str] = Counter()
    for rows in read_trees(files).values():
        with tempfile.TemporaryDirectory() as home:
            collection = Collection(Path(home))
            collection.put("magpie.toml", text='[collection]\nunplayable = "file"\n')
            collection.put(*(str(row["path"]) for row in rows))
            sums += renamed(collection)
    print(", ".join(f"{what}: {count:,}" for what, count in sums.most_common()))


if __name__ == "__main__":
    main([Path(word) for word in sys.argv[1:]] or TREES)
