"""Plans folders of links: what a find names, grouped by a template, and only links that magpie made are taken out.

A view lies in `Views/NAME`. A small note in it says what it shows, so that a scan passes it by and a new catalogue
knows it again.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from lazy_magpie.catalogue import Catalogue, Condition, View
from lazy_magpie.companion_files import LIST_FORMS, PLAYED
from lazy_magpie.config import Config
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Conflict, File, FileStatus, Item, Kind, Plan, Step, Unmoved
from lazy_magpie.model.steps import Copy, DropLink, Hardlink, Hold, RewriteText, Softlink, Write, renumbered
from lazy_magpie.naming import MissingField, template_of
from lazy_magpie.naming.safe import is_safe, safe_part, safe_value
from lazy_magpie.paths import is_below, join, name_of, parent, same_name, split_ending, written
from lazy_magpie.plain_json import json_text
from lazy_magpie.planners.custom_fields import values_of
from lazy_magpie.planners.directory_steps import drop_emptied, make_missing
from lazy_magpie.planners.disk_view import DiskView
from lazy_magpie.scan.view_folders import HOME, VIEW_NOTE, folder_of

HeldPaths = Callable[[], Mapping[int, str]]
"""Returns where the holding area has which file, by inode."""
LINKS = ("soft", "hard", "copy", *LIST_FORMS)
_IN_FOLDERS = (Kind.KIT, Kind.DESIGN, Kind.FONT)
"""Kinds whose things get a folder in a view if they have several files."""
_OUT = "no longer in the view"


def checked(view: View, config: Config) -> View:
    """Return a view that can be made. Raises UsageError for its name and its kind of links, TemplateError."""
    if "/" in view.name or not is_safe(view.name, everywhere=config.everywhere) or view.name.startswith("."):
        raise UsageError(f"“{view.name}” can't be a view's name; it becomes a folder's.")
    if view.by:
        template_of(view.by, frozenset(config.fields))
    return view


@dataclass
class _ViewDraft:
    """A view in the making: which files each path is to stand for, whatever its case, and what has no place in it."""

    claims: dict[str, list[tuple[str, File]]] = field(default_factory=dict)
    unmoved: list[Unmoved] = field(default_factory=list)

    def want(self, path: str, file: File) -> None:
        """Register `file` as a candidate for the link at `path`."""
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


def refresh(
    catalogue: Catalogue, config: Config, disk: DiskView, held: HeldPaths, view: View, condition: Condition
) -> Plan:
    """Plan what a view lacks, and taking out what it has of magpie's that it should not have any more.

    The links that it shall have are kept in the catalogue at once: they say what magpie may take out of it later.
    """
    if view.links in LIST_FORMS:
        return _refresh_lists(catalogue, config, disk, view, condition)
    draft = _ViewDraft()
    backups = 0
    for item in catalogue.items.ask(condition):
        if config.is_left(item.path) and not item.root:
            backups += 1
        else:
            _place(item, view, config, draft)
    wanted, left = draft.wanted, list(draft.unmoved)
    known = catalogue.views.links(view.name)
    note = join(folder_of(view), VIEW_NOTE)
    steps = _note(disk, view, note, json_text(view.made) + "\n")
    gone = {path for path in known if path not in wanted or wanted[path].path != known[path]}
    taken = _taken_out(catalogue, disk, held, view, {path: known[path] for path in sorted(gone)})
    freed = {step.source for step in taken}
    for path, file in sorted(wanted.items()):
        status = disk.status(path) if path not in freed else None
        if status is None:
            steps.append(_put_in(view, path, file))
        elif not _stands_for(disk, view, path, status, file.path):
            left.append(Unmoved(path, "something else of that name is there"))
    catalogue.views.keep_links(view.name, {path: file.path for path, file in wanted.items()}, gone)
    steps = [*taken, *make_missing(disk, (step.target for step in steps if step.target)), *steps]
    coming = {step.target for step in steps if step.target}
    steps += drop_emptied(disk, (step.source for step in taken), coming, folder_of(view), view.name)
    passed = {"in folders left alone": backups} if backups else {}
    return Plan("view", renumbered(steps), draft.conflicts, tuple(left), passed)


def _refresh_lists(catalogue: Catalogue, config: Config, disk: DiskView, view: View, condition: Condition) -> Plan:
    """Plan the play lists of a view: one, or one for each group; those that it should not have any more are held."""
    draft = _ViewDraft()
    entries: dict[str, list[tuple[Item, str]]] = {}
    for item in catalogue.items.ask(condition):
        if item.root or config.is_left(item.path) or not (view.links == "html" or item.kind in PLAYED):
            continue
        if (home := _home(item, view, config, draft)) is not None:
            name = view.name if home == folder_of(view) else name_of(home)
            path = join(parent(home) if home != folder_of(view) else home, f"{name}.{view.links}")
            entries.setdefault(path, []).extend((item, file.path) for file in item.files if file.role == "main")
    note = join(folder_of(view), VIEW_NOTE)
    steps = _note(disk, view, note, json_text(view.made) + "\n")
    known = catalogue.views.links(view.name)
    for path, some in entries.items():
        text = LIST_FORMS[view.links](split_ending(name_of(path))[0], some, parent(path))
        if disk.status(path) is None:
            steps.append(Write(target=path, why="in the view", group=view.name, text=text))
        elif path not in known:
            draft.unmoved.append(Unmoved(path, "something else of that name is there"))
        elif _text_at(disk, path) != text:
            steps.append(RewriteText(target=path, why="what it names has changed", group=view.name, text=text))
    taken = _taken_out(catalogue, disk, dict, view, {path: known[path] for path in known if path not in entries})
    catalogue.views.keep_links(view.name, dict.fromkeys(entries, ""), known.keys() - entries.keys())
    steps = [*taken, *make_missing(disk, (step.target for step in steps)), *steps]
    return Plan("view", renumbered(steps), unmoved=tuple(draft.unmoved))


def _text_at(disk: DiskView, path: str) -> str:
    with disk.open_old(path) as file:
        return file.read().decode("utf-8", "surrogateescape")


def drop(catalogue: Catalogue, disk: DiskView, held: HeldPaths, view: View) -> Plan:
    """Plan taking a view away: its links, its note, and the folders that are empty then."""
    known = catalogue.views.links(view.name)
    taken = _taken_out(catalogue, disk, held, view, known)
    note = join(folder_of(view), VIEW_NOTE)
    if status := disk.status(note):
        taken.append(Hold(source=note, why="the view's own note", group=view.name, stamp=status.stamp))
    return Plan(
        "view drop", renumbered([*taken, *drop_emptied(disk, [step.source for step in taken], (), HOME, view.name)])
    )


def _place(item: Item, view: View, config: Config, draft: _ViewDraft) -> None:
    """Say where an item's files stand in a view."""
    if item.root:
        draft.unmoved.append(Unmoved(item.path, f"it lies on another drive ({item.root})"))
        return
    home = _home(item, view, config, draft)
    if home is None:
        return
    mains = [file for file in item.files if file.role == "main"]
    base = _common([file.path for file in mains]) if len(mains) > 1 and item.kind in _IN_FOLDERS else ""
    if base:
        home = join(home, name_of(base))
    for file in item.files:
        rest = file.path[len(base) + 1 :] if base and is_below(file.path, base) else name_of(file.path)
        draft.want(join(home, rest), file)


