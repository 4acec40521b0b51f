"""Readings of craft kits: a part of one in its folder, or an archive as it was sold."""

from __future__ import annotations

import re
from collections.abc import Iterator

from lazy_magpie.identify.candidates import Candidate, CandidateBuilder
from lazy_magpie.identify.folders import FolderContext
from lazy_magpie.identify.kit_sections import (
    LISTED,
    Chain,
    chain_of,
    maker_and_title,
    named,
    section_folder,
    section_in,
    section_of,
    without_section,
)
from lazy_magpie.identify.title_text import initials, match_key
from lazy_magpie.identify.tokenizer import without_copy
from lazy_magpie.model import Kind
from lazy_magpie.patterns import pattern

_PREVIEWS = ("folder", "cover")
"""Whole names of a picture that stands for its kit."""
_PART_AT_END = pattern(
    r"(?i)^(?P<front>.*[^\W_].*?)[ ._-]+[(\[]?"
    r"(?:(?:part|pt)[ ._-]?(?P<part>\d{1,2})|(?P<one>\d)[ ._-]?of[ ._-]?\d)[)\]]?$"
)
_BY = pattern(r"(?i)[ ._-]+by[ ._-]+(?P<maker>[^\W_].*)$")


def kit(stem: str, place: FolderContext, *, archive: bool, known: frozenset[str] = frozenset()) -> Iterator[Candidate]:
    """Yield the reading of a file as a part of a kit: on a shelf of kits, or an archive that names a section."""
    on_shelf = place.shelf is Kind.KIT
    bare = without_copy(stem)
    marked, stem = bare != stem, bare
    by = _BY.search(stem) if archive else None
    sold = stem[: by.start()] if by and not section_of(re.split(r"[ ._-]+", by["maker"])[-1]) else stem
    section, number, front = section_in(sold)
    if not on_shelf and not (archive and section):
        return
    found = CandidateBuilder(3.0 + 2.0 * on_shelf)
    chain = chain_of(place) if on_shelf else Chain()
    if archive and section and marked:
        found.doubts.append("copy or part: the number in brackets may be either")
    if archive:
        front = _put_part(found, stem, section, number, front)
        _put_sold(found, stem, front, chain, known)
    else:
        _put_section(found, stem, section, chain, place)
        _put_kit(found, chain)
    yield found.reading(Kind.KIT, {})


def _put_section(found: CandidateBuilder, stem: str, section: str, chain: Chain, place: FolderContext) -> None:
    """Put in the section of a file: its folder's, else what its own name says."""
    folder, of_folder = section_folder(place)
    if said := of_folder or chain.section:
        found.put("section", said, "folder", folder or chain.texts[1])
    elif section or stem.lower() in _PREVIEWS:
        found.put("section", section or "previews", "name", stem)


def _put_part(found: CandidateBuilder, stem: str, section: str, number: int, front: str) -> str:
    """Put in section and part of an archive; return what stands in front of them."""
    if section:
        found.put("section", section, "name", stem)
    elif part := _PART_AT_END.match(front):
        front, number = part["front"], int(part["part"] or part["one"])
    if number:
        found.put("part", number, "name", str(number))
    return front


def _put_kit(found: CandidateBuilder, chain: Chain) -> None:
    """Put in maker and title of a file's folders. A single folder is the kit, and only its name may say whose."""
    maker, title, text = chain.maker, chain.title, chain.texts[1]
    if maker and not title:
        text = chain.texts[0]
        maker, title = _kit_of_folder(text) if "_" in text else ("", maker)
        if maker:
            found.doubts.append(f"order of names: “{maker}” may be the maker, from the folder's name alone")
    if maker:
        found.put("maker", maker, "folder", chain.texts[0])
    if title:
        found.put("title", title, "folder", text)


def _put_sold(found: CandidateBuilder, stem: str, front: str, chain: Chain, known: frozenset[str]) -> None:
    """Put in maker and title of an archive: from its folders, what these do not say from its name."""
    maker, title = _maker_and_title(stem, front, chain.maker)
    if chain.maker:
        found.put("maker", chain.maker, "folder", chain.texts[0])
    elif maker and title:
        found.put("maker", maker, "name", stem)
        if match_key(maker) not in known:
            found.doubts.append(f"order of names: “{maker}” may be the maker, from the name alone")
    if chain.title:
        found.put("title", chain.title, "folder", chain.texts[1])
    elif title or maker:
        found.put("title", title or maker, "name", stem)


def _maker_and_title(stem: str, front: str, of_folder: str) -> tuple[str, str]:
    """Read an archive's name: LoomLane_FernWalk; where the folder names the maker, only that one can stand in front."""
    if rest := _behind_maker(front, of_folder):
        return "", named(LISTED.sub("", rest))
    maker, title = maker_and_title(front)
    if of_folder and title and not _is_maker(maker, of_folder):
        return "", named(LISTED.sub("", front))
    if not title and not of_folder and (by := _BY.search(stem)):
        return named(by["maker"]), named(_BY.sub("", front))
    return maker, title


def _behind_maker(front: str, maker: str) -> str:
    """Return what stands behind the maker's words at the beginning of a name, "" where they do not stand there."""
    for match in re.finditer(r"[ ._-]+", front) if maker else ():
        if match_key(front[: match.start()]) in (match_key(maker), match_key(maker).replace("and", "")):
            return front[match.end() :].strip(" _-")
    return ""


def _is_maker(short: str, maker: str) -> bool:
    """Say whether a word in front of a name means the maker: the same words, "&" perhaps left out, or initials."""
    one, whole = match_key(short), match_key(maker)
    alike = len(one) > 3 and (one in whole or whole in one)
    return alike or one in (whole, whole.replace("and", ""), initials(maker))


def _kit_of_folder(text: str) -> tuple[str, str]:
    """Read maker and kit from one folder's name: LoomLane_FernWalk."""
    maker, title = maker_and_title(without_section(text)[0])
    return (maker, title) if title else ("", maker)
