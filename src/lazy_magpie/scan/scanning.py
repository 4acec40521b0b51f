"""A scan from its beginning to its end: walks, follows moves, reads, identifies, brings the index up to date."""

from __future__ import annotations

import json
import time
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from collections.abc import Collection as Collection_
from dataclasses import dataclass, field
from functools import partial
from typing import NamedTuple

from lazy_magpie import readers
from lazy_magpie.catalogue import MAIN_ROOT, Catalogue
from lazy_magpie.change import Filesystem, StateFolders
from lazy_magpie.collection import STATE_DIR_NAME, Collection
from lazy_magpie.config import Config
from lazy_magpie.drives import MountedDrives, located
from lazy_magpie.formatting import count_text
from lazy_magpie.identify.namesakes import namesakes_of
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.paths import is_below, join, written
from lazy_magpie.scan import decision_log, folder_roles, move_detection, original_paths, tag_sync
from lazy_magpie.scan.basis import rules_of
from lazy_magpie.scan.folder_unit import ORDER, Knowledge
from lazy_magpie.scan.metadata import read_facts
from lazy_magpie.scan.pipeline import (
    KnownIn,
    identify_folders,
    knowledge_of,
    known_makers,
    known_namesakes,
    nothing_known,
)
from lazy_magpie.scan.view_folders import known_views
from lazy_magpie.scan.walk import RootToWalk, Walked, tops_of, walk
from lazy_magpie.stable_hash import stable_number

_COMMIT_EVERY = 20_000

Progress = Callable[[str, int], None]
"""Is told what is being done ("walking", "identifying") and how many files are done."""


class Unread(NamedTuple):
    """What could not be read: the name of its root ("" for the collection's own), its path there, and why."""

    root: str
    path: str
    why: str


@dataclass(frozen=True, slots=True)
class ScanResult:
    """What a scan did. `seconds` are those of walking and storing, reading, identifying, indexing, and all.

    `notes` are sentences on roots that are away or can't be told apart.

    `tagged` counts the items whose tags have changed because other programs put or took words on their files.
    `unreadable` are folders and files that the disk did not let be read, `refused` files that their reader could make
    nothing of: damaged, cut off, or not what they seem.
    """

    files: int
    new: int
    changed: int
    moved: int
    missing: int
    links: int
    bytes: int
    tagged: int
    unreadable: Sequence[Unread]
    refused: Sequence[Unread]
    notes: Sequence[str]
    seconds: dict[str, float] = field(default_factory=dict)


def _forget_what_was_read_otherwise(catalogue: Catalogue, here: MountedDrives) -> bool:
    """Forget what files on the roots that are there said to readers of another way; say whether there was any."""
    forgotten = False
    for root in here.tops:
        if catalogue.noted(f"readers of {root}") != str(readers.WAY):
            catalogue.note(f"readers of {root}", str(readers.WAY))
            forgotten |= catalogue.files.forget_told(root)
    return forgotten


class _Laps:
    """How long the stages of a scan take, in seconds."""

    def __init__(self) -> None:
        self._start = self._last = time.perf_counter()
        self._laps: dict[str, float] = {}

    def end(self, stage: str) -> None:
        """End a stage now, and begin the next."""
        now = time.perf_counter()
        self._laps[stage] = now - self._last
        self._last = now

    def all(self) -> dict[str, float]:
        """Return the seconds of each stage, and of all."""
        laps = {**self._laps, "all": self._last - self._start}
        return {stage: round(seconds, 4) for stage, seconds in laps.items()}


