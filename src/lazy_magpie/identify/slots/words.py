"""A name as words: every word with what stands before it, the segment it is in, and what it can mean."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from lazy_magpie.patterns import pattern
from lazy_magpie.words import MOST_WORDS, Meaning, folded, numbered, remembered, table

_MARKS = "\u0300-\u036f\u0591-\u05c7\u0610-\u065f\u0900-\u0903\u093a-\u094f\u0e31-\u0e4e\u3099\u309a"
_DATE = (
    r"(?<!\d)(?:19|20)\d\d[-._ ](?:0\d|1[0-2])[-._ ][0-3]\d(?!\d)|"
    r"(?<!\d)[0-3]\d[-._ ](?:0\d|1[0-2])[-._ ](?:19|20)\d\d(?!\d)"
)
_WORD = pattern(rf"{_DATE}|\d+|[^\W\d_](?:[^\W\d_]|[{_MARKS}]|['’`´](?=[^\W\d_]))*")
_HUMP = pattern(r"(?<=[^\W\d_])(?=[^\W\d_])")
OPEN, CLOSE = "([{（【「『《〈［｛", ")]}）】」』》〉］｝"
_DASH = pattern(r"\s[-–—~]+\s|_-+_|[–—]")
DATE = "#d"
"""Ends the key of a date."""
_NUMBER_IN_FRONT = pattern(r"^\d+[.)]? ")
_NO_SIGN = pattern(r"['’`´]")
_IN_ONE_NAME = {"tight": "join", "under": "space"}
"""What stands within a name where dashes part names: "Choir of Val-Storm - Carol"."""
_OF_RELEASES = {"tight": "dash", "under": "space"}
"""What "nora_samphire-lanterns-web" means."""
_APART = frozenset(["open", "close", "dash"])
"""What always begins another segment."""


class Word(NamedTuple):
    """A word of a name: its place in it, folded, what stands before it, the number of its segment, and how deep in
    brackets it is. A date is one word."""

    start: int
    end: int
    key: str
    gap: str
    segment: int
    depth: int

    @property
    def year(self) -> int:
        """The year of a date, 0 for any other word."""
        if not self.key.endswith(DATE) or not self.key[: -len(DATE)].isdecimal():
            return 0
        digits = self.key[:4] if self.key.startswith(("19", "20")) else self.key[4:8]
        return int(digits)


class Name(NamedTuple):
    """A name as words; `segments` has the words of each segment, run together, as they are compared."""

    text: str
    words: tuple[Word, ...]
    segments: tuple[str, ...]


def _gap(between: str) -> str:
    """Return what sort of thing stands between two words."""
    if not between:
        return "join"
    if any(sign in OPEN for sign in between):
        return "open"
    if any(sign in CLOSE for sign in between):
        return "close"
    if _DASH.search(between):
        return "dash"
    if between.isspace():
        return "space"
    for signs, name in (("-", "tight"), ("_", "under"), ("&+", "and"), (",;、，", "comma"), (".．", "dot")):
        if any(sign in signs for sign in between):
            return name
    return "other"


def _pieces(text: str) -> Iterator[tuple[int, int]]:
    """Yield where the words of a name begin and end; a capital behind a small letter begins another word."""
    for match in _WORD.finditer(text):
        start, word = match.start(), match.group()
        for at in range(1, len(word)):
            if word[at].isupper() and word[at - 1].islower():
                yield start, match.start() + at
                start = match.start() + at
        yield start, match.end()


@remembered(16384)
def name_of_words(text: str) -> Name:
    """Return a name (of a folder, or of a file without its ending) as words."""
    pieces = list(_pieces(text))
    ends = [0, *(end for _, end in pieces)]
    gaps = [_gap(text[end:start]) for end, (start, _) in zip(ends, pieces, strict=False)]
    apart = set(_APART)
    if "dash" in gaps:
        gaps = [_IN_ONE_NAME.get(gap, gap) for gap in gaps]
    elif " " not in _NUMBER_IN_FRONT.sub("", text):
        if {"tight", "under"} <= set(gaps):
            gaps = [_OF_RELEASES.get(gap, gap) for gap in gaps]
        apart |= {"hyphen", "under"}
        gaps = ["hyphen" if gap == "tight" else gap for gap in gaps]
    words: list[Word] = []
    segment = depth = 0
    for (start, end), gap in zip(pieces, gaps, strict=True):
        depth += gap == "open"
        depth = max(0, depth - (gap == "close"))
        in_front = len(words) == 1 and words[0].key.isdecimal() and gap != "join"
        if words and (gap in apart or in_front):
            segment += 1
        key = _NO_SIGN.sub("", folded(text[start:end])).replace(" ", "")
        if key.isdecimal() and len(key) < end - start:
            key = f"{key}{DATE}"
        words.append(Word(start, end, key, gap if words else "start", segment, depth))
    segments = [""] * (segment + 1)
    for word in words:
        segments[word.segment] += word.key
    return Name(text, tuple(words), tuple(segments))


def meanings_of(words: Sequence[Word]) -> list[tuple[Meaning, bool]]:
    """Return for each word of a name what the longest known phrase around it means, and whether that phrase is all of
    its segment: none reaches over a segment's end."""
    found: list[tuple[Meaning, bool]] = [({}, False)] * len(words)
    keys = [numbered(word.key) for word in words]
    at = 0
    while at < len(words):
        most = at
        while most < min(len(words), at + MOST_WORDS) and words[most].segment == words[at].segment:
            most += 1
        for end in range(most, at, -1):
            phrase = " ".join(keys[at:end])
            if phrase.strip("# ") and (meaning := table().get(phrase)):
                first = at == 0 or words[at - 1].segment != words[at].segment
                last = end == len(words) or words[end].segment != words[at].segment
                found[at:end] = [(meaning, first and last)] * (end - at)
                at = end - 1
                break
        at += 1
    return found
