"""Where an item's files would go by the naming of its shelf: the wishes from which `tidy` makes a plan.

A film, episode, song, design, font or game goes file by file, each with the companions named after it. A kit is a
folder: its files keep their places in it.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache

from lazy_magpie.config import Config, Shelf
from lazy_magpie.identify import NO_CONTEXT, Context, disc_folder, embedded_tags, identify, systems_of
from lazy_magpie.identify.file_types import BY_ENDING, VIDEO
from lazy_magpie.identify.games import systems_named
from lazy_magpie.identify.kit_sections import section_of_folder
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import File, Item, Kind, State, Value, reason_of
from lazy_magpie.model.kinds import in_prose
from lazy_magpie.naming import MissingField, UnusableName, path_for, template_for
from lazy_magpie.naming.levels import front_values, fronts
from lazy_magpie.naming.safe import safe_value
from lazy_magpie.paths import is_below, join, name_of, parent, same_name, split_ending, written
from lazy_magpie.planners.custom_fields import values_of
from lazy_magpie.planners.directory_index import Names
from lazy_magpie.planners.filing.companions import behind_stem
from lazy_magpie.planners.filing.play_lists import ENDINGS as PLAY_LISTS
from lazy_magpie.planners.filing.play_lists import disc_folder_of

_ROOM = 24
"""Bytes kept free behind every name for the endings of companions that may come later (`.en.forced.srt`)."""
_IN_OWN_FOLDER = (Kind.MOVIE, Kind.EPISODE, Kind.TRACK, Kind.DESIGN, Kind.FONT)
"""Kinds whose things lie in a folder of their own, or of their show or record, where the naming makes folders."""
_TO_THE_WORD = (Kind.MOVIE, Kind.EPISODE)
"""Kinds whose new name must say no more than is meant, either."""
_NOTHING: Mapping[str, Value] = {}
"""What very many items share that need nothing said of them any more."""


class Unplaced(Exception):
    """An item has no place; the message says why."""


@dataclass(slots=True)
class Destination:
    """A main file and where it would go.

    `home` is the topmost folder that is the film's, show's or kit's own, "" if it has none. `original` is the item's
    id, 0 where each of its files may go without the others.
    """

    item: Item
    target: str
    shelf: Shelf
    home: str
    original: int = 0

    @property
    def below(self) -> str:
        """The target below its shelf."""
        return self.target[len(self.shelf.folder) + 1 :]

    @property
    def group(self) -> str:
        """The heading that it is shown under: its show, film, kit, maker."""
        return self.home[len(self.shelf.folder) + 1 :] if self.home else split_ending(self.below)[0]


def destinations_for(item: Item, shelf: Shelf, config: Config, names: Names) -> list[Destination]:
    """Return where the files of an item would go. Raises Unplaced where that is nowhere, with the reason."""
    try:
        if item.kind is Kind.KIT:
            found = _of_kit(item, shelf, config, names)
        else:
            found = [_of_file(part, shelf, config, names) for part in _parts_of(item)]
            if discs := disc_folder_of(item, config):
                found = [replace(one, target=_in_folder(one.target, discs)) for one in found]
    except MissingField as missing:
        if shelf.without == "inbox":
            return _to_inbox(item, shelf, config)
        raise Unplaced(f"its naming needs {missing.field.replace('_', ' ')}, which is not known") from None
    except UnusableName as unusable:
        raise Unplaced(f"no usable name: {unusable}") from None
    for destination in found[:1] if item.kind is Kind.KIT else found:
        if misread := _misread(destination, item, config):
            raise Unplaced(f"its new name “{written(destination.below)}” would be misread as {misread}")
    return [replace(destination, item=_bare(destination.item)) for destination in found]


def _in_folder(target: str, folder: str) -> str:
    return join(join(parent(target), folder), name_of(target))


def in_place(item: Item, shelf: Shelf, home: str) -> Destination:
    """Return the destination of an item of one file that is where it should be."""
    return Destination(_bare(item), item.path, shelf, home)


def _bare(item: Item) -> Item:
    """Return an item without its fields: they have done their work, and a plan of many has no room for them."""
    return replace(item, fields=_NOTHING, facts=_NOTHING, custom=_NOTHING)


def other_container(target: str, source: str, names: Names) -> str:
    """Return a film that is there under the name `target` with another ending, and is not `source`; "" for none."""
    folder, stem = parent(target), split_ending(name_of(target))[0]
    for name in names.with_stem(folder, stem):
        path = join(folder, name)
        if split_ending(name)[1].lower() in VIDEO and same_name(path) not in (same_name(source), same_name(target)):
            return path
    return ""


def _parts_of(item: Item) -> Iterator[Item]:
    """Yield an item for each of its main files, with the companions named after it; each has its part in its name."""
    mains = [file for file in item.files if file.role == "main"]
    if len(mains) < 2:
        yield item
        return
    stems = [split_ending(name_of(file.path))[0] for file in mains]
    beside: dict[int, list[File]] = {}
    for file in item.files:
        if file.role == "main" or _is_of_all(item, file):
            continue
        own = [at for at, stem in enumerate(stems) if behind_stem(stem, name_of(file.path))]
        if own or not (item.kind is Kind.GAME and file.role == "cue"):  # else its disc is missing
            beside.setdefault(own[0] if own else 0, []).append(file)
    for at, main in enumerate(mains):
        fields = {**item.fields, "part": main.part} if main.part else item.fields
        yield replace(item, path=main.path, fields=fields, files=(main, *beside.get(at, ())))


def _is_of_all(item: Item, file: File) -> bool:
    """Say whether a file is for all discs of a game: its play list, which is filed by itself."""
    return item.kind is Kind.GAME and split_ending(file.path)[1].lower() in PLAY_LISTS


def _of_file(item: Item, shelf: Shelf, config: Config, names: Names) -> Destination:
    """Return where a file goes. Raises MissingField and UnusableName as `naming.path_for` does."""
    stem, ending = split_ending(name_of(item.path))
    rests = (behind_stem(stem, name_of(file.path)) for file in item.files[1:])
    room = max([_ROOM, len(ending), *(len(rest.encode("utf-8", "surrogateescape")) for rest in rests)])
    values = values_of(item, config.fields) | _in_front(item.path, item.kind, shelf)
    if system := str(values.get("system", "")):
        values["system"] = shelf.folders.get(system) or _folder_of_system(
            system, _first_folder(item.path, shelf), names.in_folder(shelf.folder)
        )
    below = path_for(shelf.naming, item.kind, values, everywhere=config.everywhere, room=room)
    own_folder = "/" in below and item.kind in _IN_OWN_FOLDER
    target = join(shelf.folder, below)
    if disc_folder(item.path):
        target = join(parent(target) if own_folder else target, name_of(item.path))
        own_folder = True
    else:
        target += ending.lower()
    renames_folder = own_folder and item.kind is Kind.MOVIE
    target = names.as_spelled(target, parent(item.path) if renames_folder else "")
    home = join(shelf.folder, target[len(shelf.folder) + 1 :].split("/")[0]) if own_folder else ""
    return Destination(item, target, shelf, parent(target) if home and item.kind not in _TO_THE_WORD else home)


@lru_cache(maxsize=256)
def _folder_of_system(system: str, own: str, names: frozenset[str]) -> str:
    """Return what a person calls a game system on a shelf: as the game's `own` folder there, else as one of `names`.

    It is the system's own code where nothing there means it, or several do.
    """
    meant = systems_named(system)
    if systems_named(own) & meant:
        return own
    called = [name for name in names if systems_named(name) & meant]
    return called[0] if len(called) == 1 else system


def _first_folder(path: str, shelf: Shelf) -> str:
    """Return the name of the first folder below a shelf that a path goes through, "" where it goes through none."""
    folder, deeper, _ = path[len(shelf.folder) + 1 :].partition("/") if is_below(path, shelf.folder) else ("", "", "")
    return folder if deeper else ""


def _of_kit(item: Item, shelf: Shelf, config: Config, names: Names) -> list[Destination]:
    """Return where the files of a kit go: its folder is named, what is below it stays as it is."""
    base = kit_folder(item)
    values = values_of(item, config.fields) | {"name": name_of(base)} | _in_front(base, item.kind, shelf)
    below = path_for(shelf.naming, item.kind, values, everywhere=config.everywhere)
    home = names.as_spelled(join(shelf.folder, below), base)
    inside = [file for file in item.files if is_below(file.path, base)]
    return [
        Destination(replace(item, path=file.path, files=(file,)), home + file.path[len(base) :], shelf, home, item.id)
        for file in inside
    ]


def _in_front(path: str, kind: Kind, shelf: Shelf) -> dict[str, Value]:
    """Return the date or number that something was filed under on its shelf: it keeps it."""
    template = shelf.naming.templates.get(kind.value)
    if template is None or not fronts(template) or not is_below(path, shelf.folder):
        return {}
    return dict(front_values(path[len(shelf.folder) + 1 :], template))


def kit_folder(item: Item) -> str:
    """Return the folder that is a kit's own. Raises Unplaced where it has none, and where it is but an archive."""
    mains = [file.path for file in item.files if file.role == "main"]
    loose = [path for path in mains if BY_ENDING.get(split_ending(path)[1].lower()) is not Kind.ARCHIVE]
    if not loose:
        raise Unplaced("an archive; “magpie intake” unpacks it")
    base = parent(loose[0])
    while not all(is_below(path, base) for path in loose) or section_of_folder(name_of(base), name_of(parent(base))):
        base = parent(base)
    if not base:
        raise Unplaced("it has no folder of its own")
    return base


