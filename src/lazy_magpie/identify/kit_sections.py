"""What makers sell, read from names and folders: maker and item, and a kit's sections; for `kits`, `designs`, `fonts`.

The maker comes from the folders of a shelf (maker / item, or "maker - item" in one) or, as a guess, from the name.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from lazy_magpie.identify.folders import Folder, FolderContext
from lazy_magpie.identify.title_text import match_key, normalize_title
from lazy_magpie.patterns import pattern
from lazy_magpie.words import meaning

SECTIONS = {
    word: section
    for section, words in {
        "elements": "elements, element, ele, elem, embellishments",
        "papers": "papers, paper, pp, patterned papers, solid papers, solids, solid, backgrounds",
        "word art": "word art, wordart, wordarts, words, wa, titles",
        "alphabets": "alphabets, alphabet, alphas, alpha, letters",
        "templates": "templates, template, layouts",
        "previews": "previews, preview, prev",
        "add-on": "add on, addon, add ons, addons, freebie, freebies, gift",
    }.items()
    for word in words.split(", ")
}
"""The sections of a kit by the words for them."""
SECTION_CONCEPTS = {f"section.{name}": name.replace("_", " ") for name in (
    "papers elements alphabets word_art add_on frames borders journal_cards templates stamps stickers quick_pages "
    "styles overlays brushes clusters stacked_papers previews").split()}  # fmt: skip
"""The same by the concepts of the vocabulary, which has words for more of them."""
_PART_NAMES = frozenset(("elements", "papers", "word art", "alphabets", "alphabet", "alpha", "templates", "previews"))
"""Words behind a kit's name that no kit is called by: the folder is a part of it, as it was sold."""

_ORDERED = pattern(r"^\d{1,2}[ ._-]+")
_CAMEL = pattern(r"(?<=[^\W_][a-z])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])|(?<=[A-Za-z])(?=\d+(?![a-z\d]))|(?<=\d)(?=[A-Z])")
_NUMBER_BEHIND = pattern(r"^(.*?)[ ._-]*(\d{1,2})$")
_PART_BEHIND = pattern(r"(?i)^[ ._(-]*(?:part|pt)?[ ._-]*(\d{1,2})(?:[ ._-]?of[ ._-]?\d{1,2})?(?![^\W_])")
LISTED = pattern(r"^(?:(?:19|20)\d\d-\d\d(?:-\d\d)?(?: - |[ _]+)|0\d{1,2}(?: - |\. ?|[ _]+)|\d{2,3} - )(?=[^\W\d_])")
"""A date or a running number in front of an item's name, to keep the items of a maker in order."""
SEPARATOR = pattern(r"\s+[-–—]+\s+|_+-_+")


@dataclass(frozen=True)
class Chain:
    """Maker and item as the folders of a shelf say them, and the section behind the item; each "" where they do not."""

    maker: str = ""
    title: str = ""
    texts: tuple[str, str] = ("", "")
    section: str = ""


def spaced(text: str) -> str:
    """Return words written together in capitals (HarbourLamps) with spaces between them, other text as it is."""
    if " " in text or text.isupper() or text.islower():
        return text
    return _CAMEL.sub(" ", text)


def named(text: str) -> str:
    """Return a maker's or an item's name as a person would write it, from a stretch of a file's name."""
    return normalize_title(spaced(text.strip(" _-")))


def chain_of(place: FolderContext) -> Chain:
    """Read the folders outermost first: maker / item, or "maker - item" in one."""
    folders = [folder for folder in reversed(place.titles()) if not section_of_folder(folder.text, "")]
    if not folders:
        return Chain()
    first = folders[0]
    parts = [part for part in SEPARATOR.split(first.text) if part.strip()]
    if len(parts) > 1:
        title, section = without_section(" - ".join(parts[1:]))
        return Chain(_folder_name(parts[0]), _folder_name(title), (first.text, first.text), section)
    if len(folders) > 1:
        title, section = without_section(folders[1].text)
        return Chain(_maker(first), _item(title, first), (first.text, folders[1].text), section)
    return Chain(_maker(first), "", (first.text, ""))


def without_section(text: str) -> tuple[str, str]:
    """Part an item's folder's name from the section behind it, "" if none: an add-on's, or an unpacked archive's.

    In "Dotty Paper" the last word is the title's as likely as not; "NeedleJetty_Dotty_Paper" is a part as it is sold.
    """
    text = re.sub(r"[ ._-]*[(\[]([^()\[\]]+)[)\]]$", r" - \1", text)
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
    return _without_maker(_folder_name(LISTED.sub("", text)), _folder_name(maker.text))


def _without_maker(name: str, maker: str) -> str:
    """Return an item's name without its maker's in front, which only repeats it, perhaps in one word."""
    if maker and name.casefold().startswith(maker.casefold()):
        return name[len(maker) :].lstrip(" -_") or name
    first, _, rest = name.partition(" ")
    return rest.lstrip(" -_") if rest and maker and match_key(first) == match_key(maker) else name


def _folder_name(text: str) -> str:
    return normalize_title(text if " " in text else spaced(text))


def section_of(text: str) -> str:
    """Return the section that a folder's whole name, or the last word of a file's, means; "" if none."""
    plain = " ".join(re.split(r"[ ._-]+", spaced(text).lower())).strip()
    return SECTIONS.get(plain.rstrip("0123456789 "), "")


def section_of_folder(text: str, above: str) -> str:
    """Return the section that a folder's name means, perhaps behind a number that orders it, or behind the name of
    the one above; "" if none."""
    plain = _ORDERED.sub("", text)
    if section := section_of(plain) or _in_any_language(plain):
        return section
    repeated = len(above) if above and text.casefold().startswith(above.casefold()) else 0
    return section_of(text[repeated:].strip(" ._-")) if repeated else ""


def _in_any_language(text: str) -> str:
    """Return the section that a whole name means for certain in the vocabulary: "papiers", "Elemente"."""
    said = (concept for concept, strength in meaning(text).items() if strength == 2)
    return next((SECTION_CONCEPTS[concept] for concept in said if concept in SECTION_CONCEPTS), "")


def section_folder(place: FolderContext) -> tuple[str, str]:
    """Return the name of the folder that is a section of a kit, and which; "" where none of the folders is one."""
    names = [*(folder.text for folder in place.folders[1:]), ""]
    for folder, above in zip(place.folders, names, strict=False):
        if section := section_of_folder(folder.text, above):
            return folder.text, section
    sold = (folder.text for folder in place.titles() if "_" in folder.text)  # "fpc_harbourlamps_elements"
    return next(((text, section) for text in sold if (section := without_section(text)[1])), ("", ""))


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


def maker_and_title(front: str) -> tuple[str, str]:
    """Read maker and title from a name: FennickPaperCo_HarbourLamps, or "Fennick Paper Co - Harbour Lamps"."""
    parts = [part for part in SEPARATOR.split(front.strip(" _-")) if part.strip(" ._-")]
    if len(parts) < 2:
        bare = front.strip(" _-")
        if "_" in bare and "-" in bare and " " not in bare and spaced(bare) == bare:  # Loom_Lane-Fern_Walk
            bare = bare.replace("_", " ").replace("-", "_")
        parts = [part for part in bare.split("_" if "_" in bare or " " in bare else "-") if part.strip(" .-")]
    if len(parts) < 2:
        return named(front), ""
    return named(parts[0]), named(" ".join(parts[1:]))
