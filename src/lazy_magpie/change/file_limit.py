"""How large the files may become that an outside program writes."""

from __future__ import annotations

from contextlib import suppress


def limit(process: int, most: int) -> None:
    """Let a program that runs write no file that is larger than `most` bytes, where the system can see to that."""
    with suppress(ImportError, AttributeError, ProcessLookupError, PermissionError, ValueError):
        import resource

        resource.prlimit(process, resource.RLIMIT_FSIZE, (most, most))
