"""What data files beside films and episodes say of these, as evidence: it fills in a year, or a season, or differs."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import replace

from lazy_magpie.identify.file_types import BY_ENDING, DATA, VIDEO
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Evidence, Identity, Kind, State, Value, reason_of
from lazy_magpie.paths import same_name, split_ending

DISAGREES = "data file disagrees"
_CURED = {Kind.MOVIE: ("no year", "bare year"), Kind.EPISODE: ("no season said", "bare number")}
"""The doubts that a data file settles which says the same title."""
_MEDIA = (Kind.MOVIE, Kind.TRACK, Kind.GAME, Kind.DESIGN, Kind.FONT)


class DataFiles:
    """The data files of one folder: (id, name, size, mtime) of its files, and what they say, by their ids."""

    def __init__(self, files: Iterable[tuple[int, str, int, int]], told: Mapping[int, Mapping[str, Value]]) -> None:
        self._told: dict[str, Mapping[str, Value]] = {}
        self._ids: set[int] = set()
        self._media: set[str] = set()
        self._films: Counter[str] = Counter()
        for id, name, _, _ in files:
            stem, ending = _cut(name)
            if BY_ENDING.get(ending) in _MEDIA:
                self._media.add(stem)
            if ending in VIDEO:
                self._films[stem] += 1
            if ending in DATA and (said := told.get(id)) and said.get("data"):
                self._told.setdefault(stem, said)
                self._ids.add(id)

    def about(self, name: str) -> Mapping[str, Value]:
        """Return what a data file says of a film: one of its name, else the only one beside the only film."""
        if not self._told:
            return {}
        stem, ending = _cut(name)
        if ending not in VIDEO:
            return {}
        alone = len(self._told) == len(self._films) == 1
        said = self._told.get(stem) or (next(iter(self._told.values())) if alone else {})
        return {key: value for key, value in said.items() if key != "data"}

    def is_one(self, id: int, name: str) -> bool:
        """Say whether a file is data about a thing that lies beside it: by what it says, or by its name."""
        stem, ending = _cut(name)
        return ending in DATA and (id in self._ids or stem in self._media)


def _cut(name: str) -> tuple[str, str]:
    stem, ending = split_ending(name)
    return same_name(stem), ending.lower()


def weighed(identity: Identity, said: Mapping[str, Value]) -> Identity:
    """Return a film's or episode's identity with what a data file says of it weighed in.

    It counts where it has the same title (or show): then it fills in what is missing, and settles what was open; where
    it says otherwise than a name that is clear, that is a doubt.
    """
    of = {Kind.MOVIE: ("title", "title", ("year",)), Kind.EPISODE: ("show", "show", ("season", "episode"))}
    if identity.kind not in of:
        return identity
    own, theirs, fields = of[identity.kind]
    same = match_key(str(identity.fields.get(own, ""))) == match_key(str(said.get(theirs, "")))
    told = {field: said[field] for field in fields if field in said}
    if not same or len(told) < len(fields):
        return identity
    cured = _CURED[identity.kind]
    is_open = any(reason_of(doubt) in cured for doubt in identity.doubts)
    otherwise = [field for field, value in told.items() if identity.fields.get(field, value) != value]
    if otherwise and not (is_open and identity.kind is Kind.EPISODE and otherwise == ["season"]):
        words = ", ".join(f"{field} {told[field]}" for field in otherwise)
        doubts = (*identity.doubts, f"{DISAGREES}: it says {words}")
        return replace(identity, state=State.DOUBTFUL, confidence=min(identity.confidence, 0.8), doubts=doubts)
    why = (*identity.why, *(Evidence(field, value, "data file", str(value)) for field, value in told.items()))
    doubts = tuple(doubt for doubt in identity.doubts if reason_of(doubt) not in cured)
    state = State.CLEAR if not doubts and identity.state is State.DOUBTFUL else identity.state
    confidence = max(identity.confidence, 0.95) if state is State.CLEAR else identity.confidence
    return replace(
        identity, state=state, confidence=confidence, fields={**identity.fields, **told}, why=why, doubts=doubts
    )
