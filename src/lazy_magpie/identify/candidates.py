"""A reading: one way to understand a whole path, with the evidence for it and its weight.

Weights are on one scale for all kinds: 0 is "no reason to think so", a strong sign adds 3 to 5, a weak one about
1. The lead of the best reading over the next is the confidence (`confidence_of`); what is in `doubts` keeps a
reading from being clear however far it leads.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from operator import attrgetter
from typing import NamedTuple

from lazy_magpie.identify.tokenizer import Name, Token
from lazy_magpie.identify.vocabulary import STRONG
from lazy_magpie.model import Evidence, Identity, Kind, State, Value
from lazy_magpie.patterns import pattern

_NONE: Mapping[str, Value] = {}

CLEAR_FROM = 0.9
"""The confidence from which a reading without doubts is clear: a lead of about 2."""

NEEDED: Mapping[Kind, tuple[str, ...]] = {
    Kind.MOVIE: ("title", "year"),
    Kind.EPISODE: ("show",),
    Kind.TRACK: ("artist", "title"),
    Kind.GAME: ("title", "system"),
    Kind.KIT: ("title", "maker"),
    Kind.DESIGN: ("title", "maker"),
    Kind.FONT: ("family",),
}
"""The fields without which an item of a kind can't be clear. An episode needs its number or date besides."""

CLAIMS = (
    "resolution",
    "source",
    "codec",
    "sound",
    "range",
    "stereo",
    "depth",
    "group",
    "checksum",
    "release",
)
"""What a name claims of the file, not of what it is: facts, in the order in which they are shown."""


class Candidate(NamedTuple):
    """One way to understand a path."""

    kind: Kind
    weight: float
    fields: Mapping[str, Value]
    why: tuple[Evidence, ...] = ()
    doubts: tuple[str, ...] = ()
    facts: Mapping[str, Value] = _NONE


FIRST_SEASON = "no season said: 1 is a guess"


@dataclass(slots=True)
class CandidateBuilder:
    """What a reading gathers on its way."""

    weight: float
    fields: dict[str, Value] = field(default_factory=dict)
    why: list[Evidence] = field(default_factory=list)
    doubts: list[str] = field(default_factory=list)
    facts: dict[str, Value] = field(default_factory=dict)

    def put(self, name: str, value: Value, source: str, text: str) -> None:
        """Put a field in, with where it was seen."""
        self.fields[name] = value
        self.why.append(Evidence(name, value, source, text))

    def reading(self, kind: Kind, facts: dict[str, Value]) -> Candidate:
        """Return the finished reading."""
        return Candidate(kind, self.weight, self.fields, tuple(self.why), tuple(self.doubts), {**self.facts, **facts})


def confidence_of(lead: float) -> float:
    """Turn a lead in weight into a confidence between 0.5 and 1."""
    return round(1 / (1 + math.exp(-1.15 * max(lead, 0.0))), 3)


def best_candidate(readings: Iterable[Candidate]) -> Identity:
    """Weigh the readings against each other and return the best as an identity.

    Readings that give the same kind and fields are one: the heavier counts. Without readings: unknown.
    """
    ordered = list(readings)
    if len(ordered) > 1:
        ordered.sort(key=_by_weight, reverse=True)
    if not ordered or ordered[0].weight <= 0:
        return Identity(Kind.UNKNOWN, State.UNKNOWN, 0.0, {})
    best = ordered[0]
    rival = None
    for other in ordered[1:]:
        if other.fields != best.fields or other.kind != best.kind:
            rival = other
            break
    confidence = confidence_of(best.weight - (rival.weight if rival else 0.0))
    doubts = list(best.doubts)
    missing = lacks(best.kind, best.fields)
    doubts += [f"no {name.replace('_', ' ')}" for name in missing]
    if not doubts and confidence < CLEAR_FROM:
        doubts.append(f"two readings: it could also be {_in_words(rival)}" if rival else "little speaks for it")
    if doubts:
        confidence = min(confidence, 0.5 if missing else 0.85)
    state = State.DOUBTFUL if doubts else State.CLEAR
    return Identity(best.kind, state, confidence, best.fields, best.facts, best.why, tuple(doubts))


_by_weight = attrgetter("weight")


def lacks(kind: Kind, fields: Mapping[str, Value]) -> list[str]:
    """Return the needed fields of a kind that are missing."""
    missing = [name for name in NEEDED.get(kind, ()) if fields.get(name) in (None, "")]
    if kind is Kind.EPISODE and not missing and not _is_counted(fields):
        missing = ["episode"]
    return missing


def _is_counted(fields: Mapping[str, Value]) -> bool:
    return "air_date" in fields or "running" in fields or ("season" in fields and "episode" in fields)


def _in_words(reading: Candidate) -> str:
    values = ", ".join(f"{name.replace('_', ' ')} {value}" for name, value in reading.fields.items())
    return f"a{'n' if reading.kind[0] in 'aeiou' else ''} {reading.kind} with {values}"


