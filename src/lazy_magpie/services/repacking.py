"""What packing, unpacking and converting by hand need to know of the disk, and the plans for them."""

from __future__ import annotations

import codecs
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace

from lazy_magpie.change import Skip, contents, is_written_so
from lazy_magpie.config import ConvertConfig
from lazy_magpie.errors import UsageError
from lazy_magpie.identify.file_types import is_archive
from lazy_magpie.model import FileStamp, PathStamp, Plan
from lazy_magpie.paths import join, name_of, parent, split_ending
from lazy_magpie.planners.by_hand.chosen import Chosen
from lazy_magpie.planners.by_hand.converting import convert_by_hand
from lazy_magpie.planners.by_hand.packing import pack_again, pack_by_hand
from lazy_magpie.planners.by_hand.unpacking import FoundArchive, unpack_by_hand
from lazy_magpie.planners.path_references import LARGEST, named_in
from lazy_magpie.services.by_hand import Selection
from lazy_magpie.services.listing import listing_of
from lazy_magpie.split_archives import cuts_in
from lazy_magpie.suggest import nearest

_ALL = "{sources}"
"""The word of a command that stands for all files of a thing."""


def plan_unpack(selection: Selection, progress: Callable[[int], None], *, keep: bool, names: str = "") -> Plan:
    """Plan unpacking the archives that were chosen, where they lie; `names` is the encoding of their members' names.

    Raises UsageError where there is no archive, and for an encoding that there is not.
    """
    if names:
        try:
            names = codecs.lookup(names).name
        except LookupError:
            raise UsageError(f"There is no encoding “{names}”; names are in cp437, cp866, cp932, gb18030 …") from None
    found = []
    for done, (path, stamp, volumes, missing) in enumerate(_archives(selection), start=1):
        found.append(_looked_into(selection, path, stamp, volumes, missing, names))
        progress(done)
    if not found:
        raise UsageError("There is no archive among these; “magpie find kind is archive” lists those there are.")
    collection = selection.collection
    listing = listing_of(str(collection.root))
    plan = unpack_by_hand(found, listing, keep=keep)
    return replace(plan, unmoved=(*plan.unmoved, *selection.unmoved))


def _looked_into(
    selection: Selection, path: str, stamp: FileStamp | None, volumes: tuple[PathStamp, ...], missing: int, names: str
) -> FoundArchive:
    if missing:
        why = f"an archive in several volumes, of which number {missing} is missing"
        return FoundArchive(path, stamp, volumes, why_not=why)
    try:
        listed = contents(selection.disk, path, names)
    except Skip as skip:
        return FoundArchive(path, stamp, volumes, why_not=str(skip))
    except OSError as error:
        return FoundArchive(path, stamp, volumes, why_not=(error.strerror or str(error)).lower())
    return FoundArchive(path, stamp, volumes, listed.names, listed.sizes, encoding=names)


def _archives(selection: Selection) -> Iterator[tuple[str, FileStamp | None, tuple[PathStamp, ...], int]]:
    """Yield the archives that were chosen: the first volume, how it looks, the others, the number of a missing one."""
    disk = selection.disk
    chosen = [one.path for one in selection.files() if is_archive(name_of(one.path)) or selection.paths == [one.path]]
    by_folder: dict[str, set[str]] = {}
    for path in chosen:
        by_folder.setdefault(parent(path), set()).add(name_of(path))
    seen: set[str] = set()
    for path in chosen:
        folder, name = parent(path), name_of(path)
        cut = next((cut for cut in cuts_in(disk.names(folder)) if name in cut.names), None)
        lead = join(folder, cut.lead if cut else name)
        if lead in seen:
            continue
        seen.add(lead)
        others = [join(folder, other) for other in cut.names if other != cut.lead] if cut else []
        stamps = {at: status.stamp for at in (lead, *others) if (status := disk.status(at))}
        yield lead, stamps.get(lead), tuple(PathStamp(at, stamps[at]) for at in others), cut.missing if cut else 0


def plan_pack(selection: Selection, *, store: bool, keep: bool, again: bool) -> Plan:
    """Plan packing what was chosen, one zip a thing or folder; with `again` archives, as zips written our way."""
    collection, disk = selection.collection, selection.disk
    listing = listing_of(str(collection.root))
    if again:
        found = [(path, stamp) for path, stamp, volumes, _ in _archives(selection) if not volumes]

        def is_packed(path: str) -> bool:
            with disk.open_old(path) as file:
                return is_written_so(file, store=store)

        plan = pack_again(found, listing, is_packed, store=store)
    else:
        things = list(_each_once(_grouped(selection.packable())))
        plan = pack_by_hand(things, disk, listing, store=store, keep=keep)
    return replace(plan, unmoved=(*plan.unmoved, *selection.unmoved))


def _grouped(chosen: Iterable[Chosen]) -> Iterator[list[Chosen]]:
    """Yield what is one thing together: the main files of one item in one folder."""
    groups: dict[object, list[Chosen]] = {}
    for one in chosen:
        key: object = (one.item.id, parent(one.path)) if one.item and not one.is_folder else one.path
        groups.setdefault(key, []).append(one)
    yield from groups.values()


def plan_convert(selection: Selection, name: str, *, trust: bool) -> Plan:
    """Plan turning what was chosen into another form by the declared program `name`. Raises UsageError for none."""
    collection = selection.collection
    convert = _declared(collection.config.convert, name)
    things = [
        one for group in _each_once(_grouped(selection.files())) for one in _conversions(selection, group, convert)
    ]
    plan = convert_by_hand(things, convert, listing_of(str(collection.root)), trust=trust)
    return replace(plan, unmoved=(*plan.unmoved, *selection.unmoved))


def _each_once(groups: Iterable[Sequence[Chosen]]) -> Iterator[list[Chosen]]:
    """Yield things with their sheets, each file once: a sheet may have been named besides."""
    seen: set[str] = set()
    for group in sorted(groups, key=lambda group: group[0].item is None):
        found = [one for one in _with_cue(group) if one.path not in seen]
        seen.update(one.path for one in found)
        if found:
            yield found


def _with_cue(files: Sequence[Chosen]) -> list[Chosen]:
    """Return the files of a thing, the sheets that name them first: a disc in parts is all of these."""
    sheets = {
        file.path: Chosen(file.path, file.stamp, item=one.item)
        for one in files
        for file in one.beside
        if file.role == "cue"
    }
    return [*sheets.values(), *(one for one in files if one.path not in sheets)]


def _conversions(selection: Selection, files: list[Chosen], convert: ConvertConfig) -> Iterator[list[Chosen]]:
    """Yield what is turned into one file each: all of a thing where the program takes all, else a sheet with its parts.

    A game on three discs is three such files. What no sheet names is by itself.
    """
    if _ALL in convert.by.command:
        yield files
        return
    left = {one.path: one for one in files}
    for one in files:
        if one.path in left and split_ending(one.path)[1].lower()[1:] in convert.takes:
            inside = [left.pop(path) for path in (one.path, *_named_by(selection, one)) if path in left]
            yield inside
    yield from ([one] for one in left.values())


def _named_by(selection: Selection, sheet: Chosen) -> list[str]:
    try:
        with selection.disk.open_old(sheet.path) as file:
            return named_in(sheet.path, file.read(LARGEST))
    except OSError:
        return []


def _declared(known: Mapping[str, ConvertConfig], name: str) -> ConvertConfig:
    if name in known:
        return known[name]
    there_are = f"; there are {', '.join(known)}." if known else "; declare one in magpie.toml."
    raise UsageError(f"There is no [convert.{name}]{nearest(name, known, there_are)}")
