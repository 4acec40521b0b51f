"""Titles as a person would write them, and how to tell that two are the same."""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache

from lazy_magpie.articles import behind_comma
from lazy_magpie.identify.vocabulary import ACRONYMS, ARTICLES, MOVED_ARTICLES, PLACEHOLDERS, SMALL_WORDS
from lazy_magpie.patterns import pattern

_EDGES = " \t-–—._,;~+"
_WITH_DOT = pattern(r"(?:(?<![^\W_])(?:etc|Jr|Sr|Co|Ltd|Inc|Bros)|(?<= )[A-Z]\.[A-Z]|(?<= )\S*[^\W_]\.\.)\.$")
"""What keeps its dot at the end of a title."""
_MOVED_ARTICLE = behind_comma(MOVED_ARTICLES, r" [-–(].*")
_DOT_TWICE = pattern(r"(?i)(?<![^\W_])(mr|mrs|ms|dr|st|jr|sr|prof|capt|lt|sgt|col|vol|vs|mt)\.\.(?=[^\W_])")
"""A shortened word's own dot, and the one that stands for a space: "Mr..Oddy"."""
_ROMAN = pattern(r"(?i)^(?=[ivx]{2,5}$)x{0,2}(?:ix|iv|v?i{0,3})$")
_WORD = pattern(r"[^\W_]+(?:['’][^\W_]+)*")
_PLAIN_WORD = pattern(r"[^\W_]+")
_COLON = pattern(r"(?<=[^\W_])_ ")  # what is left of "Title: more" where a colon may not stand
_PRICE = pattern(r"[$€£]\d+\.\d\d(?!\d)")
_DOT_IN_NUMBER = pattern(r"(?<=\d)\.(?=\d)")
_INITIALS = pattern(r"(?<![^\W_])(?:(?:[A-Z]\.){2,}[A-Z](?![^\W_])\.?|(?:[A-Z]\.){2}(?=$|[ \-(\[,]))")
_MACHINE_MADE = pattern(r"(?=.*\d)[0-9a-f]{6,}|[0-9a-z]{20,}")
_DOT_FOR_SPACE = pattern(r"(?<=[^\W\d_]{3})\.(?=[^\W\d_]{2})")
_GROUP_AND_TITLE = pattern(r"[^\W_]+-[^\W_]+")
"""A title in one word behind its group: "brn-saltorchard"."""
TAG_BEHIND = pattern(r" \[[A-Z0-9]{3,}\]$")
"""Capitals in brackets behind a title: a group's name, or a remark."""
_LINES_BEHIND = pattern(r"(?<=[a-z])(?:480|576|720|1080|2160)p?$")
"""A resolution written onto a short name: "tso1080"."""
_OWN_DOTS = pattern(r"(?<=[^\W_])\.{3}(?=\s|$)|(?<=[^\W\d_])\.(?=(?:com|net|org)(?:\s|$))")
_OWN_DOTS_ALONE = pattern(r"^[^.]*[^\W_]\.{3}$|^[^.]+[^\W\d_]\.com$")
"""Dots that are a title's own where no dots part its words: "Hush... ", "Whelk.com"."""
_SIGNED = pattern(r"^[ ._-]*\+(?=\d)")
"""A plus in front of a number is the title's: "+1 Oar"."""
_DOT = "\0"
_QUOTED = pattern(r"^(?:\"([^\"]+)\"|“([^“”]+)”|«([^«»]+)»|「([^「」]+)」|『([^『』]+)』|《([^《》]+)》)$")
_SPACES = pattern(r" {2,}")
_HAS_SPACE = pattern(r"\s")


@lru_cache(maxsize=4096)
def normalize_title(raw: str) -> str:
    """Turn a stretch of a file name into a title: separators gone, article in front, a written case."""
    text = raw
    if "_" in text:
        text = _COLON.sub(" - ", text).replace("_", " ")
    if "." in text:
        text = _DOT_TWICE.sub(lambda match: f"{match[1]}{_DOT}.", text)
        text = _INITIALS.sub(_with_their_dots, text)
        text = _PRICE.sub(lambda match: match.group().replace(".", _DOT), text)
        if " " in text or _OWN_DOTS_ALONE.match(text):
            text = _OWN_DOTS.sub(lambda match: match.group().replace(".", _DOT), text)
    if not _HAS_SPACE.search(text.strip(_EDGES)):
        if text.endswith(" ") and len(_DOT_IN_NUMBER.findall(text)) == text.count("."):
            text = text.replace(".", _DOT)
        text = text.replace(".", " ")
    elif "." in text:
        text = _DOT_FOR_SPACE.sub(" ", text)
    text = " ".join(text.split()).strip(" -_,;" if _WITH_DOT.search(text.rstrip()) else _EDGES)
    text = text.rstrip(" ([{")
    if text[:1].isdecimal() and _SIGNED.match(raw):
        text = f"+{text}"
    if text and text[0] in '"“«「『《' and (quoted := _QUOTED.match(text)):
        text = quoted[quoted.lastindex or 0].strip()
    if ", " in text and (moved := _MOVED_ARTICLE.match(text)):
        article = moved["article"][0].upper() + moved["article"][1:]
        space = "" if article.endswith(("'", "’")) else " "
        text = f"{article}{space}{moved['title']}{moved['rest'] or ''}"
    return in_written_case(text.replace(_DOT, "."))


