"""Makes one form of a stitch design from another, as a program of its own: a damaged design costs that process alone.

python -m lazy_magpie.stitch_maker SOURCE RESULT           writes RESULT in the form of its ending
python -m lazy_magpie.stitch_maker --check SOURCE RESULT   says by its exit code whether both are sewn alike
"""

from __future__ import annotations

import sys
from typing import Any

_NEAR = 2
"""Tenths of a millimetre by which the size of the result may differ."""


def main(words: list[str]) -> int:
    """Make, or check; 0 where that went well."""
    import pyembroidery

    check = words[:1] == ["--check"]
    source, result = words[-2:]
    pattern: Any = pyembroidery.read(source)
    if pattern is None or not pattern.stitches:
        return 1
    if check:
        return int(not _are_alike(pattern, pyembroidery.read(result)))
    pyembroidery.write(pattern, result)
    return 0


def _are_alike(one: Any, other: Any) -> bool:
    """Say whether two designs are as large, but for rounding: forms differ in how they write jumps and trims."""
    if other is None or not other.stitches:
        return False
    sizes = []
    for pattern in (one, other):
        left, top, right, bottom = pattern.bounds()
        sizes.append((right - left, bottom - top))
    return all(abs(a - b) <= _NEAR for a, b in zip(*sizes, strict=True))


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
