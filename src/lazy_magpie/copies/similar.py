"""Items that are alike without holding the same bytes: the same picture, recording, film, outlines, or stitches.

The print of each file is taken once and remembered. An index finds candidates among the prints; a second look at two
files decides, and is remembered too. A class is no chain: each of its files is alike to the one that leads it, the best
of them, since likeness does not add up. Items whose main files are of the same classes are alike. All files are opened
in worker processes with limits, since anything may be in them.
"""

from __future__ import annotations

import base64
import os
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from functools import cached_property

from lazy_magpie.catalogue import Catalogue, FingerprintedFile
from lazy_magpie.copies.exact import Copies, DuplicateReport, Progress, apart
from lazy_magpie.copies.similarity import METHODS, module_of, rank_of, tasks
from lazy_magpie.copies.similarity.likeness import Likeness
from lazy_magpie.model import Item
from lazy_magpie.paths import split_ending
from lazy_magpie.readers import FAMILIES, family_of
from lazy_magpie.readers.worker_pool import Facts, Workers

_BATCH = 200
_LOOKS = 3
"""So many second looks a file is worth: the classes of its nearest candidates come first."""
_SECONDS = 120.0
"""How long one question may take: of a long film several places are read."""


class AlikeSearch:
    """A search for what is alike on the collection's own root; what can't be read is noted in `found`.

    It takes prints and second looks, and keeps both as they come, so that a search that was stopped goes on. As a
    context it ends the workers that it has.
    """

    def __init__(
        self,
        catalogue: Catalogue,
        root: str,
        found: DuplicateReport,
        jobs: int = 0,
        progress: Progress = lambda count: None,
    ) -> None:
        self.catalogue = catalogue
        self.root = root
        self.found = found
        self.progress = progress
        self.done = 0
        self.workers = Workers(tasks.__name__, jobs, _SECONDS)
        self._known: dict[str, dict[str, FingerprintedFile]] = {}

    def __enter__(self) -> AlikeSearch:
        return self

    def __exit__(self, *wrong: object) -> None:
        self.workers.__exit__(*wrong)

    def sets(self, items: Iterable[Item]) -> Iterator[Copies]:
        """Yield which of `items` are alike, sort by sort; what a scan has named as unreadable is passed over."""
        own = [item for item in items if not item.root and "unreadable" not in item.facts]
        for method, (_, _, kinds) in METHODS.items():
            of_sort = [item for item in own if item.kind in kinds]
            files = self._printed(method, of_sort)
            leaders, perhaps = self._classes(method, list(files.values())) if len(files) > 1 else ({}, [])
            by_classes: dict[frozenset[str], list[Item]] = defaultdict(list)
            for item in of_sort:
                mains = [leaders.get(path) for path in _mains(item)]
                if mains and None not in mains:
                    by_classes[frozenset(mains)].append(item)  # type: ignore[arg-type]
            sets = map(apart, by_classes.values())
            yield from (Copies(tuple(same), {}, match=method) for same in sets if len(same) > 1)
            alone = {item.files[0].path: item for item in of_sort if len(_mains(item)) == 1}
            yield from (
                Copies((alone[one], alone[other]), {}, match=method, sure=False)
                for one, other in perhaps
                if one in alone and other in alone
            )

    def alike_to(self, copies: Copies, stays: Item) -> list[Item]:
        """Return those of some things that are alike whose main files are each alike to one of the thing that stays.

        They were held against the files that lead their classes, which need not be those of what stays.
        """
        others = [item for item in copies.items if item is not stays]
        known = self._printed(copies.match, copies.items)
        kept = [known[path] for path in _mains(stays) if path in known]
        files = [*kept, *(known[path] for item in others for path in _mains(item) if path in known)]
        pairs = [(at, other) for other in range(len(kept), len(files)) for at in range(len(kept))]
        told = self._told(copies.match, files, pairs)
        alike = {files[other].path for (_, other), said in told.items() if said == Likeness.SURELY}
        return [item for item in others if alike.issuperset(_mains(item))]

    @cached_property
    def _seen(self) -> dict[tuple[int, int], int]:
        """What second looks have said, those of this search too."""
        return self.catalogue.fingerprints.looks()

    def _printed(self, method: str, items: Sequence[Item]) -> dict[str, FingerprintedFile]:
        """Return the main files of items that have a print, by path, taking those that are not known."""
        _, family, kinds = METHODS[method]
        paths = {path for item in items for path in _mains(item)}
        fitting = {path for path in paths if family_of(split_ending(path)[1].lower()) == FAMILIES.index(family)}
        known = self._known.get(method)
        if known is None:
            known = self._known[method] = self.catalogue.fingerprints.of_kinds(kinds)
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
            files[file.path] = known[file.path] = file._replace(print=base64.b64decode(str(said)))
            batch.append(files[file.path])
            if len(batch) >= _BATCH:
                self._keep(batch)
        self._keep(batch)
        return {path: file for path, file in files.items() if file.print}

    def _classes(self, method: str, files: Sequence[FingerprintedFile]) -> tuple[dict[str, str], list[tuple[str, str]]]:
        """Return which file leads the class that each one is of, where there are several in it; and pairs of files that
        are perhaps alike, each with one that leads."""
        pairs = module_of(method).candidates([file.print or b"" for file in files])
        ranks = [(rank_of(method, file.print or b""), file.size, -at) for at, file in enumerate(files)]
        order = sorted(range(len(files)), key=ranks.__getitem__, reverse=True)
        classes = _Classes(order, pairs.tolist())
        while asked := classes.next_pairs():
            told = self._told(method, files, asked)
            for one, other in asked:
                classes.tell(one, told[one, other])
        paths = [file.path for file in files]
        leaders = {paths[at]: paths[leader] for at, leader in classes.leaders().items()}
        return leaders, [(paths[one], paths[other]) for one, other in classes.perhaps]

    def _told(
        self, method: str, files: Sequence[FingerprintedFile], pairs: Sequence[tuple[int, int]]
    ) -> dict[tuple[int, int], int]:
        """Return how alike each pair of files is, by a look where that is not known; one under two names is alike."""
        told: dict[tuple[int, int], int] = {}
        unknown = []
        for pair in pairs:
            one, other = files[pair[0]], files[pair[1]]
            known = Likeness.SURELY if one.inode == other.inode else self._seen.get(_ids(one, other))
            if known is None:
                unknown.append(pair)
            else:
                told[pair] = known
        return told | dict(self._looks(method, files, unknown))

    def _looks(
        self, method: str, files: Sequence[FingerprintedFile], pairs: Sequence[tuple[int, int]]
    ) -> Iterator[tuple[tuple[int, int], int]]:
        """Take second looks at pairs of files, and yield how alike each pair is.

        Those with one leader come together: workers keep what they have decoded for a while.
        """
        pairs = sorted(pairs, key=lambda pair: (pair[1], pair[0]))
        questions = [
            tasks.confirm_task(method, self._whole(files[one]), self._whole(files[other])) for one, other in pairs
        ]
        looks: dict[tuple[int, int], int] = {}
        for at, answer in self._asked(questions):
            one, other = pairs[at]
            if "alike" in answer:
                ids = _ids(files[one], files[other])
                looks[ids] = self._seen[ids] = int(str(answer["alike"]))
            if len(looks) >= _BATCH:
                self._keep_looks(looks)
            yield pairs[at], int(str(answer.get("alike", 0)))
        self._keep_looks(looks)

    def _keep_looks(self, looks: dict[tuple[int, int], int]) -> None:
        self.catalogue.fingerprints.put_looks(looks)
        self.catalogue.commit()
        looks.clear()

    def _asked(self, questions: Sequence[Sequence[str]]) -> Iterator[tuple[int, Facts]]:
        for at, answer in self.workers.ask(questions):
            self.done += 1
            self.progress(self.done)
            yield at, answer

    def _keep(self, batch: list[FingerprintedFile]) -> None:
        self.catalogue.fingerprints.put(batch)
        self.catalogue.commit()
        batch.clear()

    def _whole(self, file: FingerprintedFile) -> str:
        return os.path.join(self.root, file.path)


