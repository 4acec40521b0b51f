"""What lies beside a film, an episode or a show: companions, by ending, name and folder; extras are in `extras`."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import TYPE_CHECKING

from lazy_magpie.identify.file_types import METRICS, SUBTITLES
from lazy_magpie.identify.placeholders import CAMERAS
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.identify.vocabulary import LANGUAGE_CODES, LANGUAGES
from lazy_magpie.model import Evidence, Identity, Kind, State, Value
from lazy_magpie.patterns import pattern
from lazy_magpie.words import meaning

if TYPE_CHECKING:
    from lazy_magpie.identify.folders import FolderContext

_PICTURE_ROLES = {
    "poster": "cover", "cover": "cover", "folder": "cover", "front": "cover", "movie": "cover", "dvd": "cover",
    "backdrop": "backdrop", "background": "backdrop", "back": "cover", "disc": "other", "thumb": "thumbnail",
    "thumbnail": "thumbnail", "logo": "other",
}  # fmt: skip
"""What ordinary words at the end of a picture's name say that it is, beside a film."""
_OF_CONCEPTS = {"picture.backdrop": "backdrop", "picture.cover": "cover", "picture.poster": "cover",
                "picture.thumbnail": "thumbnail", "picture.": "other"}  # fmt: skip
"""What words of the vocabulary say, by the beginnings of their concepts."""

_LANGUAGE_WORDS = {word: code for code, words in LANGUAGES.items() for word in words.split(", ") if len(code) == 2}
_LANGUAGE_WORDS |= {
    "français": "fr", "francais": "fr", "español": "es", "português": "pt", "portugues": "pt", "nederlands": "nl",
    "svenska": "sv", "norsk": "no", "dansk": "da", "suomi": "fi", "polski": "pl", "čeština": "cs", "magyar": "hu",
    "русский": "ru", "日本語": "ja", "한국어": "ko", "中文": "zh", "türkçe": "tr", "ελληνικά": "el",
}  # fmt: skip
_FORCED = frozenset(["forced", "foreign"])
_ORDINARY = 6
"""Letters of words that may be ordinary ones of English."""
_REGION = pattern(r"(?i)(?<=[ ._][a-z]{2})[-_](?:[a-z]{2}|hans|hant|latn|cyrl|419)(?=$|\.)")
_WORD = pattern(r"(?P<gap>[ ._\-,()\[\]]*)(?P<word>[^ ._\-,()\[\]]+)")
_YEAR = pattern(r"(?:18|19|20)\d\d")
"""A number that ends a title: what stands in front of it is no language."""
_HEARING = frozenset(["sdh", "cc", "hi"])
_SORTS = frozenset(["default", "commentary", "full", "signs", "songs"])
"""What subtitles are besides their language: nothing that an item is told by."""


def subtitle_fields(stem: str, place: FolderContext) -> dict[str, Value]:
    """Return language (ISO 639-1), forced and hearing-impaired marks from the end of a subtitle's name.

    The language may be its folder's name instead: "Subs/English/slto.srt".
    """
    fields: dict[str, Value] = {}
    if place.titled and match_key(stem) == match_key(place.titled.title):  # a film may be called "No"
        stem = ""
    text = _REGION.sub("", stem)
    for match in reversed(list(_WORD.finditer(text))[-4:]):
        word = match["word"].lower()
        code = "" if match["gap"].isspace() and match["word"].istitle() and len(word) == 2 else language_code(word)
        if word in _SORTS:
            continue
        if word in _FORCED or _says(word, "subtitles.forced"):
            fields["forced"] = True
        elif (word in _HEARING and "language" not in fields) or _says(word, "subtitles.sdh"):
            fields["hearing_impaired"] = True
        elif code and fields.setdefault("language", code) == code:
            continue
        elif not word.isdecimal() or _YEAR.fullmatch(word):
            break
    if "language" not in fields and place.companions and (code := language_code(place.companions.text.lower())):
        fields["language"] = code
    return fields


def language_code(word: str) -> str:
    """Return the ISO 639-1 code that a word means as the ending of a subtitle, "" if none."""
    if word in LANGUAGE_CODES:
        return word
    return _LANGUAGE_WORDS.get(word) or _of_language(word)


def _of_language(word: str) -> str:
    """Return the code of a language by its name in any language, "" if it is none."""
    said = (concept for concept, strength in meaning(word).items() if strength > 1 and concept.startswith("language."))
    return next((code for concept in said if len(code := concept.rpartition(".")[2]) == 2), "")


def _says(word: str, concept: str) -> bool:
    """Say whether a word, which is hardly one of a title, has a meaning: "forzados", not "force"."""
    return meaning(word).get(concept, 0) > 1 and (len(word) > _ORDINARY or not word.isascii())


def companion_role(stem: str, ending: str, place: FolderContext) -> str:
    """Return the role of a file that can only lie beside something, "" where its name says nothing."""
    if ending in SUBTITLES:
        return "subtitles"
    if ending in (".nfo", ".sfv"):
        return "info" if ending == ".nfo" else "other"
    if ending in METRICS:
        return "metrics"
    last = re.split(r"[ ._-]+", stem.lower().rstrip("0123456789 ._-"))[-1]
    return picture_role(last) or ("other" if place.companions else "")


def picture_role(word: str) -> str:
    """Return what a word at the end of a picture's name says that it is, "" where it says nothing of pictures."""
    if word in _PICTURE_ROLES:
        return _PICTURE_ROLES[word]
    said = [
        concept
        for concept, strength in meaning(word).items()
        if strength == 2 and concept.startswith("picture.") and concept != CAMERAS
    ]
    return next((role for front, role in _OF_CONCEPTS.items() for concept in said if concept.startswith(front)), "")


def bare_stem(stem: str, role: str) -> str:
    """Take the language and the role's word from the end of a companion's name."""
    while role == "subtitles" and "." in stem:
        head, _, last = stem.rpartition(".")
        if not language_code(last.lower()) and last.lower() not in _FORCED | _HEARING | _SORTS:
            break
        stem = head
    head, hyphen, last = stem.rpartition("-")
    return head if hyphen and picture_role(last.lower()) else stem


def belonging(identity_fields: Mapping[str, Value], place: FolderContext) -> dict[str, Value]:
    """Return the fields that say what an extra or a companion belongs to: `of`, and year or season."""
    fields: dict[str, Value] = {}
    if show := identity_fields.get("show"):
        fields["of"] = show
        for key in ("season", "episode"):
            if key in identity_fields:
                fields[key] = identity_fields[key]
    elif title := identity_fields.get("title"):
        fields["of"] = title
        if "year" in identity_fields:
            fields["year"] = identity_fields["year"]
    elif place.titled and place.titled.title:
        fields["of"] = place.titled.title
        if place.titled.year:
            fields["year"] = place.titled.year
    return fields


def belongs(kind: Kind, fields: dict[str, Value], why: list[Evidence], source: str) -> Identity:
    """Return the identity of an extra or companion; its kind needs no more evidence than its place and name."""
    told = {evidence.field for evidence in why}
    reasons = [*why, *(Evidence(key, fields[key], source, str(fields[key])) for key in fields if key not in told)]
    return Identity(kind, State.CLEAR, 0.95, fields, why=tuple(reasons))


def companion_of_something(role: str, text: str) -> Identity:
    """Return the identity of what belongs to something else, in a role."""
    fields: dict[str, Value] = {"role": role}
    return belongs(Kind.COMPANION, fields, [Evidence("role", role, "name", text)], "folder")
