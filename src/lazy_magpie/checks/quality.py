"""Rules of quality: what can't be played or read, and what is below one's standards."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from sys import intern

from lazy_magpie.checks.findings import Check, Finding, Mend, Rule, Sight, each
from lazy_magpie.formatting import bitrate_text
from lazy_magpie.identify.companions import subtitle_fields
from lazy_magpie.model import Item, Kind
from lazy_magpie.paths import name_of, parent, same_name, split_ending

_WIDE = 16 / 9
"""The shape that lines are counted for: of a wider picture the width decides (1280 × 534 counts as 720 lines)."""


def _unreadable(item: Item, sight: Sight) -> Iterator[Finding]:
    if (why := item.facts.get("unreadable")) and any(file.size for file in item.files):
        yield Finding("unreadable", item.path, intern(f"can't be read: {why}"))


def _empty(item: Item, sight: Sight) -> Iterator[Finding]:
    for file in item.files:
        if file.size == 0 and file.role == "main" and item.kind not in (Kind.UNFINISHED, Kind.DOCUMENT, Kind.UNKNOWN):
            yield Finding("empty", file.path, "has nothing in it", Mend.HOLD)


def _ending(item: Item, sight: Sight) -> Iterator[Finding]:
    real = item.facts.get("real_type")
    if isinstance(real, str) and len(item.files) == 1 and not item.path.lower().endswith(f".{real}"):
        to = f"{split_ending(item.path)[0]}.{real}"
        yield Finding("wrong-ending", item.path, f"is really {real}", Mend.NAME, to)


def _below(item: Item, sight: Sight) -> Iterator[Finding]:
    standard = sight.config.standards.get(item.kind.value)
    if standard is None or item.facts.get("lossless"):
        return
    bitrate, lines = item.facts.get("bitrate"), lines_of(item)
    if standard.bitrate and isinstance(bitrate, int | float) and bitrate < standard.bitrate:
        wanted = bitrate_text(standard.bitrate)
        yield Finding("below-standard", item.path, f"{bitrate_text(int(bitrate))}; the standard is {wanted}")
    elif standard.lines and lines and lines < standard.lines:
        yield Finding("below-standard", item.path, f"{lines} lines; the standard is {standard.lines}")


def _subtitles(item: Item, sight: Sight) -> Iterator[Finding]:
    standard = sight.config.standards.get(item.kind.value)
    if standard is None or not standard.subtitles:
        return
    inside = item.facts.get("subtitle_languages")
    languages = {str(code) for code in inside} if isinstance(inside, tuple | list) else set()
    languages |= {_language(item, file.path) for file in item.files if file.role == "subtitles"}
    if languages and "" not in languages and languages.isdisjoint(standard.subtitles):  # "": who knows
        has, wanted = ", ".join(sorted(languages)), " or ".join(standard.subtitles)
        yield Finding("subtitle-language", item.path, f"has subtitles in {has}; the standard is {wanted}")


def _language(item: Item, path: str) -> str:
    """Return the language of a subtitle beside an item, as an ISO 639-1 code; "" where nothing tells it."""
    from lazy_magpie.identify.folders import place_of  # which knows names, and takes long to load

    own, stem = (split_ending(name_of(one))[0] for one in (item.path, path))
    rest = stem[len(own) :] if same_name(stem[: len(own)]) == same_name(own) else stem
    return str(subtitle_fields(rest, place_of(parent(path))).get("language", ""))


def lines_of(item: Item) -> int:
    """Return the lines that a picture counts for, 0 where they were not measured."""
    width, height = item.facts.get("width"), item.facts.get("height")
    if not isinstance(width, int) or not isinstance(height, int):
        return 0
    return max(height, round(width / _WIDE))


class _Rotten(Check):
    """Files whose contents are not what they were, though their size and time are."""

    def end(self) -> Iterable[Finding]:
        """Return the files."""
        for path, text in self.sight.rotten:
            yield Finding("rotten", path, text)


RULES = (
    Rule("rotten", "contents that are not what they were (--contents)", _Rotten),
    Rule("unreadable", "can't be read", each(_unreadable)),
    Rule("empty", "nothing in it", each(_empty)),
    Rule("wrong-ending", "something else than the ending says", each(_ending)),
    Rule("below-standard", "below the standard", each(_below)),
    Rule("subtitle-language", "subtitles in no language that is wanted", each(_subtitles)),
)
