"""Opening a picture, whatever its format and its size: the one way to it."""

from __future__ import annotations

from typing import IO, TYPE_CHECKING

if TYPE_CHECKING:
    from PIL.Image import Image

_HEIF = (".heic", ".heif", ".hif")
_SUSPECT, _VASTEST = 90_000_000, 1_000_000_000
"""Points from which on a picture may be a bomb (with twice as many it is refused); so many that no one looks at it."""
_AT_ONCE = 16_000_000
"""Points that are decoded at once; a picture with more is read a strip at a time."""
_REDUCED_BY_DECODER = ("JPEG", "MPO")


def opened(file: str | IO[bytes], *, vast: bool = False) -> Image:
    """Open a picture; only its header is read yet. Raises what Pillow does for a file that it can't open.

    With `vast` it may say to be larger than can be decoded: see `bounded`.
    """
    from PIL import Image

    if isinstance(file, str) and file.lower().endswith(_HEIF):
        from pillow_heif import register_heif_opener

        register_heif_opener()
    Image.MAX_IMAGE_PIXELS = None if vast else _SUSPECT
    return Image.open(file)


def bounded(picture: Image, path: str, side: int) -> Image:
    """Return a picture that was opened at `path`, ready to be decoded in bounded memory.

    One with very many points is read a strip at a time, and several of its points made one, over the alpha, as long as
    its longer side keeps `side`. Raises ValueError for a picture that is too large, and what libvips does for a file
    that it can't read.
    """
    points, times = picture.width * picture.height, max(picture.size) // side
    if points > _VASTEST:
        raise ValueError("it has too many points to be looked at")
    if points <= _AT_ONCE or times < 2 or picture.format in _REDUCED_BY_DECODER:
        return picture
    import pyvips
    from PIL import Image

    whole = pyvips.Image.new_from_file(path, access="sequential").colourspace("srgb").cast("uchar")
    small = whole.premultiply().shrink(times, times).unpremultiply() if whole.hasalpha() else whole.shrink(times, times)
    levels = small.cast("uchar").numpy()
    return Image.fromarray(levels if levels.ndim == 3 and levels.shape[2] > 1 else levels.reshape(levels.shape[:2]))
