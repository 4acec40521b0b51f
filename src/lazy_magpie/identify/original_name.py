"""What only the name says that a file first came with: no naming writes it, so no tidy may lose it."""

from __future__ import annotations

from dataclasses import replace

from lazy_magpie.identify.candidates import CLAIMS
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Evidence, Identity, Kind

_TOLD_BY_NAME = ("languages",)
"""Fields that the namings leave to the file itself."""


def recalled(now: Identity, first: Identity) -> Identity:
    """Return an identity with the languages, and what is claimed, of the name that its file came with.

    Only where both names are those of one film or episode; what the name says now stays.
    """
    shared = now.fields.keys() & first.fields.keys()
    same = all(match_key(str(now.fields[key])) == match_key(str(first.fields[key])) for key in shared)
    if now.kind not in (Kind.MOVIE, Kind.EPISODE) or now.kind is not first.kind or not shared or not same:
        return now
    fields = {key: first.fields[key] for key in _TOLD_BY_NAME if key in first.fields and key not in now.fields}
    facts = {key: first.facts[key] for key in CLAIMS if key in first.facts and key not in now.facts}
    why = [
        Evidence(one.field, one.value, "first name", one.text)
        for one in first.why
        if one.field in fields or one.field in facts
    ]
    return replace(now, fields={**now.fields, **fields}, facts={**facts, **now.facts}, why=(*now.why, *why))
