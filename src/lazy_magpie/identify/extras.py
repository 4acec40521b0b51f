"""Extras of a film or a show: trailers, samples, scenes, known by their folder, or by a word in their own name."""

from __future__ import annotations

import re
from typing import NamedTuple

from lazy_magpie.identify.candidates import RELEASE_FIELDS
from lazy_magpie.identify.extra_words import extra_role, may_be_one, role_behind, role_in_front
from lazy_magpie.identify.folders import FolderContext
from lazy_magpie.identify.title_text import is_abbreviation_of, match_key, normalize_title
from lazy_magpie.identify.tokenizer import Name, tokenize, without_copy
from lazy_magpie.identify.vocabulary import EXTRA_NAMES, EXTRA_SUFFIXES
from lazy_magpie.patterns import pattern

_EXTRAS = EXTRA_NAMES | EXTRA_SUFFIXES
_EXTRA_WORDS = {**_EXTRAS, "extras": "other"}
_NAMES = "|".join(sorted((name.replace(" ", "[ ._]") for name in EXTRA_NAMES), key=len, reverse=True))
_SUFFIXES = "|".join(EXTRA_SUFFIXES)
_SUFFIX = pattern(rf"(?i)^(?P<stem>.*?)(?P<gap>[ ._]?-[ ._]?)(?P<word>{_SUFFIXES}|{_NAMES})[ ._]?\d?$")
"""Behind a hyphen: "The Weir-deleted", "The Salt Orchard (1987) - Behind the Scenes"."""
_IN_BRACKETS = pattern(rf"(?i)^(?P<stem>.+?)[ ._]?[(\[](?P<word>{_NAMES})[ ._]?\d?[)\]]$")
_LAST_WORD = pattern(
    r"(?i)^(?P<stem>.*?)[ ._](?:(?:official|theatrical|teaser|final)[ ._])?"
    r"(?P<word>sample|trailer|teaser|featurette|interview|extras|bonus)[ ._]?\d?$"
)
_TRAILER_DATED = pattern(r"(?i)^(?P<title>.+?)[ ._-]+(?:official|theatrical|teaser|final)[ ._]trailer[ ._-]*(?=[(\[])")
_BEFORE_GROUP = pattern(r"(?i)[ ._-]sample-[a-z\d]+$")
_BEFORE = pattern(r"(?i)^(?P<word>sample|interview|trailer|featurette)-(?P<title>.+)$")
_YEAR = pattern(r"[(\[]\d{4}[)\]]")
_GAPS = pattern(r"[ ._]+(?:-[ ._]+)?(?![ ._]*[(\[]\d{4}[)\]])|$")
_ORDERED = pattern(r"^0\d(?:[ ._]-[ ._]|\.[ _])(?=.)")
_SAMPLE_IN_FRONT = pattern(r"(?i)^sample[ ._-]+")
_MAKING_OF = pattern(r"(?i)^(?:the[ ._])?making[ ._]of[ ._](?P<title>.+)$")
_HINTS = ("sampl", "trail", "teas", "featur", "interv", "scene", "delet", "making", "reel", "bloop", "outt", "promo",
          "short", "extra", "bonus", "other", "gallery")  # fmt: skip
"""What a name with an extra's word has at least, in small letters: looked for first since it is quickly found."""


class Extra(NamedTuple):
    """Which extra a file is, its own title ("" if none), and the name of what it belongs to, if its own name has it."""

    role: str
    title: str
    of: Name | None


def extra_of(name: Name, place: FolderContext) -> Extra | None:
    """Return which extra a video file is, or None where it is no extra."""
    if (bare := without_copy(name.text)) != name.text:
        name = tokenize(bare)
    if place.extras and place.titled:
        return _in_folder(name, place.extras.extra, place.titled.title)
    if place.extras and place.extras.extra in ("trailer", "sample"):  # "Trailers/Rope Row (1988)"
        return Extra(place.extras.extra, "", _without_sample(name))
    low = name.text.lower()
    hinted = any(hint in low for hint in _HINTS)
    if not hinted and not may_be_one(name.text):
        return None
    text = name.text[: _release_start(name)].rstrip(" ._-")
    if place.titled and match_key(text) == match_key(place.titled.title):  # a film called "Interview"
        return None
    found = _by_word(name, text, place) if hinted else None
    return found or _by_whole_name(name, text, place) or _by_last_words(name, text, place)


def _without_sample(name: Name) -> Name:
    """Return the name of a film's trailer or sample without the word for it: "paper.compass.2011.sample"."""
    role, title = role_behind(_SAMPLE_IN_FRONT.sub("", name.text))
    return tokenize(title) if role or title != name.text else name


def _in_folder(name: Name, role: str, of: str) -> Extra:
    """Read a name in an extras' folder: its title without release words and without the film's or show's in front."""
    if role == "sample":
        return Extra(role, "", _without_sample(name))
    text = name.text[: _release_start(name)]
    title = _ORDERED.sub("", _behind_film(text, of))
    if role == "other" and (match := _SUFFIX.match(title)) and match["gap"] == "-":  # "Extras/Knots-interview"
        return Extra(_EXTRAS[_plain(match["word"])], normalize_title(match["stem"]), None)
    if role == "other" and (said := EXTRA_NAMES.get(_plain(title), role)) != role:  # "Extras/Trailer", "Trailer 2"
        return Extra(said, normalize_title(title) if title[-1:].isdecimal() else "", None)
    if " ".join(re.split(r"[ ._-]+", title.lower())) == role:  # "Trailers/trailer"
        return Extra(role, "", None)
    if role == "other":
        role = role_in_front(title) or role
    return Extra(role, normalize_title(title) or ("" if title != text else normalize_title(name.text)), None)


