"""[titles]: in which language titles are taken from lists that have them in several."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from lazy_magpie.config.config_text import ConfigText

KEYS = {"language": str}
NAMED = False


def read(table: Mapping[str, Any], source: ConfigText) -> str:
    """Return the language, "" for the titles that lists put first. Raises ConfigError for what is no language code."""
    language = str(table.get("language", "")).lower()
    if language and not re.fullmatch("[a-z]{2,3}", language):
        what = f"“{language}” is no language code; write two or three letters, like “en” or “de”."
        raise source.wrong(("titles", "language"), what)
    return language
