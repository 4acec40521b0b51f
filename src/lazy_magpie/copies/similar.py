"""Items that are alike without holding the same bytes: the same picture, recording, film, outlines, or stitches.

The print of each file is taken once and remembered. An index finds candidates among the prints; a second look at two
files decides, and is remembered too. Files that are alike are of one class, and items whose main files are of the
same classes are alike. All files are opened in worker processes with limits, since anything may be in them.
"""

from __future__ import annotations

import base64
import os
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from typing import TYPE_CHECKING

from lazy_magpie.catalogue import Catalogue, FingerprintedFile
from lazy_magpie.copies.exact import Copies, DuplicateReport, Progress, apart
from lazy_magpie.copies.similarity import METHODS, module_of, tasks
from lazy_magpie.model import Item
from lazy_magpie.paths import split_ending
from lazy_magpie.readers import FAMILIES, family_of
from lazy_magpie.readers.worker_pool import Facts, ask_all

if TYPE_CHECKING:
    from scipy.cluster.hierarchy import DisjointSet

_BATCH = 200
_SECONDS = 120.0
"""How long one question may take: of a long film several places are read."""


def find_alike(
    catalogue: Catalogue,
    root: str,
    items: Iterable[Item],
    found: DuplicateReport,
    jobs: int = 0,
    progress: Progress = lambda count: None,
) -> list[Copies]:
    """Return which of `items` on the collection's own root are alike; what can't be read is noted in `found`.

    What a scan has named as unreadable already is passed over.
    """
    seeker = _Matcher(catalogue, root, found, jobs, progress)
    own = [item for item in items if not item.root and "unreadable" not in item.facts]
    copies = []
    for method, (_, _, kinds) in METHODS.items():
        of_sort = [item for item in own if item.kind in kinds]
        files = seeker.printed(method, of_sort)
        classes = seeker.classes(method, list(files.values())) if len(files) > 1 else {}
        by_classes: dict[frozenset[int], list[Item]] = defaultdict(list)
        for item in of_sort:
            mains = [classes.get(file.path) for file in item.files if file.role == "main"]
            if mains and None not in mains:
                by_classes[frozenset(mains)].append(item)  # type: ignore[arg-type]
        sets = (apart(same) for same in by_classes.values())
        copies += [Copies(tuple(same), {}, match=method) for same in sets if len(same) > 1]
    return copies


class _Matcher:
    """Takes prints and second looks, and keeps both as they come, so that a search that was stopped goes on."""

    def __init__(self, catalogue: Catalogue, root: str, found: DuplicateReport, jobs: int, progress: Progress) -> None:
        self.catalogue = catalogue
        self.root = root
        self.found = found
        self.jobs = jobs
        self.progress = progress
        self.done = 0

    def printed(self, method: str, items: Sequence[Item]) -> dict[str, FingerprintedFile]:
        """Return the main files of items that have a print, by path, taking those that are not known."""
        paths = {file.path for item in items for file in item.files if file.role == "main"}
        _, family, kinds = METHODS[method]
        fitting = {path for path in paths if family_of(split_ending(path)[1].lower()) == FAMILIES.index(family)}
        known = self.catalogue.fingerprints.of_kinds(kinds)
        files = {path: known[path] for path in sorted(fitting & known.keys())}
        missing = [file for file in files.values() if file.print is None]
        questions = [tasks.fingerprint_task(method, self._whole(file)) for file in missing]
        batch: list[FingerprintedFile] = []
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

    def classes(self, method: str, files: Sequence[FingerprintedFile]) -> dict[str, int]:
        """Return for each file that is alike another one which class it is of."""
        from scipy.cluster.hierarchy import DisjointSet  # takes long to load

        pairs = module_of(method).candidates([file.print or b"" for file in files])
        joined = DisjointSet(range(len(files)))
        seen = self.catalogue.fingerprints.looks()
        waiting: list[tuple[int, int]] = []
        for one, other in pairs.tolist():
            known = seen.get(_ids(files[one], files[other]))
            if known or files[one].inode == files[other].inode:
                joined.merge(one, other)
            elif known is None:
                waiting.append((one, other))
        while batch := _between_classes(joined, waiting):
            for (one, other), alike in self._looks(method, files, batch):
                if alike:
                    joined.merge(one, other)
        return {files[at].path: min(one) for one in joined.subsets() if len(one) > 1 for at in one}

    def _looks(
        self, method: str, files: Sequence[FingerprintedFile], pairs: Sequence[tuple[int, int]]
    ) -> Iterator[tuple[tuple[int, int], bool]]:
        """Take second looks at pairs of files, and yield what each has said."""
        questions = [
            tasks.confirm_task(method, self._whole(files[one]), self._whole(files[other])) for one, other in pairs
        ]
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
        self.catalogue.fingerprints.put_looks(looks)
        self.catalogue.commit()
        looks.clear()

    def _asked(self, questions: Sequence[Sequence[str]]) -> Iterator[tuple[int, Facts]]:
        for at, answer in ask_all(questions, tasks.__name__, self.jobs, _SECONDS):
            self.done += 1
            self.progress(self.done)
            yield at, answer

    def _keep(self, batch: list[FingerprintedFile]) -> None:
        self.catalogue.fingerprints.put(batch)
        self.catalogue.commit()
        batch.clear()

    def _whole(self, file: FingerprintedFile) -> str:
        return os.path.join(self.root, file.path)


def _ids(one: FingerprintedFile, other: FingerprintedFile) -> tuple[int, int]:
    return min(one.id, other.id), max(one.id, other.id)


def _between_classes(joined: DisjointSet, waiting: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Take one pair of each two classes that are not one yet out of `waiting`, and return them; drop the others."""
    batch: dict[tuple[int, int], tuple[int, int]] = {}
    later = []
    for one, other in waiting:
        first, second = sorted((joined[one], joined[other]))
        if first == second:
            continue
        if (first, second) in batch:
            later.append((one, other))
        else:
            batch[first, second] = one, other
    waiting[:] = later
    return list(batch.values())
