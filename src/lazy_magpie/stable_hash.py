"""Numbers and texts that stand for plain values, the same in every run."""

from __future__ import annotations

import hashlib
import marshal
from typing import Any


def stable_bytes(value: Any, size: int, key: bytes = b"") -> bytes:
    """Return `size` bytes that hardly any other value has; of plain values alone: numbers, texts, tuples, lists, dicts.

    What stands under another `key` has other bytes.
    """
    return hashlib.blake2b(marshal.dumps(value, 2), digest_size=size, key=key).digest()


def stable_number(value: Any, key: bytes = b"") -> int:
    """Return a number (64 bits, signed, never 0) that hardly any other value has."""
    return int.from_bytes(stable_bytes(value, 8, key), "big", signed=True) or 1
