"""What a step needs to be done: the disk, the drives, where held and unfinished things go, what the journal knows."""

from __future__ import annotations

import datetime
import errno
import time
from collections.abc import Callable, Mapping
from concurrent.futures import Future
from dataclasses import dataclass, field

from lazy_magpie.change.batches import names_of
from lazy_magpie.change.codec import claim_record, kept_record
from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.change.journal_state import Claim, StepResult
from lazy_magpie.change.records import Record
from lazy_magpie.change.state_folders import HELD, STATE_DIR, WORK, StateFolders, make_folders
from lazy_magpie.collection import MANIFEST_NAME
from lazy_magpie.model import FileStamp, FileStatus, FolderAttributes, Step
from lazy_magpie.model.steps import Copy, Pack, Unpack
from lazy_magpie.paths import join, name_of, parent, same_name, written
from lazy_magpie.plain_json import json_text

_READING = (Copy, Unpack, Pack)
MANIFEST = MANIFEST_NAME


class Skip(Exception):
    """A step is not done, and nothing of it was; the message says why."""


class DamagedArchive(Skip):
    """An archive that is damaged, cut off, or of a kind that can't be read: it will never be unpacked."""


class Stuck(Exception):
    """A step is half done and could be neither finished nor taken back: its run stays open, for recovery to try."""


def _silent(record: Record) -> None:
    """Note nothing."""


