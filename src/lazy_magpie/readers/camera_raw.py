"""Facts of what cameras write before it is developed, through LibRaw; only the header is read.

| fact | what it is |
|---|---|
| width, height | pixels of the picture as it would be developed, before it is turned |
| taken | the day on which it was taken |
| camera_raw | true |
"""

from __future__ import annotations

from lazy_magpie.model import Value

ENDINGS = frozenset(".cr2 .cr3 .crw .nef .nrw .arw .sr2 .orf .rw2 .raf .pef .srw .dng".split())
_FIRST_YEAR = 1990
"""Before which no camera wrote such files: a clock that was never set says 1970."""


def read(path: str) -> dict[str, Value]:
    """Return the facts of the file at `path`. Raises what LibRaw does for one that is cut off or no such file."""
    import rawpy

    with rawpy.RawPy() as raw:
        raw.open_file(path)
        sizes, taken = raw.sizes, raw.other.timestamp
    facts: dict[str, Value] = {"width": int(sizes.width), "height": int(sizes.height), "camera_raw": True}
    if taken is not None and taken.year >= _FIRST_YEAR:
        facts["taken"] = taken.date().isoformat()
    return facts
