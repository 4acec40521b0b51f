"""What differs between two files that want one name, in words."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from lazy_magpie.formatting import duration_text, size_text
from lazy_magpie.model import Value

Measure = Callable[[str], Mapping[str, Value]]
"""Reads the measured facts (size in bytes, resolution, length in seconds) of a file, {} where that can't be done."""


_SHOWN: Mapping[str, Callable[[Value], str]] = {
    "size": lambda value: size_text(int(str(value))),
    "resolution": str,
    "length": lambda value: duration_text(float(str(value))),
}
"""What is compared, and how each value is written."""


def differences(paths: Sequence[str], measure: Measure) -> str:
    """Say what differs between the files at `paths`."""
    facts = [measure(path) for path in paths]
    if not any(facts):
        return "they want one name"
    found = []
    for field, text in _SHOWN.items():
        values = [text(fact[field]) if field in fact else "unknown" for fact in facts]
        if len(set(values)) > 1:
            found.append(f"{field} {' / '.join(values)}")
    if not found:
        return "same size, resolution and length: perhaps copies"
    return "they differ: " + ", ".join(found)