@dataclass
class RunContext:
    """The surroundings of one run of a change.

    `folders` and `attributes` say how the folders looked before that it touches, and that it drops; `planned` are the
    drives that were mounted inside the root when its plan was made ({folder: id}; None: not known), `claims` the empty
    files by which names were claimed and `was` the tags that files carried before, as the journal has them; `note`
    writes into it. `placing` is what steps had made when a crash came. `stop` says that a person wants to stop, `begun`
    are the conversions that run already.
    """

    disk: Filesystem
    change: int
    run: int
    folders: dict[str, tuple[int, int]] = field(default_factory=dict)
    attributes: dict[str, FolderAttributes] = field(default_factory=dict)
    planned: Mapping[str, str] | None = None
    claims: Mapping[str, Claim] = field(default_factory=dict)
    was: Mapping[int, str | None] = field(default_factory=dict)
    note: Callable[[Record], None] = _silent
    placing: Mapping[int, StepResult] = field(default_factory=dict)
    stop: Callable[[], bool] = lambda: False
    begun: dict[int, Future[str]] = field(default_factory=dict)
    touched: set[str] = field(default_factory=set)
    inside: set[str] = field(default_factory=set)

    def __post_init__(self) -> None:
        self.areas = StateFolders(self.disk)

    # --- places of our own -------------------------------------------------------------------------------------------

    def work_path(self, step: Step) -> str:
        """Return where what a step makes lies until it gets its name: in our own folder on its drive."""
        at = step.target or step.source
        return join(self.areas.top(at), f"{STATE_DIR}/{WORK}/{self.change}-{self.run}-{step.number}")

    def new_work_path(self, step: Step) -> str:
        """Return the same, with the folder that it lies in made, and nothing there."""
        path = self.work_path(step)
        self.areas.make_ready(self.areas.top(step.target or step.source), WORK)
        if self.disk.status(path):
            raise Stuck(f"“{written(path)}” is in the way")
        return path

    def held_path(self, path: str, *, is_folder: bool = False) -> str:
        """Return where `path` is held when this run takes it away: below the same drive's top, under its own path."""
        return held_path(self.areas.top(path), self.change, self.run, path, is_folder=is_folder)

    def found_held(self, path: str) -> str:
        """Return where `path` is held by this run, as a folder or as a file; where a file would be, if it is not."""
        as_folder = self.held_path(path, is_folder=True)
        return as_folder if self.disk.status(as_folder) else self.held_path(path)

    def held_status(self, path: str) -> FileStatus | None:
        """Return what of `path` this run holds, None if nothing: a folder in which other things are held is none."""
        held = self.found_held(path)
        status = self.disk.status(held)
        is_around = status is not None and status.is_folder and held == self.held_path(path)
        return None if is_around else status

    # --- taking away -------------------------------------------------------------------------------------------------

    def check_holdable(self, path: str) -> None:
        """Raise OSError or Skip where `path` could not be held: found out before anything else is done for it."""
        top = self.areas.top(path)
        self.areas.make_ready(top, HELD)
        if not self.disk.may_change_names(parent(path)):
            raise PermissionError(errno.EACCES, "no permission to take it away from its folder", path)
        if self.disk.status(self._new_held_path(path)):
            raise Skip("something is held under its name already")

    def _new_held_path(self, path: str) -> str:
        status = self.disk.status(path)
        return self.held_path(path, is_folder=status is not None and status.is_folder)

    def hold(self, path: str, why: str, still: Callable[[], bool] = lambda: True) -> str:
        """Move `path` into the holding area, note it in the manifest there, and return where it is now.

        `still` looks once more, now that it is gone from its place, whether what it must not outlive is there: where
        not, it is brought back, and Skip raised.
        """
        held = self._new_held_path(path)
        self.areas.make_ready(self.areas.top(path), HELD)
        self.make_folders(parent(held))
        self._tell_manifest(path, held, why)
        self.rename(path, held)
        if not still():
            self.rename(held, path)
            raise Skip("what would stay is the same file under another name, and went with it")
        return held

    def keep_work(self, made: str, step: Step) -> str:
        """Bring what lies in our own folder, and is understood by nobody, into the holding area; return where it is."""
        path = step.target or step.source
        held = f"{self.held_path(path)}.{step.number}.left"
        self.make_folders(parent(held))
        self._tell_manifest(path, held, "left by an interrupted step, and not to be found elsewhere")
        self.note(kept_record(path, held))
        self.rename(made, held)
        return held

    def _tell_manifest(self, path: str, held: str, why: str) -> None:
        """Write a line into the holding area's manifest, which is understood without magpie."""
        home = join(self.areas.top(path), f"{STATE_DIR}/{HELD}/{self.change:06}")
        record = {
            "held": written(held),
            "from": written(path),
            "why": why,
            "since": datetime.datetime.now(datetime.UTC).isoformat(timespec="seconds"),
            "change": self.change,
        }
        with self.disk.append(join(home, MANIFEST)) as file:
            file.write(json_text(record, spaced=True).encode() + b"\n")
        self.touched.add(home)

    def drop_second_name(self, path: str, step: Step, other: str = "") -> None:
        """Take away a hard link, if the file is still there under another name: `other`, or any where none is given.

        It is first moved aside, so that a name that only seems to be another one shows itself. Raises Skip otherwise.
        """
        aside = self.new_work_path(step)
        self.rename(path, aside)
        status, there = self.disk.status(aside), self.disk.status(other) if other else None
        is_other = status is not None and (not other or (there is not None and there.file_id == status.file_id))
        if status is None or status.links < 2 or not is_other:
            self.rename(aside, path)
            raise Skip("it is the file's only name now")
        self.drop_file(aside)

    # --- names -------------------------------------------------------------------------------------------------------

    def rename(self, source: str, target: str) -> None:
        """Rename without replacing, and remember which folders have to be synced."""

        def claimed(claim: FileStamp | None) -> None:
            self.note(claim_record(target, time.time_ns(), claim))

        self.disk.rename(source, target, claimed)
        self.touched |= {parent(source), parent(target)}

    def drop_file(self, path: str) -> None:
        """Take away a link, or a file that a step has made in our own folder, so that it lasts."""
        self.disk.drop_file(path)
        self.touched.add(parent(path))

    def rename_or_back(self, source: str, target: str, away: str, home: str) -> None:
        """Rename; where that fails, bring back what was put aside for it, from `away` to `home`, and raise."""
        try:
            self.rename(source, target)
        except OSError:
            self.back_or_stuck(away, home)
            raise

    def back_or_stuck(self, source: str, target: str) -> None:
        """Rename back what a step that failed half way had moved. Raises Stuck where that can't be done either."""
        try:
            self.rename(source, target)
        except OSError as error:
            raise Stuck(f"“{written(target)}” is at “{written(source)}” now: {error.strerror}") from error

    def make_folders(self, folder: str) -> None:
        """Make a folder and those above it, where they are missing."""
        self.touched.update(make_folders(self.disk, folder))

    def sync(self) -> None:
        """Make all that was done to names since the last call last."""
        self.disk.sync_folders(sorted(self.touched))
        self.touched.clear()
        self.inside.clear()

    # --- looking -----------------------------------------------------------------------------------------------------

    def check_place(self, step: Step) -> None:
        """Raise Skip where a step's names lie on other drives than planned, or a link leads to outside the root.

        What only reads may read outside, where its plan says so: that is what a person named for it.
        """
        only_reads = isinstance(step, _READING) and step.outside
        for path in [step.target] if only_reads else names_of(step):
            folder = parent(path)
            if folder in self.inside:
                continue
            self._check_drive(path)
            if not self.disk.is_inside(folder):
                raise Skip(f"a link leads from “{written(folder)}” to outside the collection")
            self.inside.add(folder)

    def _check_drive(self, path: str) -> None:
        """Raise Skip where the drive that `path` lies on is not the one that it lay on when the plan was made."""
        if self.planned is None or self.areas.drives is None:
            return
        top, drive = self.areas.drive_of(path)
        deepest = [folder for folder in self.planned if path.startswith(folder + "/")]
        planned = max(deepest, key=len, default="")
        if planned != top and len(planned) > len(top):
            raise Skip(f"the drive that was mounted at “{written(planned)}” is away")
        if planned != top or (top and self.planned[top] != drive):
            raise Skip(f"another drive is mounted at “{written(top)}” now")

    def matches(self, status: FileStatus, stamp: FileStamp | None) -> bool:
        """Say whether what is there is what was seen, by all that its drive keeps of a file."""
        if stamp is None or is_unchanged(status, stamp):
            return True
        return is_unchanged(status, stamp, by_inode=False) and not self.disk.keeps_inodes(status.device)

    def is_there(self, path: str, stamp: FileStamp | None) -> bool:
        """Say whether something is at `path`, and still what was seen."""
        status = self.disk.status(path)
        return status is not None and self.matches(status, stamp)

    def was_placed(self, step: Step) -> StepResult | None:
        """Return what a step had made before a crash, where that has its name now; None where it has not."""
        made = self.placing.get(step.number)
        return made if made and made.made and self.is_there(step.target, made.made) else None

    def checked(self, path: str, stamp: FileStamp | None) -> FileStatus:
        """Return what is at `path`, if it is still what the plan saw. Raises Skip where it is not."""
        status = self.disk.status(path)
        if status is None:
            raise Skip("it is no longer there")
        if stamp is not None and not self.matches(status, stamp):
            raise Skip("it has changed since the plan was made")
        return status


