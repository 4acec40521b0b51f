"""Rules of versions: a film that lies in several versions beside one subtitle, which is named after none of them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from lazy_magpie.checks.findings import Check, Finding, Rule, Sight
from lazy_magpie.identify.file_types import SUBTITLES
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Item, Kind
from lazy_magpie.paths import name_of, parent, same_name, split_ending


class _SharedSubtitles(Check):
    """Subtitles beside several versions of one film, of which a player gives them to one at the most."""

    def __init__(self, sight: Sight) -> None:
        super().__init__(sight)
        self._versions: dict[tuple[str, str, object], list[str]] = defaultdict(list)
        self._subtitles: dict[str, list[str]] = defaultdict(list)

    def see(self, item: Item) -> Iterable[Finding]:
        """Note films and subtitles by their folders."""
        if item.kind is Kind.MOVIE:
            key = (parent(item.path), match_key(str(item.fields.get("title", ""))), item.fields.get("year"))
            self._versions[key].append(_stem(item.path))
        for file in item.files:
            if split_ending(file.path)[1].lower() in SUBTITLES:
                self._subtitles[parent(file.path)].append(file.path)
        return ()

    def end(self) -> Iterable[Finding]:
        """Return the subtitles of films in several versions that are named after none; other films may lie beside."""
        films: dict[str, list[str]] = defaultdict(list)
        for (folder, _, _), stems in self._versions.items():
            films[folder] += stems
        for (folder, title, _), stems in self._versions.items():
            for path in self._subtitles.get(folder, ()) if len(stems) > 1 else ():
                is_of_it = len(films[folder]) == len(stems) or (title and match_key(_stem(path)).startswith(title))
                if is_of_it and not any(_stem(path).startswith(stem) for stem in films[folder]):
                    text = f"lies beside {len(stems)} versions of one film, and is named after none"
                    yield Finding("shared-subtitle", path, text)


def _stem(path: str) -> str:
    return same_name(split_ending(name_of(path))[0])


RULES = (Rule("shared-subtitle", "one subtitle for several versions of a film", _SharedSubtitles),)
