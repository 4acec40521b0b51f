"""Writes checksum lists and bags of a selection, and holds what lies on the disk against them."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from pathlib import Path

from lazy_magpie.lists.checksum_list import sums
from lazy_magpie.mirrors.manifests import MANIFEST, sha256_of

_PERCENT = re.compile(r"%(25|0A|0D)", re.IGNORECASE)


def verified(path: Path, tick: Callable[[int], None]) -> Iterator[tuple[str, str]]:
    """Yield (path, what is wrong, "" for nothing) of each file of a checksum list with SHA-256, or of a bag.

    Raises ListError for what is no list, OSError where it can't be read.
    """
    is_bag = path.is_dir()
    manifest = path / MANIFEST if is_bag else path
    with manifest.open("rb") as file:
        listed = [(name, one.sha256) for _, name, one in sums(str(manifest), file)]
    for count, (name, digest) in enumerate(listed, start=1):
        name = _PERCENT.sub(lambda match: chr(int(match[1], 16)), name) if is_bag else name
        tick(count)
        try:
            is_right = bytes.fromhex(sha256_of(str(manifest.parent / name))) == digest
            yield name, "" if is_right else "is not what the list has"
        except OSError as error:
            yield name, (error.strerror or str(error)).lower()