def held_path(top: str, change: int, run: int, path: str, *, is_folder: bool = False) -> str:
    """Return where a run of a change holds `path`, which lies on the drive whose topmost folder is `top`.

    Folders are held apart by how deep they lay, so that one never meets what was held out of it before.
    """
    rest = path[len(top) + 1 :] if top else path
    apart = f"-{rest.count('/')}" if is_folder else ""
    return join(top, f"{STATE_DIR}/{HELD}/{change:06}/{run}{apart}/{rest}")


def differs_in_case_only(step: Step) -> bool:
    """Say whether a move changes only the case or the accents of a name: some drives take both for one name."""
    together = parent(step.source) == parent(step.target) and step.source != step.target
    return together and same_name(name_of(step.source)) == same_name(name_of(step.target))


def is_unchanged(status: FileStatus, stamp: FileStamp, *, by_inode: bool = True) -> bool:
    """Say whether a file or folder is still the one that was seen: of a folder only the inode counts.

    Without `by_inode`, for drives that number their files anew at every mount, size and time decide.
    """
    if stamp.is_folder or status.is_folder:
        return stamp.is_folder and status.is_folder and (status.inode == stamp.inode or not by_inode)
    return status.size == stamp.size and status.mtime == stamp.mtime and (status.inode == stamp.inode or not by_inode)
