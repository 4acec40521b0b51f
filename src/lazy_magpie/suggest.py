"""The nearest word for a mistyped one."""

from __future__ import annotations

TYPE_CHECKING = False
if TYPE_CHECKING:
    from collections.abc import Iterable


def is_near(word: str, known: Iterable[str]) -> str:
    """Return the known word that `word` is nearly, as a misspelling of it would be; "" if there is none."""
    import difflib

    by_small = {other.lower(): other for other in known}
    close = difflib.get_close_matches(word.lower(), by_small, n=1, cutoff=0.8)
    return by_small[close[0]] if close else ""


def most_like(word: str, known: Iterable[str]) -> str:
    """Return the known word most like a mistyped one; "" if none is alike."""
    import difflib

    words = list(known)
    close = [other for other in words if sorted(other) == sorted(word.lower())]  # two letters changed places
    close = close or difflib.get_close_matches(word.lower(), words, n=1, cutoff=0.6)
    return close[0] if close else ""


def nearest(word: str, known: Iterable[str], otherwise: str = ".") -> str:
    """Return the end of a sentence: `; did you mean “season”?` for the known word most like `word`.

    Where none is alike, `otherwise` ends it.
    """
    near = most_like(word, known)
    return f"; did you mean “{near}”?" if near else otherwise