def _to_inbox(item: Item, shelf: Shelf, config: Config) -> list[Destination]:
    """Return the wishes that bring an item into the inbox, where it waits for what its naming needs.

    It keeps its whole path there, from which it is read.
    """
    if is_below(item.path, config.inbox):
        return []
    inbox = replace(shelf, folder=config.inbox)
    base = kit_folder(item) if item.kind is Kind.KIT else ""
    files = [replace(item, path=f.path, files=(f,)) for f in item.files if is_below(f.path, base)] if base else None
    found = []
    for part in files or _parts_of(item):
        home = join(config.inbox, base or parent(part.path))
        bare = replace(part, fields={}, facts={}, custom={})
        found.append(Destination(bare, join(config.inbox, part.path), inbox, home, item.id))
    return found


def _misread(destination: Destination, item: Item, config: Config) -> str:
    """Return what the new name would be taken for, and what to do about it; "" where that is the item.

    This is what makes the round trip a law: a name that a fresh reading would take for something else is not written.
    """
    if destination.item.path == destination.target:
        return ""
    maker = match_key(str(destination.item.fields.get("maker", ""))) if item.kind is Kind.FONT else ""
    around = Context(makers=frozenset([maker])) if maker else NO_CONTEXT  # a font's is one that is known
    says_itself = item.state is State.CLEAR and item.confidence == embedded_tags.TOLD
    if item.kind is Kind.FONT and says_itself:
        fields = destination.item.fields
        around = replace(around, tags={key: fields[key] for key in ("family", "style") if key in fields})
    if config.systems and item.kind in (Kind.GAME, Kind.FIRMWARE):
        around = Context(systems=systems_of(config.systems))
    read = identify(config.as_read(destination.target, destination.shelf), destination.shelf.kind, around)
    template = template_for(destination.shelf.naming, item.kind, item.fields)
    meant = _as_written({key: value for key, value in destination.item.fields.items() if key != "version"})
    carried = (template.fields() if template else frozenset()) & meant.keys()
    said = _as_written(read.fields if item.kind in _TO_THE_WORD else {key: read.fields.get(key) for key in carried})
    others = {key: value for key, value in said.items() if meant.get(key) != value}
    if read.kind is not item.kind:
        return f"{in_prose(read.kind)}; correct it by hand (--save)"
    if others:
        field, value = next(iter(others.items()))
        name = field.replace("_", " ")
        was = f"of the {name} “{value}”" if value else f"without its {name}"
        missing = " give it a year, or" if item.kind is Kind.MOVIE and "year" not in meant else ""
        return f"{in_prose(read.kind)} {was};{missing} correct it by hand (--save)"
    if read.state is not State.CLEAR:
        doubt = reason_of(read.doubts[0]) if read.doubts else "its kind"
        return f"something in doubt ({doubt}); correct it by hand (--save)"
    return (
        ""
        if carried <= read.fields.keys()
        else f"{in_prose(read.kind)} with less said of it; correct it by hand (--save)"
    )


def _as_written(values: Mapping[str, Value | None]) -> dict[str, Value | None]:
    return {
        key: safe_value(value, everywhere=True) if isinstance(value, str) else value for key, value in values.items()
    }
