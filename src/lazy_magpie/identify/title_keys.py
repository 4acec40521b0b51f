"""What the spellings of one title share: no case, accents, articles or punctuation; Latin letters; Arabic numbers."""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache

from lazy_magpie.articles import behind_comma
from lazy_magpie.identify.vocabulary import ARTICLES

# A table of our own rather than a general transliteration: keys are kept in catalogues, so they must never change with
# a library, and titles in scripts that are not spelled in letters keep their own characters.
_LETTERS = {
    # Cyrillic, as in ISO 9 without its accents, and as people write it
    "а": "a", "б": "b", "в": "v", "г": "g", "д": "d", "е": "e", "ё": "e", "ж": "zh", "з": "z", "и": "i", "й": "i",
    "к": "k", "л": "l", "м": "m", "н": "n", "о": "o", "п": "p", "р": "r", "с": "s", "т": "t", "у": "u", "ф": "f",
    "х": "kh", "ц": "ts", "ч": "ch", "ш": "sh", "щ": "shch", "ъ": "", "ы": "y", "ь": "", "э": "e", "ю": "yu",
    "я": "ya", "і": "i", "ї": "yi", "є": "ye", "ґ": "g",
    # Greek, as in ISO 843
    "α": "a", "β": "v", "γ": "g", "δ": "d", "ε": "e", "ζ": "z", "η": "i", "θ": "th", "ι": "i", "κ": "k", "λ": "l",
    "μ": "m", "ν": "n", "ξ": "x", "ο": "o", "π": "p", "ρ": "r", "σ": "s", "ς": "s", "τ": "t", "υ": "y", "φ": "f",
    "χ": "ch", "ψ": "ps", "ω": "o",
    # letters that are no letter with an accent
    "ß": "ss", "ø": "o", "æ": "ae", "œ": "oe", "đ": "d", "ð": "d", "þ": "th", "ł": "l", "ı": "i",
}  # fmt: skip
_UMLAUTS = str.maketrans({"ä": "ae", "ö": "oe", "ü": "ue", "å": "aa"})
_TABLE = str.maketrans(_LETTERS)
_ROMAN = {
    numeral: str(number)
    for number, numeral in enumerate(
        "ii iii iv v vi vii viii ix x xi xii xiii xiv xv xvi xvii xviii xix xx".split(), start=2
    )
}
_AND = frozenset(["and", "und", "et", "y", "e", "en", "og", "och"])
_MOVED_ARTICLE = behind_comma(ARTICLES, r"\s*[-–(:].*")


@lru_cache(maxsize=65536)
def key_of(title: str) -> str:
    """Return the key of a title: two spellings of one title have the same."""
    return _key(unicodedata.normalize("NFC", title.casefold()))


def keys_of(title: str) -> list[str]:
    """Return all keys that a title may be asked for by: with ä as a, and as ae."""
    text = unicodedata.normalize("NFC", title.casefold())
    return list(dict.fromkeys((_key(text), _key(text.translate(_UMLAUTS)))))


def _key(text: str) -> str:
    if moved := _MOVED_ARTICLE.match(text):
        text = f"{moved['article']} {moved['title']}{moved['rest'] or ''}"
    text = text.replace("&", " and ").replace("+", " and ").replace("'", "").replace("’", "").replace(".", " ")
    if not text.isascii():
        text = "".join(c for c in unicodedata.normalize("NFKD", text) if not unicodedata.combining(c))
        text = text.translate(_TABLE)
    words = re.findall(r"[^\W_]+", text)
    if len(words) > 1 and words[0] in ARTICLES:
        words = words[1:]
    first, *rest = words or [""]
    middle = ["and" if word in _AND else _ROMAN.get(word, word) for word in rest]
    return "".join([first, *middle])
