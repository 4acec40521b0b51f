"""Names that stand for none: "Unknown Artist", "Track 1", "New Folder", "MVI_0012", in any language; never clear."""

from __future__ import annotations

from dataclasses import replace

from lazy_magpie.model import Identity, Kind, State
from lazy_magpie.words import meaning, remembered

PLACEHOLDER = "placeholder"
"""The doubt that a name stands for none."""
CAMERAS = "picture.camera_prefix"
"""The concept of names that cameras and phones give."""
_OWNERS = frozenset(["artist", "maker", "show"])
_NAMES = ("title", "album", "artist", "maker", "show", "family")
_NO_NAMES = frozenset([Kind.PICTURE, Kind.DOCUMENT, Kind.COMPANION, Kind.EXTRA])
"""What needs no name of its own: a photo may be called as the camera did."""


def doubted(identity: Identity) -> Identity:
    """Return a clear identity in doubt where one of its names stands for none."""
    if identity.state is not State.CLEAR or identity.kind in _NO_NAMES:
        return identity
    for field in _NAMES:
        value = identity.fields.get(field)
        if isinstance(value, str) and _stands_for_none(value, owner=field in _OWNERS):
            doubt = f"{PLACEHOLDER}: “{value}” is a name for what has none"
            return replace(identity, state=State.DOUBTFUL, confidence=min(identity.confidence, 0.5), doubts=(doubt,))
    return identity


def is_cameras(stem: str) -> bool:
    """Say whether a file's name is one that a camera or a phone gives, with its counter: "MVI_0412"."""
    return stem[-1:].isdecimal() and meaning(stem).get(CAMERAS, 0) > 1


@remembered(8192)
def _stands_for_none(value: str, *, owner: bool) -> bool:
    """Say whether a whole name is a placeholder; a word that may be a title, too, is one only with a number, or of an
    owner."""
    least = 1 if owner or any(sign.isdecimal() for sign in value) else 2
    said = meaning(value)
    return any(
        strength >= (least if concept.startswith("unknown.") else 2)
        for concept, strength in said.items()
        if concept.startswith("unknown.") or concept in ("new_folder", CAMERAS)
    )
