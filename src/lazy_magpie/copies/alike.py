"""Items that are alike without holding the same bytes: the same picture, recording, film, outlines, or stitches.

The print of each file is taken once and remembered. An index finds candidates among the prints; a second look at two
files decides, and is remembered too. Files that are alike are of one class, and items whose main files are of the
same classes are alike. All files are opened in worker processes with limits, since anything may be in them.
"""

from __future__ import annotations

import base64
import os
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence

from lazy_magpie.catalogue import Catalogue, Printed
from lazy_magpie.copies.likeness import SORTS, asking, likeness
from lazy_magpie.copies.same import Copies, Found, Progress, apart
from lazy_magpie.model import Item
from lazy_magpie.paths import split_ending
from lazy_magpie.readers import FAMILIES, family_of
from lazy_magpie.readers.pool import Facts, ask_all

_BATCH = 200
_SECONDS = 120.0
"""How long one question may take: of a long film several places are read."""


def find_alike(
    catalogue: Catalogue,
    root: str,
    items: Iterable[Item],
    found: Found,
    jobs: int = 0,
    progress: Progress = lambda count: None,
) -> list[Copies]:
    """Return which of `items` on the collection's own root are alike; what can't be read is noted in `found`.

    What a scan has named as unreadable already is passed over.
    """
    seeker = _Seeker(catalogue, root, found, jobs, progress)
    own = [item for item in items if not item.root and "unreadable" not in item.facts]
    copies = []
    for sort, (_, _, kinds) in SORTS.items():
        of_sort = [item for item in own if item.kind in kinds]
        files = seeker.printed(sort, of_sort)
        classes = seeker.classes(sort, list(files.values())) if len(files) > 1 else {}
        by_classes: dict[frozenset[int], list[Item]] = defaultdict(list)
        for item in of_sort:
            mains = [classes.get(file.path) for file in item.files if file.role == "main"]
            if mains and None not in mains:
                by_classes[frozenset(mains)].append(item)  # type: ignore[arg-type]
        sets = (apart(same) for same in by_classes.values())
        copies += [Copies(tuple(same), {}, match=sort) for same in sets if len(same) > 1]
    return copies


class _Seeker:
    """Takes prints and second looks, and keeps both as they come, so that a search that was stopped goes on."""

    def __init__(self, catalogue: Catalogue, root: str, found: Found, jobs: int, progress: Progress) -> None:
        self.catalogue = catalogue
        self.root = root
        self.found = found
        self.jobs = jobs
        self.progress = progress
        self.done = 0

    def printed(self, sort: str, items: Sequence[Item]) -> dict[str, Printed]:
        """Return the main files of items that have a print, by path, taking those that are not known."""
        paths = {file.path for item in items for file in item.files if file.role == "main"}
        _, family, kinds = SORTS[sort]
        fitting = {path for path in paths if family_of(split_ending(path)[1].lower()) == FAMILIES.index(family)}
        known = self.catalogue.prints.of_kinds(kinds)
        files = {path: known[path] for path in sorted(fitting & known.keys())}
        missing = [file for file in files.values() if file.print is None]
        questions = [asking.take(sort, self._whole(file)) for file in missing]
        batch: list[Printed] = []
        for at, answer in self._asked(questions):
            file = missing[at]
            if (said := answer.get("print")) is None:
                why = str(answer.get("unreadable")).replace(self._whole(file), "the file")
                self.found.unreadable.append((file.path, why))
                continue
            files[file.path] = file._replace(print=base64.b64decode(str(said)))
            batch.append(files[file.path])
            if len(batch) >= _BATCH:
                self._keep(batch)
        self._keep(batch)
        return {path: file for path, file in files.items() if file.print}

    def classes(self, sort: str, files: Sequence[Printed]) -> dict[str, int]:
        """Return for each file that is alike another one which class it is of."""
        pairs = likeness(sort).candidates([file.print or b"" for file in files])
        joined = _Joined(len(files))
        seen = self.catalogue.prints.looks()
        waiting: list[tuple[int, int]] = []
        for one, other in pairs.tolist():
            known = seen.get(_ids(files[one], files[other]))
            if known or files[one].inode == files[other].inode:
                joined.join(one, other)
            elif known is None:
                waiting.append((one, other))
        while batch := joined.next_of(waiting):
            for (one, other), alike in self._looks(sort, files, batch):
                if alike:
                    joined.join(one, other)
        return joined.classes({at: file.path for at, file in enumerate(files)})

    def _looks(
        self, sort: str, files: Sequence[Printed], pairs: Sequence[tuple[int, int]]
    ) -> Iterator[tuple[tuple[int, int], bool]]:
        """Take second looks at pairs of files, and yield what each has said."""
        questions = [asking.compare(sort, self._whole(files[one]), self._whole(files[other])) for one, other in pairs]
        looks: dict[tuple[int, int], bool] = {}
        for at, answer in self._asked(questions):
            one, other = pairs[at]
            if "alike" in answer:
                looks[_ids(files[one], files[other])] = bool(answer["alike"])
            if len(looks) >= _BATCH:
                self._keep_looks(looks)
            yield pairs[at], bool(answer.get("alike"))
        self._keep_looks(looks)

    def _keep_looks(self, looks: dict[tuple[int, int], bool]) -> None:
        self.catalogue.prints.put_looks(looks)
        self.catalogue.commit()
        looks.clear()

    def _asked(self, questions: Sequence[Sequence[str]]) -> Iterator[tuple[int, Facts]]:
        for at, answer in ask_all(questions, asking.__name__, self.jobs, _SECONDS):
            self.done += 1
            self.progress(self.done)
            yield at, answer

    def _keep(self, batch: list[Printed]) -> None:
        self.catalogue.prints.put(batch)
        self.catalogue.commit()
        batch.clear()

    def _whole(self, file: Printed) -> str:
        return os.path.join(self.root, file.path)


def _ids(one: Printed, other: Printed) -> tuple[int, int]:
    return min(one.id, other.id), max(one.id, other.id)


class _Joined:
    """Classes of things by number, joined pair by pair (a disjoint-set forest)."""

    def __init__(self, count: int) -> None:
        self.above = list(range(count))

    def of(self, one: int) -> int:
        """Return the number that stands for the class of a thing."""
        while self.above[one] != one:
            self.above[one] = one = self.above[self.above[one]]
        return one

    def join(self, one: int, other: int) -> None:
        """Let two things be of one class."""
        first, second = sorted((self.of(one), self.of(other)))
        self.above[second] = first

    def next_of(self, waiting: list[tuple[int, int]]) -> list[tuple[int, int]]:
        """Take one pair of each two classes that are not one yet out of `waiting`, and return them; drop the others."""
        batch: dict[tuple[int, int], tuple[int, int]] = {}
        left = []
        for one, other in waiting:
            first, second = sorted((self.of(one), self.of(other)))
            if first == second:
                continue
            if (first, second) in batch:
                left.append((one, other))
            else:
                batch[first, second] = one, other
        waiting[:] = left
        return list(batch.values())

    def classes(self, names: Mapping[int, str]) -> dict[str, int]:
        """Return, by name, the class of each thing that is not alone in its own."""
        members = defaultdict(list)
        for at in names:
            members[self.of(at)].append(at)
        return {names[at]: first for first, same in members.items() if len(same) > 1 for at in same}