def scan(
    catalogue: Catalogue,
    collection: Collection,
    paths: Sequence[str] | None = None,
    *,
    full: bool = False,
    jobs: int = 0,
    progress: Progress = lambda what, count: None,
) -> ScanResult:
    """Bring the catalogue up to date with the disk: all roots that are there, or what lies below `paths`.

    `paths` are whole paths of folders and files on any of the roots. `full` identifies everything anew, not only what
    changed. `jobs` processes read and identify, 0: one a processor.
    """
    laps = _Laps()
    number = catalogue.next_scan()
    here = located(catalogue, collection)
    passed = _exclusion_reason(catalogue, collection, here)
    walked, unreadable = _walked(catalogue, here, paths, number, progress, passed)
    laps.end("walk")
    moved, folders = move_detection.follow(catalogue, number)
    rules = rules_of(collection.config)
    forgotten = _forget_what_was_read_otherwise(catalogue, here)
    anew = full or forgotten or catalogue.noted("config") != rules
    catalogue.note("config", rules)
    catalogue.files.mark_dirty(catalogue.files.all_folders() if anew else folders)
    catalogue.commit()
    dirty = catalogue.files.dirty_folders()
    if number == 1:
        decision_log.restore_roles(catalogue, here.places)
        decision_log.restore_left(catalogue, here.places)
    folder_roles.refresh(catalogue, dirty)
    dirty = catalogue.files.dirty_folders()
    refused, later = read_facts(catalogue, here, dirty, jobs, lambda count: progress("reading", count))
    tag_sync.collect(catalogue, collection.config, here, catalogue.files.suspected())
    laps.end("read")
    config = collection.config
    known = nothing_known if anew else catalogue.known.in_folder
    _identify(catalogue, config, _Work(dirty, known, jobs), progress)
    if number == 1:  # a new catalogue
        moved_once = original_paths.restore(catalogue, collection)
        _identify(catalogue, config, _Work(moved_once, catalogue.known.in_folder, jobs), progress)
        decision_log.restore(catalogue, here.places)
    tagged = tag_sync.synchronize(catalogue, here.places)
    catalogue.commit()
    laps.end("identify")
    catalogue.writer.index_stale()
    if later:  # these folders are looked at again, though nothing in them changes
        catalogue.files.mark_dirty(dirty)
    catalogue.note("new", str(walked.new - moved))
    catalogue.commit()
    laps.end("index")
    waiting = [
        f"{count_text(count, 'file')} could not be read now: {why}. The next scan tries again."
        for why, count in later.items()
    ]
    return ScanResult(
        files=walked.files,
        new=walked.new - moved,  # of what was moved neither end is new or missing
        changed=walked.changed,
        moved=moved,
        missing=walked.missing - moved,
        links=walked.links,
        bytes=walked.bytes,
        tagged=tagged,
        unreadable=unreadable,
        refused=[_unread(here, path, why) for path, why in refused],
        notes=(*here.notes, *map(_apart, walked.apart), *waiting),
        seconds=laps.all(),
    )


class _Work(NamedTuple):
    """Folders (ids) whose files are to be identified, what they are known as, and how many processes work."""

    folders: Sequence[int]
    known: KnownIn
    jobs: int


def _identify(catalogue: Catalogue, config: Config, work: _Work, progress: Progress) -> None:
    """Identify what lies in folders, and commit from time to time."""
    done = 0
    for count in _gathered(catalogue, config, work):
        if (done + count) // _COMMIT_EVERY > done // _COMMIT_EVERY:
            catalogue.commit()
        done += count
        progress("identifying", done)
    if work.folders:
        catalogue.writer.forget_ownerless()


def _walked(
    catalogue: Catalogue,
    here: MountedDrives,
    paths: Sequence[str] | None,
    number: int,
    progress: Progress,
    passed: Mapping[int, Collection_[str]],
) -> tuple[Walked, list[Unread]]:
    """Walk every root that is there, or what `paths` name of them."""
    all_of = Walked()
    unreadable = []
    for root, top in here.tops.items():
        below = [""] if paths is None else [path[len(top) + 1 :] for path in paths if is_below(path, top)]
        before = all_of.files
        if below:
            tick = partial(_tick, progress, before)
            found = walk(catalogue, RootToWalk(root, top, passed[root]), tops_of(below, top), number, tick)
            unreadable += [Unread(here.names[root], path, why) for path, why in found.unreadable]
            all_of.add(found)
            if paths is None:
                catalogue.roots.note_scan(root, found.files, found.bytes)
    return all_of, unreadable


