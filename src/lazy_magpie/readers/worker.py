"""One worker: reads questions from stdin, one JSON text a line, and answers each with a line of facts or of a refusal.

Run as `python -m lazy_magpie.readers.worker MODULE` by `pool`, which sees to it that it takes neither for ever nor all
memory. The module's `answer(question)` returns what there is to say.
"""

from __future__ import annotations

import json
import os
import sys
from importlib import import_module

MEMORY = 2 << 30
"""Bytes of address space that a worker may have."""


def main() -> None:
    """Answer until stdin ends."""
    _limit_memory()
    answers = os.fdopen(os.dup(1), "w", encoding="utf-8")
    os.dup2(os.open(os.devnull, os.O_WRONLY), 1)  # decoders that print do not disturb
    module = import_module(sys.argv[1])
    for line in sys.stdin.buffer:
        try:
            answer = module.answer(json.loads(line))
        except Exception as error:  # whatever a decoder does with a damaged file
            answer = {"unreadable": " ".join(str(error).split())[:200] or type(error).__name__}
        answers.write(json.dumps(answer) + "\n")
        answers.flush()


def _limit_memory() -> None:
    try:
        import resource
    except ImportError:  # Windows has no such limits
        return
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))


if __name__ == "__main__":
    main()
