"""What `start` proposes for a folder: shelves from the folders it finds, backups left alone, a commented file."""

from __future__ import annotations

import json
import re
from collections import Counter
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from lazy_magpie.identify.folders import FolderRole, understand
from lazy_magpie.model import Kind
from lazy_magpie.words import meaning

_BACKUP = re.compile(r"(?i)^(?:old )?(?:back[ _-]?ups?|mirror|snapshots?)\b.*|.*\b(?:back[ _-]?ups?)$")
_NAMES = {Kind.MOVIE.value: ("films", "Films"), Kind.EPISODE.value: ("series", "Series")}
_WHERE_THERE = {
    Kind.TRACK.value: "music",
    Kind.GAME.value: "games",
    Kind.KIT.value: "kits",
    Kind.DESIGN.value: "designs",
    Kind.FONT.value: "fonts",
    Kind.PICTURE.value: "pictures",
}
"""Shelves that are proposed only where there is something for them, by kind."""
_ALSO_NEW = frozenset([Kind.TRACK.value, Kind.FONT.value, Kind.PICTURE.value])
"""Kinds that an ending tells, so that a new folder is proposed where there is much of them, but no folder for it."""
_MANY, _MUCH, _MOSTLY = 20, 0.1, 0.6
"""Files, and the share of all, that are worth a shelf; and the share of a folder by which it is one of a kind."""
WORDS = {Kind.MOVIE.value: "films", Kind.EPISODE.value: "episodes", Kind.TRACK.value: "songs"} | {
    kind: name for kind, name in _WHERE_THERE.items() if kind != Kind.TRACK.value
}
"""What a shelf's kind is called in a sentence."""


class ProposedShelf(NamedTuple):
    """A shelf to write: its name, its kind, its folder, and whether that has to be made."""

    name: str
    kind: str
    folder: str
    is_new: bool


class Proposal(NamedTuple):
    """What to write into magpie.toml, and the whole text; `open` has the kinds for whose shelf several folders fit as
    well as each other, with these."""

    shelves: tuple[ProposedShelf, ...]
    leave: tuple[str, ...]
    text: str
    open: Mapping[str, Sequence[str]]


_CALLED: Mapping[str, tuple[str, ...]] = {
    Kind.MOVIE.value: ("shelf.films",),
    Kind.EPISODE.value: ("shelf.series",),
    Kind.TRACK.value: ("shelf.music",),
    Kind.GAME.value: ("shelf.games",),
    Kind.KIT.value: ("shelf.kits",),
    Kind.DESIGN.value: ("shelf.embroidery", "shelf.designs"),
    Kind.FONT.value: ("shelf.fonts",),
    Kind.PICTURE.value: ("shelf.pictures", "shelf.clipart"),
}
"""What the shelf of all things of a kind is called, by concept; others are for some of them (audiobooks, concerts)."""


Counts = Mapping[str, Counter[str]]
"""How many files of each kind each folder in the root seems to hold; "" is the root itself."""


def propose(name: str, folders: Sequence[str], counts: Counts, chosen: Mapping[str, str] | None = None) -> Proposal:
    """Propose the configuration of a collection called `name` whose root holds `folders`.

    Shelves come in the order of how much there is for them. `chosen` has the folders that a person chose, by kind.
    """
    leave = tuple(folder for folder in folders if _BACKUP.match(folder))
    open_folders = [folder for folder in folders if folder not in leave]
    chosen = chosen or {}
    fit = {kind: _folders_of(kind, open_folders) for kind in (*_NAMES, *_WHERE_THERE)}
    taken = {folder for some in fit.values() for folder in some}
    loose = {folder: kinds for folder, kinds in counts.items() if folder not in {*taken, *leave}}
    shelves = []
    for kind, (shelf, folder) in _NAMES.items():
        found = chosen.get(kind) or next(iter(fit[kind]), "")
        if found or _is_video(counts):
            shelves.append(ProposedShelf(shelf, kind, found or folder, not found and folder not in open_folders))
    for kind, shelf in _WHERE_THERE.items():
        found = chosen.get(kind) or next(iter(fit[kind]), "") or _mostly(kind, loose)
        if found or (kind in _ALSO_NEW and _is_much(kind, loose)):
            shelves.append(ProposedShelf(shelf, kind, found or shelf.title(), not found))
    total = sum((Counter(kinds) for kinds in counts.values()), Counter[str]())
    total[Kind.EPISODE.value] = total[Kind.MOVIE.value]  # by its ending a film may be an episode
    shelves.sort(key=lambda shelf: -total[shelf.kind])
    several = {kind: some for kind, some in fit.items() if len(some) > 1 and kind not in chosen}
    return Proposal(tuple(shelves), leave, _text(name, shelves, leave), several)


