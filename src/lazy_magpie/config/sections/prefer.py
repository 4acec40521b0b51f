"""[prefer.game]: which one of several versions of a game is preferred."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from lazy_magpie.config.config_text import ConfigText

KEYS = {"regions": list, "languages": list, "without": list}
NAMED = True
_GAME = "game"


@dataclass(frozen=True, slots=True)
class Prefer:
    """Regions and languages (ISO 639-1 codes), those liked most first, and what an image must not be: beta, demo."""

    regions: tuple[str, ...] = ("World", "Europe", "USA", "Japan")
    languages: tuple[str, ...] = ()
    without: tuple[str, ...] = ("beta", "demo", "proto", "sample")


def read(tables: Mapping[str, Any], source: ConfigText) -> Prefer:
    """Return what is preferred. Raises ConfigError for a kind of which there are no versions to choose from."""
    for name in tables:
        if name != _GAME:
            raise source.wrong(("prefer", name), f"there is no [prefer.{name}]; versions are chosen of games alone.")
    table = tables.get(_GAME, {})
    return Prefer(**{key: tuple(words) for key, words in table.items()})
