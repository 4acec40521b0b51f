"""Readings of stitch designs, and of the papers and pictures that lie beside designs, kits and fonts."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import replace

from lazy_magpie.identify.crafts import SEPARATOR, Chain, chain_of, spaced
from lazy_magpie.identify.places import Place
from lazy_magpie.identify.readings import Reading
from lazy_magpie.identify.titles import clean, folded, in_written_case, initials
from lazy_magpie.model import Evidence, Kind, Value

_HOOP = re.compile(
    r"(?i)[ ._-]*[(\[]?(?<![^\W_])(?P<size>\d{1,3}(?:[.,]\d)?\s?(?:x|by)\s?\d{1,3}(?:[.,]\d)?)"
    r"\s?(?:in|inch|cm|mm|hoop)?"
    r"(?:[ ._-]?hoop)?(?![^\W_])[)\]]?"
)
_CODE = re.compile(
    r"(?i)^(?P<code>[a-z]{1,5}[-_]?\d{2,6})(?:[ ._-]+(?P<rest>.+))?$|^(?P<head>.+?)[ ._-]+(?P<last>[a-z]{1,5}\d{2,6})$"
)


def design(stem: str, place: Place, known: frozenset[str] = frozenset()) -> Iterator[Reading]:
    """Yield the reading of a stitch file: maker from the folders, title from the name or the folder it repeats."""
    fields: dict[str, Value] = {}
    facts: dict[str, Value] = {}
    why: list[Evidence] = []
    doubts: list[str] = []
    text = _without_hoop(stem, facts, why)
    if code := _CODE.match(text):
        fields["code"] = str(code["code"] or code["last"])
        why.append(Evidence("code", fields["code"], "name", str(fields["code"])))
        text = code["rest"] or code["head"] or ""
    chain = _without_code(chain_of(place), fields.get("code"))
    title, maker = _design_title(text), chain.maker
    if chain.title and (not title or _stands_for(title, chain.title)):
        title = chain.title
        why.append(Evidence("title", title, "folder", chain.texts[1]))
    elif title:
        why.append(Evidence("title", title, "name", text))
    if not chain.title and maker and place.shelf is not Kind.DESIGN:
        if _stands_for(title, maker):
            title, maker = maker, ""
        else:
            doubts.append(f"order of names: the folder “{maker}” may be the maker or a set")
    elif chain.title and place.shelf is not Kind.DESIGN and folded(title) != folded(chain.title):
        doubts.append(f"order of names: the folder “{maker}” may be no maker")
    if maker:
        fields["maker"] = maker
        why.append(Evidence("maker", maker, "folder", chain.texts[0]))
    parts = [part for part in SEPARATOR.split(title) if part]
    if not maker and len(parts) > 1:
        fields["maker"], title = parts[0], " - ".join(parts[1:])
        why.append(Evidence("maker", parts[0], "name", stem))
        if folded(parts[0]) not in known:
            doubts.append(f"order of names: “{parts[0]}” may be the maker, from the name alone")
    if title:
        fields["title"] = title
    fields = {key: fields[key] for key in ("maker", "title", "code") if key in fields}
    yield Reading(Kind.DESIGN, 3.0 + 2.0 * (place.shelf is Kind.DESIGN), fields, tuple(why), tuple(doubts), facts)


def _without_hoop(text: str, facts: dict[str, Value], why: list[Evidence]) -> str:
    """Return a name without the size of its hoop, which is put into `facts` and `why`: "4x4", "100 by 100 mm"."""
    hoop = _HOOP.search(text)
    if hoop is None:
        return text
    facts["hoop"] = re.sub(r"(?i)\s|by", lambda m: "x" if m.group().lower() == "by" else "", hoop["size"]).lower()
    why.append(Evidence("hoop", facts["hoop"], "name", hoop.group().strip(" ._-")))
    return (text[: hoop.start()] + " " + text[hoop.end() :]).strip(" ._-")


def _without_code(chain: Chain, code: Value | None) -> Chain:
    """Return the folders without the design's own code in front of the title."""
    behind = _CODE.match(chain.title) if code else None
    repeats = behind and behind["code"] == code and behind["rest"]
    return replace(chain, title=_design_title(behind["rest"])) if behind and repeats else chain


def _design_title(text: str) -> str:
    text = spaced(text.replace("_", " "))
    if " " not in text.strip():
        text = text.replace("-", " ")
    return in_written_case(clean(text)) if text.strip(" ._-") else ""


def _stands_for(short: str, title: str) -> bool:
    """Say whether a name repeats an item's: the same words, or its initials."""
    one, whole = folded(short), folded(title)
    return one == whole or one == initials(title) or (len(one) > 3 and (one in whole or whole in one))


PAPER_ROLES = {
    "chart": "chart", "charts": "chart", "colour": "chart", "color": "chart", "colours": "chart", "colors": "chart",
    "threads": "chart", "thread": "chart", "worksheet": "chart",
    "instructions": "instructions", "instruction": "instructions", "guide": "instructions", "tutorial": "instructions",
    "readme": "instructions", "how": "instructions",
    "licence": "licence", "license": "licence", "terms": "licence", "tou": "licence", "copyright": "licence",
    "ofl": "licence", "eula": "licence",
}  # fmt: skip
"""What a paper beside a design, kit or font is, by a word of its name."""


def beside(stem: str, kind: Kind, place: Place) -> tuple[dict[str, Value], list[Evidence]] | None:
    """Return the fields of a paper or picture that belongs to a design, kit or font; None where it is none's."""
    if place.shelf not in (Kind.DESIGN, Kind.KIT, Kind.FONT):
        return None
    chain = chain_of(place)
    words = re.findall(r"[^\W\d_]+", spaced(stem).lower())
    role = next((PAPER_ROLES[word] for word in words if word in PAPER_ROLES), "")
    if kind is Kind.PICTURE:
        role = "chart" if role == "chart" else "thumbnail"
    if not role or not (chain.maker or chain.title):
        return None
    of, maker = (chain.title, chain.maker) if chain.title else ("", chain.maker)
    if not of and place.shelf is Kind.DESIGN:
        kept = [word for word in re.split(r"[ _-]+", stem) if word.lower() not in (*PAPER_ROLES, "card")]
        of = _design_title(" ".join(kept))
    if not of:
        of, maker = maker, ""
    fields: dict[str, Value] = {"role": role, "of": of}
    if maker:
        fields["maker"] = maker
    why = [Evidence("role", role, "name", stem), Evidence("of", of, "folder", chain.texts[1] or chain.texts[0])]
    return fields, why