def _is_video(counts: Counts) -> bool:
    """Say whether there are films or episodes, or nothing at all yet."""
    return any(kinds[Kind.MOVIE.value] for kinds in counts.values()) or not any(counts.values())


def _mostly(kind: str, loose: Counts) -> str:
    """Return the folder that holds most of a kind, and hardly anything else; "" where there is none."""
    fitting = [
        (kinds[kind], folder)
        for folder, kinds in loose.items()
        if folder and kinds[kind] >= max(_MANY, _MOSTLY * kinds.total())
    ]
    return max(fitting)[1] if fitting and kind in _ALSO_NEW else ""


def _is_much(kind: str, loose: Counts) -> bool:
    count, total = sum(kinds[kind] for kinds in loose.values()), sum(kinds.total() for kinds in loose.values())
    return count >= max(_MANY, _MUCH * total)


def _folders_of(kind: str, folders: Sequence[str]) -> list[str]:
    """Return the folders whose names say best that they are of a kind: more than one where they say it alike."""
    ranks: dict[int, list[str]] = {}
    for folder in folders:
        said = meaning(folder)
        strength = max((said.get(concept, 0) for concept in _CALLED[kind]), default=0)
        read = understand(folder)
        is_shelf = read.role is FolderRole.SHELF and read.kind == kind
        if strength == 2 or is_shelf:
            ranks.setdefault(max(strength, is_shelf), []).append(folder)
    return ranks[max(ranks)] if ranks else []


_NAMING = (
    '# "screen": a folder for each film, show and season; "plain": few folders, all in the file\'s name',
    'naming = "screen"',
)

_BY_DAY = 'naming = "dated"'

_PICTURE_CODECS = "h264 hevc mpeg4 mpeg2video mpeg1video msmpeg4v3 wmv3 vc1 vp8 vp9 av1".split()
_SOUND_CODECS = "aac mp3 mp2 ac3 eac3 dts truehd flac alac opus vorbis wmav2 pcm_s16le pcm_s24le pcm".split()
_PLAYERS = (
    "# What your players read: “magpie check” says what one of them would not. Endings, too: reads = [...]",
    "[player.usual]",
    f"picture_codecs = [{', '.join(map(json.dumps, _PICTURE_CODECS))}]",
    f"sound_codecs = [{', '.join(map(json.dumps, _SOUND_CODECS))}]",
    "longest_name = 240",
    "# Pictures and data files that it looks for beside things; “magpie companions” plans them.",
    '# art = { cover = "{stem}-cover", folder = "images", form = "jpg", width = "600" }',
    '# data = "json-ld"',
    "",
    "# What is below your standards, “magpie check” says, too.",
    "# [standard.movie]",
    "# lines = 720",
    "# [standard.track]",
    '# bitrate = "192k"',
    "",
)
"""Players and standards as they are written at first: what nearly everything plays today."""


def _quoted(text: str) -> str:
    return json.dumps(text.encode("utf-8", "replace").decode(), ensure_ascii=False)


def _text(name: str, shelves: Sequence[ProposedShelf], leave: Sequence[str]) -> str:
    lines = [
        "# The collection's configuration. Lines that begin with # are remarks.",
        "",
        "[collection]",
        f"name = {_quoted(name)}",
        '# Names that every disk takes, also exFAT and network shares; "linux" refuses only what Linux does.',
        'safe_names = "everywhere"',
        "# Folders that nothing is ever moved from or to: backups, other people's things. * stands for any text.",
        f"leave = [{', '.join(map(_quoted, leave))}]",
        "",
        "# A shelf is a folder below which everything is of one kind. What is of that kind goes there from",
        "# wherever in the collection it lies; kinds without a shelf stay where they are.",
    ]
    for shelf in shelves:
        lines += [
            f"[shelf.{shelf.name}]",
            f'kind = "{shelf.kind}"',
            f"folder = {_quoted(shelf.folder)}",
            *(
                _NAMING
                if shelf.kind in _NAMES
                else (_BY_DAY if shelf.kind == Kind.PICTURE.value else 'naming = "maker"',)
            ),
            "",
        ]
    lines += [
        *_PLAYERS,
        '# A naming of your own: name it above in place of "screen". A part in <…> is left out where it is empty.',
        "# [naming.mine]",
        '# movie = "{title, letter}/{title} ({year})/{title} ({year})< - {edition}>"',
        '# episode = "{show}/{show} {season}x{episode:02}< - {episode_title}>"',
        '# specials = "Specials"',
        "",
        "# A drive besides: its things are listed with the others, also while it is away.",
        "# [root.attic]",
        '# folder = "/media/attic"',
        "",
        "# A system of games that magpie does not know, by its folders and the endings of its images.",
        "# [system.tern8]",
        '# folders = ["Tern 8"]',
        '# endings = ["trn"]',
        "",
    ]
    return "\n".join(lines)