def _with_their_dots(match: re.Match[str]) -> str:
    """Keep the dots of initials; the last one is also the one before the next word: "Q.E.D.Marsh"."""
    kept = match.group().replace(".", _DOT)
    goes_on = match.string[match.end() : match.end() + 1].isalnum()
    return f"{kept}." if goes_on and kept.endswith(_DOT) else kept


def spaced_once(text: str) -> str:
    """Return a name with one space wherever several stand in a row."""
    return _SPACES.sub(" ", text) if "  " in text else text


def ends_in_initials(text: str) -> bool:
    """Say whether `text` ends in letters with dots between them: the last dot may be theirs ("S.P.L.A.S.H.")."""
    return any(not text[match.end() :].strip(" _-([") for match in _INITIALS.finditer(text))


def in_written_case(text: str) -> str:
    """Set a title that is all lower or all upper case in title case; leave mixed case as it is."""
    shouted = text.isupper() and sum(c.isalpha() for c in text) > 3
    if not shouted and not text.islower():
        return text
    words = list(_WORD.finditer(text))
    if not words:
        return text
    first, last = words[0].start(), words[-1].start()
    starts = {m.end() for m in re.finditer(r" - |: ", text)}

    def set_word(match: re.Match[str]) -> str:
        word = match.group().lower()
        if len(word) == 1 and text[match.end() : match.end() + 1] == "." and shouted:
            return word.upper()
        if _ROMAN.match(word) or word in ACRONYMS:
            return word.upper()
        if word in SMALL_WORDS and match.start() not in (first, last) and match.start() not in starts:
            return word
        return word[0].upper() + word[1:]

    return _WORD.sub(set_word, text)


_PLAIN_LETTERS = str.maketrans({"ı": "i", "ø": "o", "ł": "l", "đ": "d", "ð": "d", "þ": "th", "æ": "ae", "œ": "oe"})
"""Letters that are written plainly in many names, and that no accent is taken from."""


@lru_cache(maxsize=4096)
def match_key(title: str) -> str:
    """Return what two spellings of one title share: no case, accents, punctuation, or article in front."""
    text = title.casefold().replace("&", " and ")
    if not text.isascii():
        text = "".join(c for c in unicodedata.normalize("NFKD", text) if not unicodedata.combining(c))
        text = text.translate(_PLAIN_LETTERS)
    words = _PLAIN_WORD.findall(text.replace("'", "").replace("’", ""))
    if len(words) > 1 and words[0] in ARTICLES:
        words = words[1:]
    return "".join(words)


def is_incomplete(text: str) -> bool:
    """Say whether a text is an incomplete title: empty, or ending in a small word ("Lost in")."""
    words = _PLAIN_WORD.findall(text)
    return not words or words[-1].lower() in SMALL_WORDS


def has_article(title: str) -> bool:
    """Say whether an article stands in front of a title."""
    first, _, rest = title.partition(" ")
    return bool(rest) and first.casefold() in ARTICLES


def preferred_spelling(one: str, other: str) -> str:
    """Of two spellings return the one with accents, spaces, capitals, an article, signs; the first if they tie."""
    if one == other.replace("-", " "):  # a name of nothing but hyphens was cut at them
        return other

    def merits(text: str) -> tuple[bool, ...]:
        return (
            not text.isascii(),
            " " in text,
            any(c.isupper() for c in text[1:]),
            has_article(text),
            *(sign in text for sign in ("&", ". ", "'", ", ")),
            text == one,
        )

    return max(one, other, key=merits)


def keeps_dot(text: str) -> bool:
    """Say whether the dot at the end of a title is its own: of initials ("S.P.L.A.S.H."), of a short word ("Jr.")."""
    return bool(_WITH_DOT.search(text)) or ends_in_initials(text)


def initials(title: str) -> str:
    """Return the first letters of a title's words, lower case."""
    return "".join(word[0] for word in _PLAIN_WORD.findall(title.lower().replace("'", "")))


@lru_cache(maxsize=4096)
def is_abbreviation_of(short: str, title: str) -> bool:
    """Say whether a file name's words are no title of their own but stand for `title`.

    So do nothing at all, a placeholder (`movie`), a number, the initials (`tso`, with or without the article) or
    the title's letters in order from the first on (`slto`); one more short word, a group's, may stand beside.
    """
    words = _PLAIN_WORD.findall(short.lower().replace("'", ""))
    words = [bare for word in words if (bare := _LINES_BEHIND.sub("", word)) and not bare.rstrip("pi").isdecimal()]
    if all(word.rstrip("0123456789") in PLACEHOLDERS for word in words):
        return True
    if len(words) == 1 and _MACHINE_MADE.fullmatch(words[0]):
        return True
    wholes = {match_key(title), "".join(_PLAIN_WORD.findall(title.casefold()))}
    if words and words[-1] in wholes and _GROUP_AND_TITLE.fullmatch(short):
        return True
    if len(words) > 2 or not title or any(len(word) > 8 for word in words):
        return False
    if len(words) == 2 and any(whole.startswith("".join(words)) for whole in wholes):
        return False  # the first words of a longer title are a title
    return any(
        word in (initials(title), initials(title)[1:])
        or (len(word) >= 2 and any(_shortens(word, whole) for whole in wholes))
        for word in words
    )


def _shortens(word: str, whole: str) -> bool:
    return whole[:1] == word[0] and len(word) < len(whole) and word not in ARTICLES and _in_order(word, whole)


def _in_order(letters: str, text: str) -> bool:
    at = iter(text)
    return all(letter in at for letter in letters)
