"""Plans folders of links: what a find names, grouped by a template, and only links that magpie made are taken out.

A view lies in `Views/NAME`. A small note in it says what it shows, so that a scan passes it by and a new catalogue
knows it again.
"""

from __future__ import annotations

import json
import os
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from lazy_magpie.catalogue import Catalogue, Condition, View
from lazy_magpie.change import Area, Disk, held
from lazy_magpie.change.disk import Status
from lazy_magpie.config import Config
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Conflict, Do, File, Item, Kind, Left, Plan, Step
from lazy_magpie.naming import MissingField, template_of
from lazy_magpie.naming.safe import is_safe, safe_part, safe_value
from lazy_magpie.paths import is_below, join, name_of, parent, same_name, written
from lazy_magpie.plans.emptied import emptied, made
from lazy_magpie.plans.own import values_of
from lazy_magpie.scan.views import HOME, VIEW_NOTE, folder_of

LINKS = ("soft", "hard", "copy")
_IN_FOLDERS = (Kind.KIT, Kind.DESIGN, Kind.FONT)
"""Kinds of which a thing of several files has a folder of its own in a view."""
_OUT = "no longer in the view"
_DO = {"soft": Do.SOFTLINK, "hard": Do.HARDLINK, "copy": Do.COPY}


def checked(view: View, config: Config) -> View:
    """Return a view that can be made. Raises UsageError for its name and its sort of links, TemplateError."""
    if "/" in view.name or not is_safe(view.name, config.everywhere) or view.name.startswith("."):
        raise UsageError(f"“{view.name}” can't be a view's name; it becomes a folder's.")
    if view.by:
        template_of(view.by, frozenset(config.fields))
    return view


@dataclass
class _Draft:
    """A view in the making: which files each path is to stand for, whatever its case, and what has no place in it."""

    claims: dict[str, list[tuple[str, File]]] = field(default_factory=dict)
    left: list[Left] = field(default_factory=list)

    def want(self, path: str, file: File) -> None:
        """Let `path` stand for a file."""
        self.claims.setdefault(same_name(path), []).append((path, file))

    @property
    def wanted(self) -> dict[str, File]:
        """What stands where, but for names that several want."""
        return dict(claims[0] for claims in self.claims.values() if len(claims) == 1)

    @property
    def conflicts(self) -> tuple[Conflict, ...]:
        """The names that several want: none of them gets one."""
        why = "they want one name in the view"
        several = (claims for claims in self.claims.values() if len(claims) > 1)
        return tuple(Conflict(claims[0][0], tuple(file.path for _, file in claims), why) for claims in several)


def refresh(catalogue: Catalogue, config: Config, disk: Disk, view: View, condition: Condition) -> Plan:
    """Plan what a view lacks, and taking out what it has of magpie's that it should not have any more.

    The links that it shall have are kept in the catalogue at once: they say what magpie may take out of it later.
    """
    draft = _Draft()
    backups = 0
    for item in catalogue.items.ask(condition):
        if config.is_left(item.path) and not item.root:
            backups += 1
        else:
            _place(item, view, config, draft)
    wanted, left = draft.wanted, list(draft.left)
    known = catalogue.views.links(view.name)
    note = join(folder_of(view), VIEW_NOTE)
    steps = _note(disk, view, note, json.dumps(view.made, ensure_ascii=False) + "\n")
    gone = {path for path in known if path not in wanted or wanted[path].path != known[path]}
    taken = _taken_out(catalogue, disk, view, {path: known[path] for path in sorted(gone)})
    freed = {step.source for step in taken}
    for path, file in sorted(wanted.items()):
        status = disk.status(path) if path not in freed else None
        if status is None:
            steps.append(_put_in(view, path, file))
        elif not _stands_for(disk, view, path, status, file.path):
            left.append(Left(path, "something else of that name is there"))
    catalogue.views.keep_links(view.name, {path: file.path for path, file in wanted.items()}, gone)
    steps = [*taken, *made(disk, (step.target for step in steps if step.target)), *steps]
    coming = {step.target for step in steps if step.target}
    steps += emptied(disk, (step.source for step in taken), coming, folder_of(view), view.name)
    passed = {"in folders left alone": backups} if backups else {}
    return Plan("view", _numbered(steps), draft.conflicts, tuple(left), passed)


def drop(catalogue: Catalogue, disk: Disk, view: View) -> Plan:
    """Plan taking a view away: its links, its note, and the folders that are empty then."""
    known = catalogue.views.links(view.name)
    taken = _taken_out(catalogue, disk, view, known)
    note = join(folder_of(view), VIEW_NOTE)
    if status := disk.status(note):
        taken.append(Step(0, Do.HOLD, note, "", "the view's own note", view.name, seen=status.seen))
    return Plan("view drop", _numbered([*taken, *emptied(disk, [step.source for step in taken], (), HOME, view.name)]))


