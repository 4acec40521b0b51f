"""One worker: reads paths from stdin, one JSON text a line, and answers each with a line of facts or of a refusal.

Run as `python -m lazy_magpie.readers.worker` by `pool`, which sees to it that it takes neither for ever nor all memory.
"""

from __future__ import annotations

import json
import os
import sys

from lazy_magpie.readers import reader_for
from lazy_magpie.readers.sniff import HEAD, LONGEST, is_lying, real_ending, refusal

MEMORY = 2 << 30
"""Bytes of address space that a worker may have."""


def main() -> None:
    """Answer until stdin ends."""
    _limit_memory()
    answers = os.fdopen(os.dup(1), "w", encoding="utf-8")
    os.dup2(os.open(os.devnull, os.O_WRONLY), 1)  # decoders that print do not disturb
    for line in sys.stdin.buffer:
        answers.write(json.dumps(_answer(json.loads(line))) + "\n")
        answers.flush()


def _answer(path: str) -> dict[str, object]:
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


def _limit_memory() -> None:
    try:
        import resource
    except ImportError:  # Windows has no such limits
        return
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))


if __name__ == "__main__":
    main()
