"""Articles in front of titles ("The Salt Orchard") and behind a comma ("Salt Orchard, The")."""

from __future__ import annotations

import re
from collections.abc import Iterable

from lazy_magpie.patterns import pattern

PASSED_OVER = tuple("the a an le la les der die das el los las il".split())
"""Articles that shelves pass over when they sort titles."""


def leading(articles: Iterable[str]) -> re.Pattern[str]:
    """Return the pattern of a title that begins with an article; group 1 is the article, in any case."""
    return pattern(rf"(?i)^({'|'.join(articles)}) (?=\S)")


def behind_comma(articles: Iterable[str], more: str) -> re.Pattern[str]:
    """Return the pattern of a title with its article behind a comma: groups title, article, and rest.

    `more` is the pattern of what may follow the article.
    """
    return pattern(rf"(?i)^(?P<title>.+?), (?P<article>{'|'.join(articles)})(?P<rest>{more})?$")