def _home(item: Item, view: View, config: Config, draft: _ViewDraft) -> str | None:
    """Return the folder of a view that an item goes to; None, with the reason noted, where it lacks what groups it."""
    home = folder_of(view)
    if view.by:
        values = values_of(item, config.fields)
        safe = {
            key: safe_value(v, everywhere=config.everywhere) if isinstance(v, str) else v for key, v in values.items()
        }
        try:
            group = template_of(view.by, frozenset(config.fields)).render(safe)
        except MissingField as missing:
            draft.unmoved.append(Unmoved(item.path, f"it has no {missing.field.replace('_', ' ')}", asks=True))
            return None
        parts = [safe_part(part, everywhere=config.everywhere) for part in group.split("/")]
        home = "/".join([home, *filter(None, parts)])
    return home


def _common(paths: Sequence[str]) -> str:
    base = parent(paths[0])
    while base and not all(is_below(path, base) for path in paths):
        base = parent(base)
    return base


def _put_in(view: View, path: str, file: File) -> Step:
    why = "in the view"
    if view.links == "soft":
        text = os.path.relpath("/" + file.path, "/" + parent(path))
        return Softlink(target=path, why=why, group=view.name, text=text)
    put = Hardlink if view.links == "hard" else Copy
    return put(source=file.path, target=path, why=why, group=view.name, stamp=file.stamp)


def _stands_for(disk: DiskView, view: View, path: str, status: FileStatus, target: str) -> bool:
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


def _taken_out(
    catalogue: Catalogue, disk: DiskView, held: HeldPaths, view: View, links: Mapping[str, str]
) -> list[Step]:
    """Return the steps that take out what magpie put at paths, each with its target, if it is there and still that."""
    there = {path: status for path in links if (status := disk.status(path)) is not None and not status.is_folder}
    hard = {status.inode for status in there.values() if view.links == "hard" and not status.is_link}
    now = catalogue.files.paths_with(hard) if hard else {}  # where the files are by now, so that undo finds them
    if hard - now.keys():
        now |= {inode: path for inode, path in held().items() if inode in hard}
    steps = (_out(disk, view, path, status, links[path], now) for path, status in there.items())
    return [step for step in steps if step is not None]


def _out(disk: DiskView, view: View, path: str, status: FileStatus, target: str, now: Mapping[int, str]) -> Step | None:
    if status.is_link:
        text = disk.link_text(path)
        is_ours = text == os.path.relpath("/" + target, "/" + parent(path))
        if not is_ours:
            return None
        return DropLink(source=path, why=_OUT, group=view.name, stamp=status.stamp, text=text)
    if view.links == "hard" and status.links > 1:
        file = now.get(status.inode, target)
        return DropLink(source=path, why=_OUT, group=view.name, stamp=status.stamp, file=file)
    if view.links == "copy" or view.links in LIST_FORMS:
        return Hold(source=path, why=_OUT, group=view.name, stamp=status.stamp)
    return None


def _note(disk: DiskView, view: View, path: str, text: str) -> list[Step]:
    """Return the steps that let a view's folder say what it shows."""
    write = Write(target=path, why="what the view shows", group=view.name, text=text)
    status = disk.status(path)
    if status is None or status.is_folder:
        return [write]
    with disk.open_old(path) as file:
        if file.read() == text.encode():
            return []
    why = "the view shows something else now"
    return [Hold(source=path, why=why, group=view.name, stamp=status.stamp), write]


def same_view(name: str, views: Iterable[str]) -> str:
    """Return the view of this name in any case, "" for none."""
    return next((known for known in views if same_name(known) == same_name(name)), "")


def shown(view: View) -> str:
    """Return what a view shows, as a person would type it."""
    words = " ".join(f'"{word}"' if " " in word else word for word in view.words)
    return written(words) + (f"  by {view.by}" if view.by else "")
