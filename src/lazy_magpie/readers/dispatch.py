"""What one file says of itself, asked of the reader of its family; what a worker answers questions about files by."""

from __future__ import annotations

import os

from lazy_magpie.readers import reader_for
from lazy_magpie.readers.signatures import HEAD, LONGEST, is_lying, real_ending, refusal


def answer(path: str) -> dict[str, object]:
    """Return what a file says of itself, read as what its contents are, whatever its ending promises."""
    ending = os.path.splitext(path)[1].lower()
    lies: dict[str, object] = {}
    try:
        with open(path, "rb") as file:
            head = file.read(LONGEST)
        if why := refusal(ending, head[:HEAD]):
            return {"unreadable": why}
        real = real_ending(head)
        if is_lying(ending, real):
            lies = {"real_type": real[1:]}
        reader = reader_for(real if lies else ending)
        if reader is None:
            return lies or {"unreadable": "no reader for this ending"}
        return {**reader.read(path), **lies}
    except (PermissionError, FileNotFoundError) as error:
        return {"unreadable": (error.strerror or "no permission").lower(), "later": True}
    except Exception as error:  # whatever a decoder does with a damaged file
        text = " ".join(str(error).replace(path, "the file").split())[:200]
        return {"unreadable": text or type(error).__name__, **lies}
