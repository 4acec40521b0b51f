"""The evidence for what a folder is for: its name, what it holds, what lies beside it, as numbers from 0 to 1."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache

from lazy_magpie.identify import file_types
from lazy_magpie.identify.title_text import initials
from lazy_magpie.model import Kind
from lazy_magpie.paths import name_of, parent, split_ending
from lazy_magpie.patterns import pattern
from lazy_magpie.words import folded, game_endings, inside, meaning

AUDIO, VIDEO, STITCHES, FONTS, PICTURES, IMAGES, OTHERS = "audio video stitches fonts pictures images others".split()
MATTERS = (AUDIO, VIDEO, STITCHES, FONTS, PICTURES, IMAGES, OTHERS)
"""What a folder holds most of; pictures and others only where it holds nothing else."""
_MEDIA = (AUDIO, VIDEO, STITCHES, FONTS, IMAGES)
_GROUPS: tuple[tuple[str, str], ...] = (
    ("state", r"shelf\.(?:to_sort|misc|new|downloads|backup|old_disk|unseen|seen|to_delete|favourites|letters|years)$|"
              r"shelf\.(?:heard|to_hear|documents|pictures|subtitled)$|folder\.|new_folder|unknown\.|copy_of|junk"),
    ("owners", r"shelf\.(?:makers|artists|directors|actors|genres)$|by_line"),
    ("various", r"various_artists|shelf\.(?:compilations|soundtracks|mixes|playlists)$|"
                r"kit\.(?:collab|freebie|blog_train|challenge)"),
    ("shelf", r"shelf\."),
    ("genre", r"genre\.|theme\.|technique\."),
    ("language", r"language\.|audio\.|region\.|decade\."),
    ("systems", r"system\.(?:arcade|handhelds|consoles|computers)$"),
    ("system", r"system\."),
    ("division", r"season|disc$|side$|volume|part$|section\.|format\.word|hoop\.|size\.|font\.|special|"
                 r"medium\.disc|ending\.|count\.of"),
    ("beside", r"subtitles|picture\.|extra\.|sample|game\.|role\.|scan$|document\.|credits|preview|kit\.|firmware"),
    ("release", r"release\.|container|edition\.|complete"),
    ("date", r"date\.|month\.|weekday\.|tv\."),
)  # fmt: skip
"""What the concepts of the vocabulary say of folders: the group of each that begins so, the first that fits."""
_GROUP_OF = tuple((name, pattern(begins)) for name, begins in _GROUPS)
_NUMBERED = pattern(r"^\W*(?:[a-z]{0,3}\W?)?(\d{1,3})(?!\d)")
_DASHED = pattern(r"^(?:\d{1,3}[\s.)_-]+)?(\S.*?)\s+[-–—]\s+(\S.*)$")
_YEAR_BEHIND = pattern(r"[(\[](?:19|20)\d\d[^)\]]*[)\]]\W*$")
_YEAR_BEFORE = pattern(r"^[(\[]?(?:19|20)\d\d[)\]]?(?:\W+)\S")
_CODE = pattern(r"^\W?[A-Za-z]{1,5}[-_ ]?\d{2,6}\b")
_LETTER = pattern(r"^(?:[^\W\d_]|[^\W_] ?[-–_] ?[^\W_]|0-9|#)$")
_BRACKETED = pattern(r"[\[(][^\])]+[\])]")


@lru_cache(maxsize=65536)
def group_of(concept: str) -> str:
    """Return the group of concepts that one belongs to, "" for none that says anything of folders."""
    return next((name for name, begins in _GROUP_OF if begins.match(concept)), "")


@dataclass(slots=True)
class TreeFolder:
    """A folder of a tree, with what is known of it: its place, its files, and sums of all that lies below."""

    path: str
    files: Sequence[str]
    children: list[int] = field(default_factory=list)
    above: int = -1
    key: str = ""
    below: Counter[str] = field(default_factory=Counter)
    height: int = 0


def matter_of(name: str) -> str:
    """Return what sort of file a name is of."""
    ending = split_ending(name)[1].lower()
    if ending == ".md" and "(" in name:  # an image, no paper: "Gull Quest (World).md"
        return IMAGES
    if ending in file_types.VIDEO:
        return VIDEO
    if (kind := file_types.BY_ENDING.get(ending)) or ending in file_types.IMAGES:
        return _MATTER.get(kind, OTHERS) if kind else IMAGES
    return IMAGES if ending in game_endings() else OTHERS


_MATTER: Mapping[Kind | None, str] = {
    Kind.TRACK: AUDIO,
    Kind.DESIGN: STITCHES,
    Kind.FONT: FONTS,
    Kind.PICTURE: PICTURES,
    Kind.GAME: IMAGES,
}


def paths_of(listing: Mapping[str, Sequence[str]]) -> list[str]:
    """Return the paths of all folders of a tree, "" first, each behind the one above it."""
    paths = {""}
    for path in listing:
        while path and path not in paths:
            paths.add(path)
            path = parent(path)
    return sorted(paths, key=lambda path: (path.count("/") + bool(path), path))


def tree_of(listing: Mapping[str, Sequence[str]]) -> list[TreeFolder]:
    """Return the folders of a tree ("" is the top), each behind the one above it, from the files of each."""
    folders = [TreeFolder(path, listing.get(path, ())) for path in paths_of(listing)]
    places = {folder.path: at for at, folder in enumerate(folders)}
    for at, folder in enumerate(folders):
        folder.key = folded(name_of(folder.path))
        if folder.path:
            folder.above = places[parent(folder.path)]
            folders[folder.above].children.append(at)
    for folder in reversed(folders):
        folder.below.update(matter_of(name) for name in folder.files)
        if folder.above >= 0:
            above = folders[folder.above]
            above.below.update(folder.below)
            above.height = max(above.height, folder.height + 1)
    return folders


def main_matter(folder: TreeFolder) -> str:
    """Return what a folder holds most of."""
    some = [(folder.below[matter], matter) for matter in MATTERS[:4]]
    count, matter = max(some)
    if count:
        return matter
    return max((folder.below[matter], matter) for matter in MATTERS[4:])[1]


def _bucket(name: str, count: int) -> str:
    return f"{name}:{'0' if not count else '1' if count == 1 else '2-4' if count < 5 else '5+'}"


def _share(values: Iterable[bool]) -> float:
    found = list(values)
    return sum(found) / len(found) if found else 0.0


def of_name(text: str) -> dict[str, float]:
    """Return the features of a folder's name alone."""
    found: dict[str, float] = {}
    whole = meaning(text)
    for concept, strength in whole.items():
        if group := group_of(concept):
            name = f"word {group} {'strong' if strength == 2 else 'weak'}"
            found[name] = 1.0
    if not whole:
        found["word unknown"] = 1.0
        for some, share in inside(text):
            for group in {group_of(concept) for concept, strength in some.items() if strength} - {""}:
                name = f"inside {group}"
                found[name] = min(1.0, found.get(name, 0.0) + share)
    words = re.findall(r"[^\W_]+", text)
    found[f"words:{min(len(words), 5)}"] = 1.0
    shapes = {
        "dashed": bool(_DASHED.match(text)), "year behind": bool(_YEAR_BEHIND.search(text)),
        "year before": bool(_YEAR_BEFORE.match(text)), "code": bool(_CODE.match(text)),
        "letter": bool(_LETTER.match(text)), "number": folded(text).replace(" ", "").isdecimal(),
        "digits": any(sign.isdecimal() for sign in text), "brackets": bool(_BRACKETED.search(text)),
        "small": text == text.lower(), "and": "&" in text or "+" in text, "underscore": "_" in text,
        "comma": "," in text, "long": len(text) > 30, "own": "'s" in text or "’s" in text,
    }  # fmt: skip
    found.update({f"shape {name}": 1.0 for name, is_so in shapes.items() if is_so})
    return found


