"""Readings of stitch designs, and of the papers and pictures that lie beside designs, kits and fonts."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import replace

from lazy_magpie.identify.candidates import Candidate, CandidateBuilder
from lazy_magpie.identify.folders import FolderContext
from lazy_magpie.identify.kit_sections import LISTED, SEPARATOR, chain_of, spaced
from lazy_magpie.identify.title_text import in_written_case, initials, match_key, normalize_title
from lazy_magpie.model import Evidence, Kind, Value
from lazy_magpie.patterns import pattern

_HOOP = pattern(
    r"(?i)[ ._-]*[(\[]?(?<![^\W_])(?P<size>\d{1,3}(?:[.,]\d)?\s?(?:x|by)\s?\d{1,3}(?:[.,]\d)?|\d{2,3}(?=\s?mm))"
    r"\s?(?:in|inch|cm|mm|hoop)?"
    r"(?:[ ._-]?hoop)?(?![^\W_])[)\]]?"
)
_CODE = pattern(
    r"(?i)^(?P<code>[a-z]{1,5}[-_]?\d{2,6})(?:[ ._-]+(?P<rest>.+))?$|^(?P<head>.+?)[ ._-]+(?P<last>[a-z]{1,5}\d{2,6})$"
)
_NUMBERED = pattern(r"(?i)[a-z]{2,5}[-_]?\d{2,6}")
"""A maker's number that is no word of a title."""
_INITIALS = pattern(r"(?i)(?P<initials>[a-z]{2,5})[_-]+(?=[^\W_])")
_FORMATS = "pes|dst|jef|exp|vp3|vip|hus|xxx|sew|pec"
_FORMAT_BEHIND = pattern(rf"(?i)[ ._-]+[(\[]?(?:{_FORMATS})(?:[ ._-](?:format|files?))?[)\]]?$")
"""The machine's format behind a name: "Kite Emblem PES"."""


def design(stem: str, place: FolderContext, known: frozenset[str] = frozenset()) -> Iterator[Candidate]:
    """Yield the reading of a stitch file: maker from the folders, title from the name or the folder it repeats."""
    on_shelf = place.shelf is Kind.DESIGN
    found = CandidateBuilder(3.0 + 2.0 * on_shelf)
    facts: dict[str, Value] = {}
    code, text = _code_in(_FORMAT_BEHIND.sub("", _without_hoop(stem, facts, found.why)))
    chain = chain_of(place)
    if code and match_key(f"{code} {text}") == match_key(
        chain.title
    ):  # "Catch-41" is what the folder calls it, no number
        code, text = "", chain.title
    of_folder, title = _code_in(_without_hoop(chain.title, {}, []))
    is_number = match_key(of_folder) == match_key(code) if code else _NUMBERED.fullmatch(of_folder)
    if of_folder and title and is_number:
        code, chain = code or of_folder, replace(chain, title=_design_title(title))
    elif not of_folder and title != chain.title:
        chain = replace(chain, title=title)
    maker = chain.maker
    title = _design_title(_without_initials(LISTED.sub("", text), maker))
    if chain.title and (not title or _stands_for(title, chain.title)):
        title = chain.title
        found.put("title", title, "folder", chain.texts[1])
    elif title:
        found.put("title", title, "name", text)
    if maker and not chain.title:
        maker = _maker_alone(found, title, maker, on_shelf)
    elif chain.title and not on_shelf and match_key(title) != match_key(chain.title):
        found.doubts.append(f"order of names: the folder “{maker}” may be no maker")
    if maker:
        found.put("maker", maker, "folder", chain.texts[0])
    elif len(parts := [part for part in SEPARATOR.split(title) if part]) > 1:
        found.put("maker", parts[0], "name", stem)
        found.put("title", " - ".join(parts[1:]), "name", stem)
        if match_key(parts[0]) not in known:
            found.doubts.append(f"order of names: “{parts[0]}” may be the maker, from the name alone")
    if code:
        found.put("code", code, "name" if code in stem else "folder", code)
    found.fields = {key: found.fields[key] for key in ("maker", "title", "code") if key in found.fields}
    yield found.reading(Kind.DESIGN, facts)


def _without_initials(text: str, maker: str) -> str:
    """Return a name without the maker's initials in front: "tb_snail"."""
    match = _INITIALS.match(text) if maker else None
    return text[match.end() :] if match and match["initials"].lower() == initials(maker) else text


def _maker_alone(found: CandidateBuilder, title: str, folder: str, on_shelf: bool) -> str:
    """Return the maker that the only folder names, "" where it is the design's own, which the file repeats."""
    if match_key(title) == match_key(folder) or (not on_shelf and _stands_for(title, folder)):
        found.put("title", folder, "folder", folder)
        return ""
    if not on_shelf:
        found.doubts.append(f"order of names: the folder “{folder}” may be the maker or a set")
    return folder


def _code_in(text: str) -> tuple[str, str]:
    """Part a name from the maker's number in front of it or behind: "nj0142 kite emblem"; "" where it has none."""
    match = _CODE.match(text)
    if match is None:
        return "", text
    return str(match["code"] or match["last"]), match["rest"] or match["head"] or ""


def _without_hoop(text: str, facts: dict[str, Value], why: list[Evidence]) -> str:
    """Return a name without the size of its hoop, which is put into `facts` and `why`: "4x4", "100 by 100 mm"."""
    hoop = _HOOP.search(text)
    if hoop is None:
        return text
    facts["hoop"] = re.sub(r"(?i)\s|by", lambda m: "x" if m.group().lower() == "by" else "", hoop["size"]).lower()
    why.append(Evidence("hoop", facts["hoop"], "name", hoop.group().strip(" ._-")))
    return (text[: hoop.start()] + " " + text[hoop.end() :]).strip(" ._-")


def _design_title(text: str) -> str:
    text = spaced(text.replace("_", " "))
    if " " not in text.strip():
        text = text.replace("-", " ")
    return in_written_case(normalize_title(text)) if text.strip(" ._-") else ""


def _stands_for(short: str, title: str) -> bool:
    """Say whether a name repeats an item's: the same words, or its initials."""
    one, whole = match_key(re.sub(r"~\d$", "", short)), match_key(title)
    return (
        (one.isdecimal() and len(one) < 3)
        or one == whole
        or one == initials(title)
        or (len(one) > 3 and (one in whole or whole in one))
    )


PAPER_ROLES = {
    "chart": "chart", "charts": "chart", "colour": "chart", "color": "chart", "colours": "chart", "colors": "chart",
    "threads": "chart", "thread": "chart", "worksheet": "chart",
    "instructions": "instructions", "instruction": "instructions", "guide": "instructions", "tutorial": "instructions",
    "readme": "instructions", "read": "instructions", "how": "instructions",
    "licence": "licence", "license": "licence", "terms": "licence", "tou": "licence", "copyright": "licence",
    "ofl": "licence", "eula": "licence",
}  # fmt: skip
"""What a paper beside a design, kit or font is, by a word of its name."""


def beside(stem: str, kind: Kind, place: FolderContext) -> tuple[dict[str, Value], list[Evidence]] | None:
    """Return the fields of a paper or picture that belongs to a design, kit or font; None where it is none's."""
    if place.shelf not in (Kind.DESIGN, Kind.KIT, Kind.FONT):
        return None
    chain = chain_of(place)
    words = re.findall(r"[^\W\d_]+", spaced(stem).lower())
    role = next((PAPER_ROLES[word] for word in words if word in PAPER_ROLES), "")
    if not role and chain.title and match_key(stem) == match_key(chain.title):
        role = "other"
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
