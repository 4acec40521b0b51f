"""Archives of a heap that are known: unpacked before, not to be unpacked, or there under a second name."""

from __future__ import annotations

import re
from collections.abc import Collection

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.intake import Bundle, Source
from lazy_magpie.model import Step
from lazy_magpie.model.proofs import SameBytes
from lazy_magpie.model.steps import Hold
from lazy_magpie.paths import name_of, written

_AGAIN = re.compile(r"(?i) ?(?:\(\d{1,2}\)|- copy(?: \(\d{1,2}\))?)$")
"""What is put behind the name of something that is downloaded, or copied, once more."""


def has_come_again(bundle: Bundle) -> bool:
    """Say whether a name says that it is of something that was there already."""
    return _AGAIN.search(bundle.name) is not None


class KnownArchives:
    """Says what is known of archives; `in_effect` are the changes that are. `doubled` are steps for second ones.

    `listings` tells each archive that is new from all others.
    """

    def __init__(self, catalogue: Catalogue, in_effect: Collection[int]) -> None:
        self._in_effect = in_effect
        self._taken = catalogue.placements.taken()
        self._refused = catalogue.placements.refused()
        self._twins: dict[tuple[str, str], Source] = {}
        self.listings: dict[Source, str] = {}
        self.doubled: list[Step] = []

    def why(self, bundle: Bundle, archive: Source, take: str) -> str:
        """Say why an archive is not unpacked, "" where it is new. A second one is held, where files are moved."""
        home, change = self._taken.get(bundle.listing, ("", 0))
        if change in self._in_effect:
            return f"taken in before: “{written(home)}”, change {change}"
        self.listings[archive] = bundle.listing
        if why := self._refused.get((archive.stamp.size, archive.stamp.mtime)):
            return f"{why} (tried before)"
        twin = self._twins.setdefault((bundle.listing, _AGAIN.sub("", bundle.name)), archive)
        if twin is archive:
            return ""
        why = f"there twice: “{written(name_of(twin.path))}” is taken"
        if take == "move" and not archive.is_outside and len(twin.more) == len(archive.more):
            for one, kept in zip((archive, *archive.more), (twin, *twin.more), strict=True):
                proofs = (SameBytes(kept.path),)
                self.doubled.append(Hold(source=one.path, why=why, group=twin.path, stamp=one.stamp, proofs=proofs))
        return why
