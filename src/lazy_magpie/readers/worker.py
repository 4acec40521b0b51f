"""One worker: reads paths from stdin, one JSON text a line, and answers each with a line of facts or of a refusal.

Run as `python -m lazy_magpie.readers.worker` by `pool`, which sees to it that it takes neither for ever nor all memory.
"""

from __future__ import annotations

import json
import os
import sys

from lazy_magpie.readers import reader_for

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
    reader = reader_for(os.path.splitext(path)[1].lower())
    if reader is None:
        return {"unreadable": "no reader for this ending"}
    try:
        facts: dict[str, object] = reader.read(path)
    except Exception as error:  # whatever a decoder does with a damaged file
        return {"unreadable": f"{error}" or type(error).__name__}
    return facts


def _limit_memory() -> None:
    try:
        import resource
    except ImportError:  # Windows has no such limits
        return
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))


if __name__ == "__main__":
    main()