class TreeFeatures:
    """The features of every folder of a tree, by name; that of all folders of an unknown name comes with the tree."""

    def __init__(self, folders: Sequence[TreeFolder]) -> None:
        self.folders = folders
        self._places: dict[str, set[int]] = defaultdict(set)
        self._fronts: Counter[str] = Counter()
        self._common: dict[int, Mapping[str, float]] = {}
        self._names = [of_name(name_of(folder.path)) if folder.path else {} for folder in folders]
        for folder in folders:
            self._places[folder.key].add(folder.above)
            fronts = {folded(match[1]) for name in folder.files if (match := _DASHED.match(split_ending(name)[0]))}
            self._fronts.update(fronts)
            if match := _DASHED.match(name_of(folder.path)):
                self._fronts[folded(match[1])] += 1

    def of(self, at: int) -> dict[str, float]:
        """Return the features of a folder."""
        folder = self.folders[at]
        found = dict(self._names[at])
        found["always"] = 1.0
        if folder.above == 0:
            found["top"] = 1.0
        found[_bucket("folders", len(folder.children))] = 1.0
        media = [split_ending(name)[0] for name in folder.files if matter_of(name) in _MEDIA]
        found[_bucket("media", len(media))] = 1.0
        found[f"height:{min(folder.height, 3)}"] = 1.0
        if not sum(folder.below[matter] for matter in _MEDIA):
            found["no media below"] = 1.0
        self._add_files(found, folder, media)
        self._add_around(found, folder)
        return found

    def _add_files(self, found: dict[str, float], folder: TreeFolder, media: Sequence[str]) -> None:
        keys = [folded(stem) for stem in media]
        if not keys:
            return
        found["files numbered"] = _share(bool(_NUMBERED.match(key)) for key in keys)
        short = initials(name_of(folder.path))
        found["files begin so"] = _share(bool(folder.key) and key.startswith(folder.key) for key in keys)
        found["files begin with initials"] = _share(
            len(short) > 1 and key.replace(" ", "").startswith(short) for key in keys
        )
        fronts = [folded(match[1]) for stem in media if (match := _DASHED.match(stem))]
        found["files dashed"] = len(fronts) / len(keys)
        if len(fronts) > 1:
            kinds = len(set(fronts))
            found["fronts vary"] = float(kinds > len(fronts) / 2) * found["files dashed"]
            found["fronts same"] = float(kinds == 1) * found["files dashed"]
            found["fronts are this"] = _share(front == folder.key for front in fronts)
            above = self.folders[folder.above].key if folder.above >= 0 else ""
            found["fronts are above"] = _share(bool(above) and front == above for front in fronts)

    def _add_around(self, found: dict[str, float], folder: TreeFolder) -> None:
        children = [self.folders[child] for child in folder.children]
        if children:
            names = [self._names[child] for child in folder.children]
            found["folders divide"] = _share("word division strong" in name for name in names)
            found["folders dated"] = _share(
                "shape year behind" in name or "shape year before" in name for name in names
            )
            found["folders dashed"] = _share("shape dashed" in name for name in names)
            found["folders known"] = _share("word unknown" not in name for name in names)
            found["folders begin so"] = _share(
                bool(folder.key) and child.key.startswith(folder.key) for child in children
            )
            found["folders lead on"] = _share(bool(child.children) for child in children)
        if folder.above >= 0:
            above = self.folders[folder.above]
            found.update(self._beside(folder.above))
            found["begins as above"] = float(bool(above.key) and folder.key.startswith(above.key))
        if folder.above > 0 and len(self._places[folder.key]) > 1:
            found["again, unknown" if "word unknown" in found else "again, known"] = 1.0
        if self._fronts[folder.key]:
            found["front elsewhere"] = 1.0

    def _beside(self, above: int) -> Mapping[str, float]:
        """Return what the folders in a folder have in common: it is evidence for each of them."""
        if above not in self._common:
            names = [self._names[child] for child in self.folders[above].children]
            self._common[above] = {
                "beside unknown": _share("word unknown" in name for name in names),
                "beside divide": _share("word division strong" in name for name in names),
                _bucket("beside", len(names) - 1): 1.0,
            }
        return self._common[above]
