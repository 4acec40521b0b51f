"""Opening a picture, whatever its format: the one way to it."""

from __future__ import annotations

from typing import IO, TYPE_CHECKING

if TYPE_CHECKING:
    from PIL.Image import Image

_HEIF = (".heic", ".heif", ".hif")


def opened(file: str | IO[bytes]) -> Image:
    """Open a picture; only its header is read yet. Raises what Pillow does for a file that it can't open."""
    from PIL import Image

    if isinstance(file, str) and file.lower().endswith(_HEIF):
        from pillow_heif import register_heif_opener

        register_heif_opener()
    return Image.open(file)
