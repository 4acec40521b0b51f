"""Facts of stitch designs, through pyembroidery.

| fact | what it is |
|---|---|
| stitches | how many needle points |
| colours | how many threads |
| width_mm, height_mm | millimetres |
| hoop | the smallest usual hoop that holds it, as 100x100 (mm) |
"""

from __future__ import annotations

from typing import Any

from lazy_magpie.model import Value

ENDINGS = frozenset(".pes .dst .jef .exp .vp3 .hus .xxx .sew .pec .u01".split())
HOOPS = ((50, 50), (100, 100), (130, 180), (150, 240), (160, 260), (200, 200), (200, 300), (240, 240), (360, 360))
"""Inner sizes of usual hoops in millimetres, the smallest first."""
_STITCH = 0
_COMMANDS = 0xFF


def read(path: str) -> dict[str, Value]:
    """Return the facts of the stitch file at `path`; raises ValueError where there is no stitch in it."""
    import pyembroidery

    pattern = pyembroidery.read(path)
    if pattern is None:
        raise ValueError("no stitch format that is known")
    stitches: Any = pattern.stitches
    points = sum(1 for stitch in stitches if stitch[2] & _COMMANDS == _STITCH)
    if not points:
        raise ValueError("no stitch in it")
    left, top, right, bottom = pattern.bounds()
    width, height = (right - left) / 10, (bottom - top) / 10
    facts: dict[str, Value] = {
        "stitches": points,
        "colours": max(len(pattern.threadlist), pattern.count_color_changes() + 1),
        "width_mm": round(width, 1),
        "height_mm": round(height, 1),
    }
    if hoop := hoop_for(width, height):
        facts["hoop"] = hoop
    return facts


def hoop_for(width: float, height: float) -> str:
    """Return the smallest usual hoop for a design of this size in mm, turned if need be; "" if none holds it."""
    small, large = sorted((width, height))
    fitting = [(w, h) for w, h in HOOPS if small <= min(w, h) and large <= max(w, h)]
    if not fitting:
        return ""
    across, along = min(fitting, key=lambda hoop: hoop[0] * hoop[1])
    return f"{across}x{along}"
