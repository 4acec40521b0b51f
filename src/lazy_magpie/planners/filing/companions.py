"""Where the companions and extras of an item go when the item is filed."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from lazy_magpie.identify.companions import subtitle_fields
from lazy_magpie.identify.folders import place_of
from lazy_magpie.model import File, Kind
from lazy_magpie.paths import above, join, name_of, parent, same_name, split_ending

Pair = tuple[File, str]
"""A companion and the path that it goes to."""


def companion_targets(main: str, target_stem: str, companions: Iterable[File], *, own_folder: bool) -> Iterator[Pair]:
    """Yield where each companion of the item at `main` goes, when the item goes to `target_stem` + its ending.

    A companion named after its item keeps what stands behind that name; a subtitle gets its language behind the
    item's name; what is named otherwise keeps its name where the item has a folder of its own, else it gets the
    item's name in front. Where two would meet, both keep the names they have.
    """
    wanted = [(file, _target(main, target_stem, file, own_folder=own_folder)) for file in companions]
    counts: dict[str, int] = {}
    for _, target in wanted:
        counts[same_name(target)] = counts.get(same_name(target), 0) + 1
    for file, target in wanted:
        if counts[same_name(target)] > 1:
            target = join(parent(target_stem), name_of(file.path))
        yield file, target


def _target(main: str, target_stem: str, file: File, *, own_folder: bool) -> str:
    name = name_of(file.path)
    stem, ending = split_ending(name)
    rest = _behind_either(split_ending(name_of(main))[0], name_of(target_stem), name)
    if rest and (rest != ending or file.role != "subtitles"):
        return target_stem + rest
    if file.role == "subtitles":  # called as its film is, its folder may still say the language
        fields = subtitle_fields("" if rest else stem, place_of(parent(file.path)))
        words = [str(fields[key]) for key in ("language",) if key in fields]
        words += [word for word, key in (("forced", "forced"), ("sdh", "hearing_impaired")) if fields.get(key)]
        return ".".join([target_stem, *words]) + ending
    if own_folder:
        return join(parent(target_stem), name)
    return target_stem + ending if file.role == "info" else f"{target_stem}-{name}"


def _behind_either(old: str, new: str, name: str) -> str:
    """Return what stands in a companion's name behind its item's old name, or the new one if it has that already."""
    return min((rest for stem in (old, new) if (rest := behind_stem(stem, name))), key=len, default="")


def behind_stem(stem: str, name: str) -> str:
    """Return what stands behind `stem` in `name`, "" where `name` does not begin with it."""
    if same_name(name[: len(stem)]) != same_name(stem) or name[len(stem) : len(stem) + 1] not in (
        ".",
        "-",
        " ",
        "_",
    ):
        return ""
    return name[len(stem) :]


class Owners:
    """Which folders are one thing's own, so that what else lies in them goes along with it."""

    def __init__(self) -> None:
        self._direct: dict[str, set[str]] = {}
        self._below: dict[str, set[str]] = {}
        self._films: Owners | None = None

    def add(self, path: str, folder: str, base: str, kind: Kind | None = None) -> None:
        """Note that the main file at `path` goes to `folder`, which lies at or below the thing's own folder `base`.

        Both are "" for what stays where it is undecided, or has no folder of its own. Where films or episodes lie in a
        folder, all else in it is theirs, and not a song's beside them.
        """
        here = parent(path)
        if kind in (Kind.MOVIE, Kind.EPISODE):
            self._films = self._films or Owners()
            self._films.add(path, folder, base)
        _capped(self._direct, here, folder)
        while here:
            _capped(self._below, here, base)
            here = parent(here)

    def knows(self, path: str) -> bool:
        """Say whether any film or episode lies in or below one of the folders above `path`."""
        return any(folder in self._below for folder in above(path))

    def target(self, path: str) -> str:
        """Return where the extra or companion at `path` goes along to, "" where its folder is no one's own."""
        if self._films is not None and (target := self._films.target(path)):
            return target
        at = parent(path)
        rest = name_of(path)
        while at:
            bases = self._below.get(at)
            if bases:
                direct = self._direct.get(at)
                homes = direct if direct and len(direct) == 1 and "" not in direct else bases
                home = next(iter(homes)) if len(homes) == 1 and len(bases) == 1 else ""
                return join(home, rest) if home else ""
            rest = join(name_of(at), rest)
            at = parent(at)
        return ""


def _capped(table: dict[str, set[str]], key: str, value: str) -> None:
    """Put `value` into the set under `key`; two values say as much as two thousand."""
    values = table.setdefault(key, set())
    if len(values) < 2:
        values.add(value)