def _place(item: Item, view: View, config: Config, draft: _Draft) -> None:
    """Say where an item's files stand in a view."""
    if item.root:
        draft.left.append(Left(item.path, f"it lies on another drive ({item.root})"))
        return
    home = folder_of(view)
    if view.by:
        values = values_of(item, config.fields)
        safe = {key: safe_value(v, config.everywhere) if isinstance(v, str) else v for key, v in values.items()}
        try:
            group = template_of(view.by, frozenset(config.fields)).render(safe)
        except MissingField as missing:
            draft.left.append(Left(item.path, f"it has no {missing.field.replace('_', ' ')}", asks=True))
            return
        parts = [safe_part(part, config.everywhere) for part in group.split("/")]
        home = "/".join([home, *filter(None, parts)])
    mains = [file for file in item.files if file.role == "main"]
    base = _common([file.path for file in mains]) if len(mains) > 1 and item.kind in _IN_FOLDERS else ""
    if base:
        home = join(home, name_of(base))
    for file in item.files:
        rest = file.path[len(base) + 1 :] if base and is_below(file.path, base) else name_of(file.path)
        draft.want(join(home, rest), file)


def _common(paths: Sequence[str]) -> str:
    base = parent(paths[0])
    while base and not all(is_below(path, base) for path in paths):
        base = parent(base)
    return base


def _put_in(view: View, path: str, file: File) -> Step:
    do = _DO[view.links]
    if do is Do.SOFTLINK:
        text = os.path.relpath("/" + file.path, "/" + parent(path))
        return Step(0, do, "", path, "in the view", view.name, data={"text": text})
    return Step(0, do, file.path, path, "in the view", view.name, seen=file.seen)


def _stands_for(disk: Disk, view: View, path: str, status: Status, target: str) -> bool:
    """Say whether what is at `path` is what this view would put there for a file."""
    match view.links:
        case "soft":
            where = os.path.relpath("/" + target, "/" + parent(path))
            return status.is_link and disk.link_text(path) == where
        case "hard":
            other = disk.status(target)
            return other is not None and (other.device, other.inode) == (status.device, status.inode)
        case _:
            other = disk.status(target)
            same = other is not None and (other.size, other.mtime) == (status.size, status.mtime)
            return same and not status.is_link and not status.is_folder


def _taken_out(catalogue: Catalogue, disk: Disk, view: View, links: Mapping[str, str]) -> list[Step]:
    """Return the steps that take out what magpie put at paths, each with its target, if it is there and still that."""
    there = {path: status for path in links if (status := disk.status(path)) is not None and not status.is_folder}
    hard = {status.inode for status in there.values() if view.links == "hard" and not status.is_link}
    now = catalogue.files.paths_with(hard) if hard else {}  # where the files are by now, so that undo finds them
    if hard - now.keys():
        now |= {one.seen.inode: one.path for one in held(Area(disk)) if one.seen.inode in hard}
    steps = (_out(disk, view, path, status, links[path], now) for path, status in there.items())
    return [step for step in steps if step is not None]


def _out(disk: Disk, view: View, path: str, status: Status, target: str, now: Mapping[int, str]) -> Step | None:
    if status.is_link:
        text = disk.link_text(path)
        is_ours = text == os.path.relpath("/" + target, "/" + parent(path))
        data = {"link": "", "text": text}
        return Step(0, Do.DROP, path, "", _OUT, view.name, 0, status.seen, data) if is_ours else None
    if view.links == "hard" and status.links > 1:
        data = {"link": now.get(status.inode, target)}
        return Step(0, Do.DROP, path, "", _OUT, view.name, 0, status.seen, data)
    return Step(0, Do.HOLD, path, "", _OUT, view.name, 0, status.seen) if view.links == "copy" else None


def _note(disk: Disk, view: View, path: str, text: str) -> list[Step]:
    """Return the steps that let a view's folder say what it shows."""
    write = Step(0, Do.WRITE, "", path, "what the view shows", view.name, data={"text": text})
    status = disk.status(path)
    if status is None or status.is_folder:
        return [write]
    with disk.open_old(path) as file:
        if file.read() == text.encode():
            return []
    return [Step(0, Do.HOLD, path, "", "the view shows something else now", view.name, seen=status.seen), write]


def _numbered(steps: Iterable[Step]) -> tuple[Step, ...]:
    return tuple(step.numbered(number) for number, step in enumerate(steps, start=1))


def same_view(name: str, views: Iterable[str]) -> str:
    """Return the view of this name in any case, "" for none."""
    return next((known for known in views if same_name(known) == same_name(name)), "")


def shown(view: View) -> str:
    """Return what a view shows, as a person would type it."""
    words = " ".join(f'"{word}"' if " " in word else word for word in view.words)
    return written(words) + (f"  by {view.by}" if view.by else "")