def _mains(item: Item) -> list[str]:
    return [file.path for file in item.files if file.role == "main"]


def _ids(one: FingerprintedFile, other: FingerprintedFile) -> tuple[int, int]:
    return min(one.id, other.id), max(one.id, other.id)


class _Classes:
    """Files in classes, each led by the best of it: a file is held against those that lead, and joins one or leads.

    `order` has the places of files, the best first; `pairs` are those that may be alike, the most likely first. Which
    class a file is asked about, its nearest better ones say, once it is known who leads these. What is told of a file
    is how alike it is to the leader that it was asked about last.
    """

    def __init__(self, order: Sequence[int], pairs: Iterable[Sequence[int]]) -> None:
        turn = {at: number for number, at in enumerate(order)}
        self._better: dict[int, list[int]] = defaultdict(list)
        for one, other in pairs:
            worse, better = (one, other) if turn[one] > turn[other] else (other, one)
            self._better[worse].append(better)
        self._leader = {at: at for at in order if at not in self._better}
        self._waiting = [at for at in order if at in self._better]
        self._asked: dict[int, list[int]] = defaultdict(list)
        self._maybe: dict[int, int] = {}
        self.perhaps: list[tuple[int, int]] = []

    def next_pairs(self) -> list[tuple[int, int]]:
        """Return pairs (a file, one that leads) to be looked at now, none where all is known."""
        pairs: list[tuple[int, int]] = []
        before = -1
        while not pairs and len(self._waiting) != before:
            before = len(self._waiting)
            self._waiting = [at for at in self._waiting if at not in self._leader and self._stays(at, pairs)]
        return pairs

    def _stays(self, at: int, pairs: list[tuple[int, int]]) -> bool:
        """Let a file ask for its next look, or lead where there is nothing to ask; say whether it has to wait."""
        for better in self._better[at] if len(self._asked[at]) < _LOOKS else ():
            leader = self._leader.get(better)
            if leader is None:
                return True
            if leader not in self._asked[at]:
                self._asked[at].append(leader)
                pairs.append((at, leader))
                return True
        self._leader[at] = at
        if at in self._maybe:
            self.perhaps.append((self._maybe[at], at))
        return False

    def tell(self, at: int, alike: int) -> None:
        """Say how alike a file is to the one that it was asked about last."""
        leader = self._asked[at][-1]
        if alike >= Likeness.SURELY:
            self._leader[at] = leader
        elif alike:
            self._maybe.setdefault(at, leader)

    def leaders(self) -> dict[int, int]:
        """Return the leader of each file that is not alone in its class."""
        led = {leader for at, leader in self._leader.items() if leader != at}
        return {at: leader for at, leader in self._leader.items() if leader != at or at in led}
