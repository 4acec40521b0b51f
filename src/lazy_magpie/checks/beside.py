"""Rules of what lies beside: junk, samples, what never ended, companions and texts that have lost what they name."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from lazy_magpie.checks.findings import Check, Finding, Mend, Rule, Sight, each
from lazy_magpie.model import Item, Kind
from lazy_magpie.paths import join, name_of, parent, same_name, split_ending, written

_SHEETS = {".cue": "cue sheet", ".m3u": "play list", ".m3u8": "play list"}


def _junk(item: Item, sight: Sight) -> Iterator[Finding]:
    if item.kind is Kind.JUNK:
        yield Finding("junk", item.path, "is left behind by a system or a site", Mend.HOLD)


def _sample(item: Item, sight: Sight) -> Iterator[Finding]:
    if item.kind is Kind.EXTRA and item.fields.get("extra") == "sample":
        yield Finding("sample", item.path, "is a sample", Mend.HOLD)


def _unfinished(item: Item, sight: Sight) -> Iterator[Finding]:
    if item.kind is Kind.UNFINISHED:
        yield Finding("unfinished", item.path, "is a download that has not ended")


class _Lone(Check):
    """Companions near which there is nothing that they could belong to, and nothing anywhere that is called so."""

    def __init__(self, sight: Sight) -> None:
        super().__init__(sight)
        self._with_media: set[str] = set()
        self._stems: set[int] = set()  # what stands for each: of very many the names take much room
        self._companions: list[str] = []

    def see(self, item: Item) -> Iterable[Finding]:
        """Note where things are, and companions that are items by themselves."""
        if item.kind is Kind.COMPANION:
            self._companions.append(item.path)
        elif item.kind not in (Kind.JUNK, Kind.UNKNOWN, Kind.DOCUMENT):
            self._with_media.update((parent(item.path), parent(parent(item.path))))
            self._stems.add(hash(_stem(item.path)))
        return ()

    def end(self) -> Iterable[Finding]:
        """Return the companions that are alone."""
        for path in self._companions:
            if not {parent(path), parent(parent(path))} & self._with_media and hash(_stem(path)) not in self._stems:
                yield Finding("lone-companion", path, "belongs to something that is not there")


def _stem(path: str) -> str:
    return same_name(split_ending(name_of(path))[0])


def _references(item: Item, sight: Sight) -> Iterator[Finding]:
    for file in item.files:
        ending = split_ending(file.path)[1].lower()
        if ending not in _SHEETS or file.size > 1 << 16:
            continue
        for name in _named(ending, sight.text_of(file.path)):
            path = name if name.startswith("/") else join(parent(file.path), name.replace("\\", "/"))
            if "://" not in name and not sight.is_there(path):
                yield Finding("lost-reference", file.path, f"the {_SHEETS[ending]} names “{name}”, which is not there")


def _named(ending: str, text: str) -> Iterator[str]:
    """Yield the files that a cue sheet or play list names."""
    for line in text.splitlines():
        if ending == ".cue":
            words = line.strip().split('"')
            if words[0].strip().upper() == "FILE" and len(words) > 1:
                yield words[1]
        elif line.strip() and not line.startswith(("#", "\ufeff#")):
            yield line.strip().removeprefix("\ufeff")


class _EmptyFolders(Check):
    """Folders in which there is nothing."""

    def end(self) -> Iterable[Finding]:
        """Return the folders."""
        for folder in self.sight.empty_folders():
            yield Finding("empty-folder", folder, "has nothing in it", Mend.DROP)


class _DeadLinks(Check):
    """Links to what is not there."""

    def end(self) -> Iterable[Finding]:
        """Return the links."""
        for path, target in self.sight.dead_links():
            yield Finding("dead-link", path, f"leads to {written(target)}, which is not there")


RULES = (
    Rule("lost-reference", "names files that are not there", each(_references)),
    Rule("unfinished", "a download that has not ended", each(_unfinished)),
    Rule("lone-companion", "belongs to something that is not there", _Lone),
    Rule("dead-link", "a link to what is not there", _DeadLinks),
    Rule("sample", "a sample", each(_sample)),
    Rule("empty-folder", "a folder with nothing in it", _EmptyFolders),
    Rule("junk", "left behind by a system or a site", each(_junk)),
)
