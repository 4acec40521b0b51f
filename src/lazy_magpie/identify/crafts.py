"""Readings of what makers sell: craft kits and their parts, stitch designs; fonts are in `fonts`.

The maker comes from the folders of a shelf (maker / item, or "maker - item" in one) or, as a guess, from the name.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace

from lazy_magpie.identify.places import Folder, Place
from lazy_magpie.identify.readings import Reading
from lazy_magpie.identify.titles import clean, folded, in_written_case, initials
from lazy_magpie.model import Evidence, Kind, Value

_PREVIEWS = ("folder", "cover")
"""Whole names of a picture that stands for its kit."""
SECTIONS = {
    word: section
    for section, words in {
        "elements": "elements, element, ele, elem, embellishments",
        "papers": "papers, paper, patterned papers, solid papers, solids, backgrounds",
        "word art": "word art, wordart, wordarts, words, wa, titles",
        "alphabets": "alphabets, alphabet, alphas, alpha, letters",
        "templates": "templates, template, layouts",
        "previews": "previews, preview, prev",
        "add-on": "add on, addon, add ons, addons, freebie, freebies, gift",
    }.items()
    for word in words.split(", ")
}
"""The sections of a kit by the words for them."""
_PART_NAMES = frozenset(("elements", "papers", "word art", "alphabets", "alphabet", "alpha", "templates", "previews"))
"""Words behind a kit's name that no kit is called by: the folder is a part of it, as it was sold."""

_CAMEL = re.compile(r"(?<=[a-z])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])|(?<=[A-Za-z])(?=\d)|(?<=\d)(?=[A-Z])")
_HOOP = re.compile(
    r"(?i)[ ._-]*[(\[]?(?<![^\W_])(?P<size>\d{1,3}(?:[.,]\d)?\s?(?:x|by)\s?\d{1,3}(?:[.,]\d)?)"
    r"\s?(?:in|inch|cm|mm|hoop)?"
    r"(?:[ ._-]?hoop)?(?![^\W_])[)\]]?"
)
_CODE = re.compile(
    r"(?i)^(?P<code>[a-z]{1,5}[-_]?\d{2,6})(?:[ ._-]+(?P<rest>.+))?$|^(?P<head>.+?)[ ._-]+(?P<last>[a-z]{1,5}\d{2,6})$"
)
_NUMBER_BEHIND = re.compile(r"^(.*?)[ ._-]*(\d{1,2})$")
_PART_BEHIND = re.compile(r"(?i)^[ ._-]*(?:part|pt)?[ ._-]*(\d{1,2})(?:[ ._-]?of[ ._-]?\d{1,2})?(?![^\W_])")
_SEPARATOR = re.compile(r"\s+[-–—]+\s+|_+-_+")


@dataclass(frozen=True)
class Chain:
    """Maker and item as the folders of a shelf say them, and the section behind the item; each "" where they do not."""

    maker: str = ""
    title: str = ""
    texts: tuple[str, str] = ("", "")
    section: str = ""


def spaced(text: str) -> str:
    """Return words written together in capitals (HarbourLights) with spaces between them, other text as it is."""
    if " " in text or text.isupper() or text.islower():
        return text
    return _CAMEL.sub(" ", text)


def named(text: str) -> str:
    """Return a maker's or an item's name as a person would write it, from a stretch of a file's name."""
    return clean(spaced(text.strip(" ._-")))


def chain_of(place: Place) -> Chain:
    """Read the folders outermost first: maker / item, or "maker - item" in one."""
    folders = [folder for folder in reversed(place.titles()) if section_of(folder.text) == ""]
    if not folders:
        return Chain()
    first = folders[0]
    parts = [part for part in _SEPARATOR.split(first.text) if part.strip()]
    if len(parts) > 1:
        title, section = _without_section(" - ".join(parts[1:]))
        return Chain(_folder_name(parts[0]), _folder_name(title), (first.text, first.text), section)
    if len(folders) > 1:
        title, section = _without_section(folders[1].text)
        return Chain(_maker(first), _item(title, first), (first.text, folders[1].text), section)
    return Chain(_maker(first), "", (first.text, ""))


def _without_section(text: str) -> tuple[str, str]:
    """Part an item's folder's name from the section behind it, "" if none: an add-on's, or an unpacked archive's.

    In "Dotty Paper" the last word is the title's as likely as not; "NeedleJetty_Dotty_Paper" is a part as it is sold.
    """
    section, number, front = section_in(text)
    last = bool(section) and section_of(text[len(front) :]) == section
    sold = "_" in text and " " not in text
    named = text[len(front) :].strip(" ._-").lower() in _PART_NAMES
    if last and not number and front.strip(" ._-") and (section == "add-on" or sold or named):
        return front.strip(" ._-"), section
    return text, ""