def _behind_film(text: str, of: str) -> str:
    """Return a name without the title of the film in front, where its year or a hyphen parts them."""
    for match in _GAPS.finditer(text):
        front, rest = text[: match.start()], text[match.end() :]
        parted = "-" in match.group() or not rest or _YEAR.search(front)
        if parted and match_key(normalize_title(_YEAR.sub("", front))) == match_key(of):
            return rest
    return text


def _by_word(name: Name, text: str, place: FolderContext) -> Extra | None:
    """Read a name with an extra's word at its end or in front, beside a year, a resolution, or its film's title."""
    title = place.titled.title if place.titled else ""
    sure = [mark for mark in name.marks if mark.field in ("year", "resolution")]
    known = [mark.end for mark in sure if name.text[: mark.start].strip(" ([{")]
    if match := _SUFFIX.match(text):
        role, spaced = _EXTRAS[_plain(match["word"])], len(match["gap"]) > 1
        unsure = spaced if name.counts or place.season else not (known or title)
        if unsure and role not in ("sample", "trailer"):
            return None
        return Extra(role, _title_before(name, match["stem"], place), tokenize(match["stem"]))
    if (match := _IN_BRACKETS.match(text)) and not name.counts:
        return Extra(_EXTRAS[_plain(match["word"])], _title_before(name, match["stem"], place), tokenize(match["stem"]))
    if (match := _LAST_WORD.match(text)) and (
        (known and match.start("word") > min(known))
        or (title and (match_key(match["stem"]) == match_key(title) or is_abbreviation_of(match["stem"], title)))
    ):
        return Extra(_EXTRA_WORDS[match["word"].lower()], "", tokenize(match["stem"]))
    if known and (match := _BEFORE_GROUP.search(name.text)):  # "…x264-sample-brine"
        return Extra("sample", "", tokenize(name.text[: match.start()]))
    if known and (match := _TRAILER_DATED.match(text)):  # "The Weir Official Trailer (1987)"
        return Extra("trailer", "", tokenize(f"{match['title']} {text[match.end() :]}"))
    sample = known and text[:7].lower() == "sample-" and any(mark.field == "resolution" for mark in sure)
    dated = any(mark.field == "year" for mark in sure)
    if (sample or (place.titled and not dated)) and (match := _BEFORE.match(text)):
        role = _EXTRAS[match["word"].lower()]
        return Extra(role, normalize_title(match["title"]) if role != "sample" else "", tokenize(match["title"]))
    if (match := _MAKING_OF.match(text)) and title and match_key(normalize_title(match["title"])) == match_key(title):
        return Extra("behind the scenes", normalize_title(text), None)
    return None


def _by_whole_name(name: Name, text: str, place: FolderContext) -> Extra | None:
    """Read a name that is nothing but an extra's word: "trailer", "Deleted Scenes 2"."""
    dated = place.season or any(mark.field == "year" for mark in name.marks)
    role = EXTRA_NAMES.get(_plain(text)) or ("" if dated else extra_role(text, weak=place.titled is not None))
    alone = not place.titled and role not in ("sample", "trailer")
    return None if not role or alone or name.counts else Extra(role, "", None)


def _by_last_words(name: Name, text: str, place: FolderContext) -> Extra | None:
    """Read a name that ends in words for an extra: "Low Shingle - NCOP", "The Weir - bande-annonce"."""
    role, title = role_behind(text)
    said = text[len(title) :]
    parted = said.lstrip(" ").startswith(("-", "–"))
    called = place.titled is not None and match_key(title) == match_key(place.titled.title)
    dates = {mark.field for mark in name.marks}.intersection(("air_date",) if parted else ("air_date", "year"))
    if not role or name.counts or place.season or dates:  # "Free Sample (2012)", "Low Shingle 2019-03-21 - Preview"
        return None
    sample = role == "sample" and said.islower() and not text[:1].isdecimal()  # not "Free Sample", "01. Why Sample"
    return Extra(role, "", tokenize(title)) if parted or called or sample else None


def _plain(text: str) -> str:
    """Return words in small letters with spaces between, without a number behind."""
    return re.sub(r" ?\d{0,2}$", "", " ".join(re.split(r"[ ._-]+", text.lower())).strip())


def _release_start(name: Name) -> int:
    """Return where the release words at the end of a name begin, its length if there are none."""
    end = len(name.text)
    for mark in reversed(name.marks):
        behind = name.text[mark.end : end].strip(" ._)]")
        group = behind.startswith("-") and behind[1:].isupper() and behind[1:].lower() not in EXTRA_SUFFIXES
        if mark.field not in RELEASE_FIELDS or (behind and not group):
            continue
        bracket = name.bracket_of(mark.start)
        end = bracket[0] if bracket else mark.start
    return end


def _title_before(name: Name, stem: str, place: FolderContext) -> str:
    """Return an extra's own title in front of its word ("The Weir-deleted"), "" where its film's or show's stands."""
    film = place.titled
    if film is None or name.counts or any(mark.field in ("year", "resolution") for mark in name.marks):
        return ""
    title = normalize_title(stem)
    return "" if match_key(title) == match_key(film.title) or is_abbreviation_of(title, film.title) else title
