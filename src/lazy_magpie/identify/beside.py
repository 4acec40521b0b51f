"""What lies beside a film, an episode or a show: extras and companions, known by ending, suffix and folder."""

from __future__ import annotations

import re
from collections.abc import Mapping

from lazy_magpie.identify.kinds import SUBTITLES
from lazy_magpie.identify.marks import Name
from lazy_magpie.identify.places import Place
from lazy_magpie.identify.titles import clean, folded, stands_for
from lazy_magpie.identify.words import EXTRA_NAMES, EXTRA_SUFFIXES, LANGUAGE_CODES, LANGUAGES
from lazy_magpie.model import Evidence, Identity, Kind, State, Value

PICTURE_ROLES = {
    "poster": "cover", "cover": "cover", "folder": "cover", "front": "cover", "movie": "cover", "dvd": "cover",
    "backdrop": "backdrop", "fanart": "backdrop", "background": "backdrop", "back": "other", "disc": "other",
    "thumb": "thumbnail", "thumbnail": "thumbnail", "logo": "other", "banner": "other", "clearart": "other",
    "landscape": "other",
}  # fmt: skip
"""Pictures that players look for beside a film, by the last word of their names."""

_LANGUAGE_WORDS = {word: code for code, words in LANGUAGES.items() for word in words.split(", ") if len(code) == 2}
_SUFFIX = re.compile(rf"(?i)^(?P<stem>.*?)[ ._]?-[ ._]?(?P<word>{'|'.join(EXTRA_SUFFIXES)})\d?$")
_LAST_WORD = re.compile(
    r"(?i)^(?P<stem>.*?)[ ._](?:(?:official|theatrical|teaser|final)[ ._])?"
    r"(?P<word>sample|trailer|teaser|featurette|interview)[ ._]?\d?$"
)
_LAST_WORDS = tuple({*EXTRA_SUFFIXES, "sample", "trailer", "teaser", "featurette", "interview"})
_EXTRAS = EXTRA_NAMES | EXTRA_SUFFIXES
_LONGEST = 32
"""What is looked at first, at the end of a name, or of a name of nothing else: longer than any word for an extra."""
_BEFORE = re.compile(r"(?i)^(?P<word>sample|interview|trailer|featurette)-(?P<title>.+)$")
_FORCED = frozenset(["forced", "foreign"])
_REGION = re.compile(r"(?<=[ ._][a-z]{2})[-_](?:[a-z]{2}|hans|hant|latn|cyrl|419)(?=$|\.)")
_HEARING = frozenset(["sdh", "cc", "hi"])


def extra_of(name: Name, place: Place) -> tuple[str, str] | None:
    """Return which extra a video file is and its own title ("" if none), or None where it is no extra."""
    if place.extras and place.titled:
        title = clean(name.text) if place.extras.extra != "sample" else ""
        return place.extras.extra, title
    text = name.text
    if text[-_LONGEST:].lower().rstrip("0123456789").endswith(_LAST_WORDS) and (
        match := _SUFFIX.match(text) or _behind_year(name)
    ):
        return _EXTRAS[match["word"].lower()], _title_before(name, match["stem"], place)
    if place.titled and (match := _LAST_WORD.match(text)) and folded(match["stem"]) == folded(place.titled.title):
        return _EXTRAS[match["word"].lower()], ""
    if len(text) < _LONGEST:
        whole = re.sub(r"[ ._-]*\d{0,2}$", "", " ".join(re.split(r"[ ._-]+", text.lower())))
        if whole in EXTRA_NAMES and (place.titled or whole in ("sample", "trailer")):
            return EXTRA_NAMES[whole], ""
    if place.titled and (match := _BEFORE.match(text)) and not any(mark.field == "year" for mark in name.marks):
        title = clean(match["title"]) if match["word"].lower() != "sample" else ""
        return _EXTRAS[match["word"].lower()], title
    return None


def _behind_year(name: Name) -> re.Match[str] | None:
    """Match "The.Salt.Orchard.1987.720p.sample": behind a year an extra's word can be no part of the title."""
    years = [mark.end for mark in name.marks if mark.field in ("year", "resolution")]
    match = _LAST_WORD.match(name.text) if years else None
    return match if match and match.start("word") > min(years) else None


def _title_before(name: Name, stem: str, place: Place) -> str:
    """Return an extra's own title in front of its word ("The Weir-deleted"), "" where its film's or show's stands."""
    film = place.titled
    if film is None or name.counts or any(mark.field in ("year", "resolution") for mark in name.marks):
        return ""
    title = clean(stem)
    return "" if folded(title) == folded(film.title) or stands_for(title, film.title) else title


def subtitle_fields(stem: str) -> dict[str, Value]:
    """Return language (ISO 639-1), forced and hearing-impaired marks from the end of a subtitle's name."""
    fields: dict[str, Value] = {}
    for word in reversed(re.split(r"[ ._-]+", _REGION.sub("", stem.lower()))[-4:]):
        if word in _FORCED:
            fields["forced"] = True
        elif word in _HEARING and "language" not in fields:
            fields["hearing_impaired"] = True
        elif "language" not in fields and (code := language_code(word)):
            fields["language"] = code
        elif not word.isdigit():
            break
    return fields


def language_code(word: str) -> str:
    """Return the ISO 639-1 code that a word means as the ending of a subtitle, "" if none."""
    if word in LANGUAGE_CODES:
        return word
    return _LANGUAGE_WORDS.get(word, "")


def companion_role(stem: str, ending: str, place: Place) -> str:
    """Return the role of a file that can only lie beside something, "" where its name says nothing."""
    if ending in SUBTITLES:
        return "subtitles"
    if ending in (".nfo", ".sfv"):
        return "info" if ending == ".nfo" else "other"
    last = re.split(r"[ ._-]+", stem.lower())[-1].rstrip("0123456789")
    if last in PICTURE_ROLES:
        return PICTURE_ROLES[last]
    return "other" if place.companions else ""


def bare_stem(stem: str, role: str) -> str:
    """Take the language and the role's word from the end of a companion's name."""
    while role == "subtitles" and "." in stem:
        head, _, last = stem.rpartition(".")
        if not language_code(last.lower()) and last.lower() not in _FORCED | _HEARING:
            break
        stem = head
    head, hyphen, last = stem.rpartition("-")
    return head if hyphen and last.lower() in PICTURE_ROLES else stem


def belonging(identity_fields: Mapping[str, Value], place: Place) -> dict[str, Value]:
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
