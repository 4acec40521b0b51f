"""What a file says of itself (its embedded tags) as evidence beside its name."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from lazy_magpie.identify.candidates import NEEDED
from lazy_magpie.identify.songs import MANY, ORDER
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Evidence, Identity, Kind, State, Value, reason_of

TOLD = 0.99
"""How certain a font's name table makes it: it is right whatever the file is called."""
_CURED = ("order of names", "no artist", "no title", "no track", "bare number", "two readings", "little speaks for it")
"""Doubts that a song's tags settle."""


def song(identity: Identity, tags: Mapping[str, Value]) -> Identity:
    """Return a song's identity with its tags weighed in: they fill what is missing and settle what the name left open.

    Where a clear name and the tags say different things, that is a doubt.
    """
    fields = dict(identity.fields)
    why = list(identity.why)
    told = {key: tags[key] for key in ORDER if key in tags}
    if match_key(str(told.get("artist", ""))) in MANY:  # the album's artist, put in each song's place
        told.setdefault("album_artist", told.pop("artist"))
    cures = {"artist", "title"} <= told.keys()
    doubts = [doubt for doubt in identity.doubts if not cures or reason_of(doubt) not in _CURED]
    for key, value in told.items():
        own = fields.get(key)
        replaces = own is None or (cures and identity.state is not State.CLEAR)
        if replaces or _same(own, value):
            fields[key] = value if replaces else fields[key]
            why.append(Evidence(key, value, "tags", str(value)))
        elif key in ("artist", "title", "track"):
            doubts.append(f"tags disagree: they say {key} “{value}”")
    twice = tags.get("said_twice")
    doubts += [f"tags disagree: they say {said}" for said in (twice if isinstance(twice, list) else ())]
    if fields.get("artist") and fields.get("title"):
        doubts = [doubt for doubt in doubts if doubt not in ("no artist", "no title")]
    doubts += [f"no {key}" for key in NEEDED[Kind.TRACK] if not fields.get(key) and f"no {key}" not in doubts]
    fields = {key: fields[key] for key in ORDER if key in fields}
    state = State.DOUBTFUL if doubts else State.CLEAR
    confidence = min(identity.confidence, 0.85) if doubts else max(identity.confidence, 0.95)
    return Identity(Kind.TRACK, state, confidence, fields, identity.facts, tuple(why), tuple(doubts))


def _same(one: Value | None, other: Value) -> bool:
    return match_key(str(one)) == match_key(str(other))


def film(identity: Identity, tags: Mapping[str, Value]) -> Identity:
    """Return a film's or episode's identity with a title in the file weighed in: it bears the name out, no more."""
    title = str(tags.get("title", ""))
    own = str(identity.fields.get("title") or identity.fields.get("episode_title") or "")
    if not title or not own or not match_key(title).startswith(match_key(own)):
        return identity
    field = "title" if "title" in identity.fields else "episode_title"
    return replace(identity, why=(*identity.why, Evidence(field, own, "tags", title)))


def font(identity: Identity, tags: Mapping[str, Value], makers: frozenset[str] = frozenset()) -> Identity:
    """Return a font's identity by its own name table, which is right whatever the file is called.

    Its vendor is its maker where that is one of the `makers` that one knows, folded; else it may be a program's name.
    """
    told = {key: tags[key] for key in ("family", "style") if tags.get(key)}
    vendor = str(tags.get("vendor", ""))
    if match_key(vendor) in makers and "maker" not in identity.fields:
        told["maker"] = vendor
    why = tuple(Evidence(key, value, "tags", str(value)) for key, value in told.items())
    fields = {**identity.fields, **told}
    return replace(identity, state=State.CLEAR, confidence=TOLD, fields=fields, why=(*identity.why, *why), doubts=())