def _exclusion_reason(catalogue: Catalogue, collection: Collection, here: MountedDrives) -> dict[int, frozenset[str]]:
    """Return the folders of each root that are no part of the collection: magpie's own, the views that it made,
    targets.

    Any other folder called `.magpie` came with something that was downloaded, and is data.
    """
    found = {
        root: frozenset(join(area, STATE_DIR_NAME) for area in StateFolders(Filesystem(top)).tops())
        for root, top in here.tops.items()
    }
    found[MAIN_ROOT] |= known_views(catalogue, collection)
    places = (collection.relative(target.folder) for target in collection.config.targets.values())
    found[MAIN_ROOT] |= {place for place in places if place}
    for top in here.tops.values():  # a root inside another one is scanned as itself
        for root, outer in here.tops.items():
            if top != outer and is_below(top, outer):
                found[root] |= {top[len(outer) + 1 :]}
    return found


def _apart(folder: str) -> str:
    return (
        f"“{written(folder)}” is a collection of its own, with a magpie.toml and a catalogue: it is kept apart, and "
        "nothing of it is in this one."
    )


def _tick(progress: Progress, before: int, count: int) -> None:
    progress("walking", before + count)


def _unread(here: MountedDrives, path: str, why: str) -> Unread:
    root = next(number for number, top in here.tops.items() if is_below(path, top))
    return Unread(here.names[root], path[len(here.tops[root]) + 1 :], why)


def _gathered(catalogue: Catalogue, config: Config, work: _Work) -> Iterator[int]:
    """Gather the folders where anything is new, and again what all of them together say more of."""
    namesakes = known_namesakes(catalogue)
    yield from identify_folders(
        catalogue, Knowledge.of(config, namesakes=namesakes), work.folders, work.known, work.jobs
    )
    if work.folders:
        yield from _of_makers(catalogue, config, work)
        yield from _of_namesakes(catalogue, config, work)


def _of_namesakes(catalogue: Catalogue, config: Config, work: _Work) -> Iterator[int]:
    """Gather again the episodes of shows that share their name with another one now, or do so no more."""
    shows = catalogue.items.shows()
    before, now = known_namesakes(catalogue), namesakes_of(shows)
    changed = {name for name in before.keys() | now.keys() if before.get(name) != now.get(name)}
    if not changed:
        return
    catalogue.note("namesakes", json.dumps(now))
    named = {show for show, year in shows if not year and match_key(show) in changed}
    folders = sorted({folder for show in named for folder in catalogue.items.folders_of_undated(show)})
    yield from identify_folders(catalogue, knowledge_of(catalogue, config), folders, nothing_known, work.jobs)


def _of_makers(catalogue: Catalogue, config: Config, work: _Work) -> Iterator[int]:
    """Gather again, where makers are known now, what was in doubt about its maker."""
    waiting = catalogue.items.folders_in_doubt(ORDER)
    makers = known_makers(catalogue) if waiting else frozenset()
    said = str(stable_number(sorted(makers)))
    if said == catalogue.noted("makers"):  # what they say of other folders was heard
        waiting = sorted(set(waiting).intersection(work.folders))
    if waiting and makers:
        all_else = partial(catalogue.known.in_folder, doubt=ORDER)
        yield from identify_folders(catalogue, knowledge_of(catalogue, config), waiting, all_else, work.jobs)
    catalogue.note("makers", said)


def identify_again(catalogue: Catalogue, collection: Collection, folders: Iterable[int]) -> None:
    """Identify the files of `folders` (ids) anew, as a scan would that finds them changed."""
    knowledge = knowledge_of(catalogue, collection.config)
    for _ in identify_folders(catalogue, knowledge, sorted(set(folders)), catalogue.known.in_folder):
        pass
