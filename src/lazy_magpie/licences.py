"""What a licence is called in short, from the text that a font, a kit or a file carries of it."""

from __future__ import annotations

import re

_PERSONAL = "free for personal use"
_NAMES: tuple[tuple[str, str], ...] = (
    (r"sil open font licen[cs]e|\bofl\b|scripts\.sil\.org/ofl|openfontlicense\.org", "OFL"),
    (r"ubuntu font licen[cs]e", "Ubuntu Font Licence"),
    (r"apache licen[cs]e|apache\.org/licenses|\bapache[- ]2", "Apache"),
    (r"bitstream vera", "Bitstream Vera"),
    (r"gust font licen[cs]e", "GUST Font Licence"),
    (r"latex project public licen[cs]e|\blppl\b", "LPPL"),
    (r"affero general public|\bagpl", "AGPL"),
    (r"lesser general public|library general public|\blgpl", "LGPL"),
    (r"general public licen[cs]e|\bgpl\b|\bgplv?[23]|gnu\.org/(copyleft|licenses)/gpl", "GPL"),
    (r"mozilla public licen[cs]e|\bmpl[- ]?[12]", "MPL"),
    (r"\bcc0\b|publicdomain/zero", "CC0"),
    (r"creativecommons\.org/licenses/([a-z-]+)/|\bcc[- ](by(?:-(?:nc|nd|sa))*)\b", "CC"),
    (r"creative commons", "Creative Commons"),
    (r"public domain|publicdomain/mark|unlicense", "public domain"),
    (r"\bmit licen[cs]e|opensource\.org/licenses/mit|permission is hereby granted, free of charge, to any person "
     r"obtaining a copy of (the fonts|this (software|font))", "MIT"),
    (r"\bbsd\b|redistribution and use in source and binary forms", "BSD"),
    (r"free for (commercial|personal (and|&) commercial|any|both)", "free for any use"),
    (r"(free|only|licen[cs]ed?)\W[\w\s]{0,20}for (your )?(personal|private)|"
     r"(personal|private|non-?commercial) use only|for personal,? non-?commercial|100 ?% free for personal", _PERSONAL),
    (r"shareware", "shareware"),
    (r"freeware", "freeware"),
    (r"all rights reserved|may not be (copied|redistributed|distributed)|end[- ]user licen[cs]e|\beula\b",
     "all rights reserved"),
)  # fmt: skip
_PATTERNS = tuple((re.compile(pattern, re.IGNORECASE), name) for pattern, name in _NAMES)
"""What a text says, and what that licence is called; the first that fits counts."""


def short_name(text: str) -> str:
    """Return the short name of the licence in a text ("OFL", "CC BY-SA", "free for personal use"), "" for none."""
    for pattern, name in _PATTERNS:
        if match := pattern.search(text):
            parts = [part for part in match.groups() if part] if name == "CC" else []
            return f"CC {parts[0].upper()}" if parts else name
    return ""