def _maker(folder: Folder) -> str:
    return _folder_name(folder.text)


def _item(text: str, maker: Folder) -> str:
    """Return an item's folder's name without the maker's in front, which only repeats it."""
    name, front = _folder_name(text), _folder_name(maker.text)
    rest = name[len(front) :].lstrip(" -_") if name.casefold().startswith(front.casefold()) else ""
    return rest or name


def _folder_name(text: str) -> str:
    return clean(text if " " in text else spaced(text))


def section_of(text: str) -> str:
    """Return the section that a folder's whole name, or the last word of a file's, means; "" if none."""
    plain = " ".join(re.split(r"[ ._-]+", spaced(text).lower())).strip()
    return SECTIONS.get(plain.rstrip("0123456789 "), "")


def section_of_folder(text: str, above: str) -> str:
    """Return the section that a folder's name means, also where it repeats the name of the one above; "" if none."""
    if section := section_of(text):
        return section
    repeated = len(above) if above and text.casefold().startswith(above.casefold()) else 0
    return section_of(text[repeated:].strip(" ._-")) if repeated else ""


def _section_folder(place: Place) -> tuple[str, str]:
    """Return the name of the folder that is a section of a kit, and which; "" where none of the folders is one."""
    names = [*(folder.text for folder in place.folders[1:]), ""]
    for folder, above in zip(place.folders, names, strict=False):
        if section := section_of_folder(folder.text, above):
            return folder.text, section
    return "", ""


def section_in(stem: str) -> tuple[str, int, str]:
    """Return the section that stands in a name, the number behind it, and the name in front of it."""
    words = list(re.finditer(r"[^\W_]+", stem))
    for size in (2, 1):
        for at in range(len(words) - size, -1, -1):
            text = stem[words[at].start() : words[at + size - 1].end()]
            if section := section_of(text):
                number = _NUMBER_BEHIND.match(text)
                follows = _PART_BEHIND.match(stem[words[at + size - 1].end() :])
                digits = number[2] if number else follows[1] if follows else "0"
                return section, int(digits), stem[: words[at].start()]
    return "", 0, stem


def kit(stem: str, place: Place, *, archive: bool, known: frozenset[str] = frozenset()) -> Iterator[Reading]:
    """Yield the reading of a file as a part of a kit: on a shelf of kits, or an archive that names a section."""
    on_shelf = place.shelf is Kind.KIT
    section, number, front = section_in(stem)
    folder, of_folder = _section_folder(place)
    if not section and stem.lower() in _PREVIEWS:
        section = "previews"
    if not on_shelf and not (archive and section):
        return
    chain = chain_of(place) if on_shelf else Chain()
    fields: dict[str, Value] = {}
    why: list[Evidence] = []
    doubts: list[str] = []
    if (said := of_folder or chain.section) and on_shelf and not archive:
        fields["section"] = said
        why.append(Evidence("section", said, "folder", folder or chain.texts[1]))
    elif section:
        fields["section"] = section
        why.append(Evidence("section", section, "name", stem))
        if archive and number:
            fields["part"] = number
            why.append(Evidence("part", number, "name", str(number)))
    maker, title = chain.maker, chain.title
    if archive and (not title or not maker):
        own_maker, own_title = maker_and_title(front)
        title = title or own_title
        if not own_title:
            title = title or own_maker
        elif not maker:
            maker = own_maker
            if folded(maker) not in known:
                doubts.append(f"order of names: “{maker}” may be the maker, from the name alone")
    elif on_shelf and not archive and maker and not title:  # one folder: it is the kit, and nobody says whose
        maker, title = "", maker
    for name, value, text in (("maker", maker, chain.texts[0]), ("title", title, chain.texts[1])):
        if value:
            fields[name] = value
            why.append(Evidence(name, value, "folder" if text else "name", text or stem))
    yield Reading(Kind.KIT, 3.0 + 2.0 * on_shelf, fields, tuple(why), tuple(doubts))


def maker_and_title(front: str) -> tuple[str, str]:
    """Read maker and title from a name: FennickPaperCo_HarbourLights, or "Fennick Paper Co - Harbour Lights"."""
    parts = [part for part in _SEPARATOR.split(front.strip(" ._-")) if part.strip(" ._-")]
    if len(parts) < 2:
        bare = front.strip(" ._-")
        parts = [part for part in bare.split("_" if "_" in bare or " " in bare else "-") if part.strip(" .-")]
    if len(parts) < 2:
        return named(front), ""
    return named(parts[0]), named(" ".join(parts[1:]))


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
    parts = [part for part in _SEPARATOR.split(title) if part]
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
