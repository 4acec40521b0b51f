"""The words in the brackets of game images' names, and the systems by folder and ending: closed lists, as data."""

from __future__ import annotations

from lazy_magpie.identify.vocabulary import LANGUAGE_CODES as _CODES

REGIONS = {
    name.casefold(): name
    for name in (
        "World, Europe, USA, Japan, Asia, Australia, Austria, Belgium, Brazil, Canada, China, Denmark, Finland, "
        "France, Germany, Greece, Hong Kong, Hungary, India, Ireland, Israel, Italy, Korea, Mexico, Netherlands, "
        "New Zealand, Norway, Poland, Portugal, Russia, Scandinavia, South Africa, Spain, Sweden, Switzerland, "
        "Taiwan, Turkey, UK, Latin America, Argentina, Czech, Ukraine"
    ).split(", ")
} | {"united kingdom": "UK", "united states": "USA", "usa": "USA", "eur": "Europe", "jpn": "Japan", "us": "USA"}
"""Regions by the word for them, without case."""

REGION_LETTERS = {"U": "USA", "E": "Europe", "J": "Japan", "W": "World"}
"""Regions by letter; several may stand together: (JUE)."""

COUNTRIES = {
    "GB": "UK", "US": "USA", "JP": "Japan", "EU": "Europe", "DE": "Germany", "FR": "France", "ES": "Spain",
    "IT": "Italy", "NL": "Netherlands", "SE": "Sweden", "AU": "Australia", "BR": "Brazil", "KR": "Korea",
    "CN": "China", "DK": "Denmark", "NO": "Norway", "FI": "Finland", "PL": "Poland", "PT": "Portugal",
    "F": "France", "G": "Germany", "I": "Italy", "S": "Spain", "K": "Korea", "A": "Australia", "B": "Brazil",
}  # fmt: skip
"""Regions by the code of a country (ISO 3166-1) or its single letter."""

LANGUAGE_CODES = _CODES | {"en"}
STATUS = {
    "beta": "beta", "alpha": "beta", "proto": "proto", "prototype": "proto",
    "demo": "demo", "kiosk": "demo", "preview": "demo",
    "unl": "unlicensed", "unlicensed": "unlicensed", "aftermarket": "unlicensed", "homebrew": "unlicensed",
    "pirate": "unlicensed", "pd": "unlicensed", "sample": "sample", "promo": "sample",
}  # fmt: skip
"""What an image is, where it is not the one that was sold."""

DUMPS = {
    "!": "verified", "b": "bad", "a": "alternate", "o": "overdump", "h": "changed", "t": "trained", "f": "fixed",
    "p": "pirate", "m": "modified", "cr": "cracked", "u": "underdump",
}  # fmt: skip
"""How good an image is, by the letters in square brackets."""

SYSTEMS = {
    "chip8": "chip8", "schip": "schip", "superchip": "schip", "xochip": "xochip", "arcade": "arcade", "dos": "dos",
    "msx": "msx", "nes": "nes", "gb": "gb", "gbc": "gbc", "gba": "gba", "sfc": "sfc", "md": "md",
}  # fmt: skip
"""The system that a folder's name means, folded. Below a shelf of games any folder's name is a system."""

OF_ENDING = {
    ".ch8": "chip8", ".c8": "chip8", ".sc8": "schip", ".xo8": "xochip", ".nes": "nes", ".gb": "gb", ".gbc": "gbc",
    ".gba": "gba", ".sfc": "sfc", ".smc": "sfc", ".md": "md", ".gen": "md",
}  # fmt: skip
"""The system that an ending belongs to alone, by the short name that folders of game images have."""

OF_HEADER = {"cartridge-16": "nes", "handheld": "gb", "advanced handheld": "gba"}
"""The system that a format of headers belongs to."""