def tail_start(name: Name, begin: int, end: int | None = None) -> int:
    """Return where the title that begins at `begin` ends for its release words: at the first strong mark, or
    at the weak marks that run up to it (or, in brackets, at the first bracket that holds nothing else)."""
    stop = len(name.text) if end is None else end
    tail = [
        mark for mark in name.marks if begin < mark.start < stop and mark.field in RELEASE_FIELDS and mark.end <= stop
    ]
    if tail and tail[0].strength == STRONG and _ARTICLE_ALONE.match(name.text, begin, tail[0].start):
        tail = tail[1:]  # "The 720p Diary"
    for mark in tail:
        bracket = name.bracket_of(mark.start) if name.brackets else None
        if mark.strength == STRONG or (bracket and name.bracket_around(mark.start, mark.end)):
            stop = bracket[0] if bracket and bracket[0] >= begin else mark.start
            break
    else:
        stop = _before_last_shouted(name, tail, stop)
    for mark in name.marks:
        if mark.field in ("copy", "site") and begin <= mark.start < stop:
            stop = mark.start
            break
    return _before_weak_run(name, tail, begin, stop)


def _before_last_shouted(name: Name, tail: list[Token], stop: int) -> int:
    """Return where the title ends if a weak word in capitals, perhaps with a group, ends it: "The.Ferry.WEB-BRINE"."""
    run = _weak_run_at_end(name, tail, stop)
    if len(run) > 1:
        return run[-1].start
    if not tail or _ENDS_NO_TITLE.search(name.text[: tail[-1].start]) or name.text.upper() == name.text:
        return stop
    mark, rest = tail[-1], name.text[tail[-1].end : stop]
    seen, before = name.text[mark.start : mark.end], name.text[mark.start - 1]
    ends = not rest.strip(" ._)]") or (rest.startswith("-") and rest[1:].isalnum())
    sure = seen == "WEB" or rest.startswith("-") or before in "._"
    is_release = mark.field in ("source", "range", "release", "sound") and seen not in ("TV", "TS")
    return mark.start if ends and sure and is_release and seen.isupper() and len(seen) > 1 else stop


def _weak_run_at_end(name: Name, tail: list[Token], stop: int) -> list[Token]:
    """Return the release words that stand side by side at the end, the last first: "WEB FLAC-BRINE"."""
    run: list[Token] = []
    end = stop
    for mark in reversed(tail):
        rest = name.text[mark.end : end]
        group = not run and rest.startswith("-") and rest[1:].isalnum()
        if (rest.strip(" ._") and not group) or mark.field not in ("source", "range", "sound", "release"):
            break
        run.append(mark)
        end = mark.start
    return run


def is_shouted(text: str) -> bool:
    """Say whether a word is written as release groups write theirs: in capitals but for a letter (iNTERNAL)."""
    return sum(c.isupper() for c in text) * 3 > sum(c.isalpha() for c in text) * 2


RELEASE_FIELDS = frozenset((*CLAIMS, "edition", "languages")) - {"group"}


_ENDS_NO_TITLE = pattern(r"(?i)(?:^|[ ._-])(?:the|an?)[ ._-]+$|^[ ._\-\[(]*$")
"""What is no title in front of a release word: nothing, or an article, as in "The Cut"."""
_ARTICLE_ALONE = pattern(r"(?i)(?<![^\W_])[ ._-]*(?:the|an?)[ ._-]+$")


def _before_weak_run(name: Name, tail: list[Token], begin: int, stop: int) -> int:
    """Walk back from `stop` over weak marks that stand directly before it."""
    if stop == len(name.text):
        return stop
    seen: Value = ""
    for mark in reversed([m for m in tail if m.end <= stop]):
        between = name.text[mark.end : stop]
        may_be_title = name.text[mark.start : mark.end].istitle() and mark.field != "edition"
        if between.strip(" ._-[(") or (may_be_title and not (mark.field == "languages" and seen == "dual")):
            break
        if _ENDS_NO_TITLE.search(name.text[begin : mark.start]):
            break
        stop, seen = mark.start, mark.value
    return stop


def release_only(name: Name, *, weak: bool = False) -> bool:
    """Say whether every word of a name is a release word, one (but for `weak`) beyond doubt: "1080p x265"."""
    marks = [mark for mark in name.marks if mark.field in RELEASE_FIELDS]
    covered = all(any(mark.start <= start and end <= mark.end for mark in marks) for _, start, end in name.words)
    return covered and bool(marks) and (weak or any(mark.strength == STRONG for mark in marks))


def claims(name: Name, start: int) -> tuple[dict[str, Value], list[Evidence]]:
    """Return the facts that the marks of `name` from `start` on claim, each with its evidence."""
    facts: dict[str, Value] = {}
    why = []
    for mark in name.marks:
        if mark.field in CLAIMS and mark.start >= start and mark.field not in facts and mark.field != "group":
            facts[mark.field] = mark.value
            why.append(Evidence(mark.field, mark.value, "name", name.text[mark.start : mark.end]))
    if facts and (group := group_of(name)):
        facts["group"] = group
    return facts, why


def group_of(name: Name) -> str:
    """The release group: a word behind the last hyphen, or in the first brackets."""
    for mark in name.marks:
        if mark.field == "group":
            return str(mark.value)
    head, hyphen, last = name.text.rpartition("-")
    release = any(m.field in RELEASE_FIELDS and m.end == len(head) for m in name.marks)
    return last if hyphen and release and last.isalnum() else ""


def languages(name: Name, start: int) -> tuple[list[str], str]:
    """Return the codes of the languages named from `start` on, in order, each once, and the words for them."""
    subtitles = {m.start for m in name.marks if m.field == "release" and m.value == "subbed"}
    found: dict[str, str] = {}
    for mark in name.marks:
        if mark.field == "languages" and start <= mark.start and mark.end + 1 not in subtitles:
            found.setdefault(str(mark.value), name.text[mark.start : mark.end])
    codes = [code for code in found if len(code) == 2]
    return codes, ", ".join(found[code] for code in codes)
