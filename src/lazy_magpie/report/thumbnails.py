"""Pictures of files: of a picture itself, of a film's first frames, a sound's shape, a font's letters, a design.

They are drawn in worker processes with limits, as anything may be in a file: `answer` is what a worker answers.
"""

from __future__ import annotations

import base64
import io
import os
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, Any

from lazy_magpie import picture_files
from lazy_magpie.change import Filesystem, head_of
from lazy_magpie.change.archives.contents import contents
from lazy_magpie.identify.file_types import PICTURES
from lazy_magpie.model import Kind
from lazy_magpie.readers.video import covers, moving_pictures
from lazy_magpie.readers.worker_pool import ask_all

if TYPE_CHECKING:
    from PIL.Image import Image

    _Drawer = Callable[[str, tuple[int, int]], Image]
SMALL, LARGE = (200, 140), (800, 560)
"""Points that a drawing has at the most: on a page, and as a picture of its own."""
TILE = (280, 200)
"""Points that a picture on a wall of pictures has at the most."""
_QUALITY = {"webp": 60, "jpeg": 88}
FORMS = ("jpeg", "png", "webp")
"""The forms that pictures can be given."""
_FITTED, _BESIDE, _PORTRAIT, _TILE = "fitted", "beside", "portrait", "tile"
_INK, _GROUND = "#2b3a42", "#f4f1ea"
_SPECIMEN = ("Aa Bb Gg", "Kite 123")
_SECONDS = 60.0
_ON_SHEET = (4, 3)
"""How many pictures stand side by side on the sheet of a kit, and in how many rows at the most."""
_LARGEST_PACKED = 16 << 20
_PREVIEW = re.compile(r"(?i)preview|cover|^folder\.")
_THREAD = 4
"""How wide a thread is, in tenths of a millimetre, the units of a design."""


def drawn(files: Sequence[tuple[Kind, str]], jobs: int = 0) -> Iterator[tuple[int, str]]:
    """Yield (place, picture as a data URI) for each file (kind, whole path) that can be drawn, as they are done."""
    for at, image in _asked(_BESIDE, [(kind, [path]) for kind, path in files], SMALL, jobs):
        yield at, f"data:image/webp;base64,{image}"


def portraits(files: Sequence[tuple[Kind, str]], jobs: int = 0) -> Iterator[tuple[int, bytes]]:
    """Yield (place, JPEG) for each file that can be drawn, as they are done.

    Of a film that is the cover inside the file, else one frame; of a song the cover inside it alone.
    """
    for at, image in _asked(_PORTRAIT, [(kind, [path]) for kind, path in files], LARGE, jobs):
        yield at, base64.b64decode(image)


def tiles(things: Sequence[tuple[Kind, Sequence[str]]], jobs: int = 0) -> Iterator[tuple[int, bytes]]:
    """Yield (place, WebP) for each thing (kind, whole paths) that can be drawn, as they are done.

    Several paths are pictures that go on one sheet.
    """
    for at, image in _asked(_TILE, things, TILE, jobs):
        yield at, base64.b64decode(image)


def fitted(files: Sequence[tuple[str, str, int]], jobs: int = 0) -> Iterator[tuple[int, bytes]]:
    """Yield (place, picture) for each picture (whole path, form, widest) that has another form or is wider.

    The form is one of `FORMS`, "" for that which it has; the width is in points, 0 for any.
    """
    for at, answer in ask_all([[_FITTED, *one] for one in files], __name__, jobs, _SECONDS):
        if "image" in answer:
            yield at, base64.b64decode(str(answer["image"]))


def _asked(
    way: str, things: Sequence[tuple[Kind, Sequence[str]]], size: tuple[int, int], jobs: int
) -> Iterator[tuple[int, str]]:
    wanted = [at for at, (kind, _) in enumerate(things) if kind in _WAYS[way][1]]
    questions = [[way, things[at][0].value, things[at][1], *size] for at in wanted]
    for at, answer in ask_all(questions, __name__, jobs, _SECONDS):
        if "image" in answer:
            yield wanted[at], str(answer["image"])


def answer(question: Sequence[Any]) -> dict[str, object]:
    """Answer [way, kind, paths, width, height] by {"image": base64}; ["fitted", path, form, width] likewise, or by {}
    where it is so already. Raises whatever a decoder does with damage."""
    if question[0] == _FITTED:
        return _in_shape(*question[1:])
    way, kind, paths, width, height = question
    form, drawers = _WAYS[way]
    size = (width, height)
    if len(paths) > 1:
        picture = _sheet([_picture(path, SMALL) for path in paths[: _ON_SHEET[0] * _ON_SHEET[1]]], size)
    else:
        picture = drawers[Kind(kind)](paths[0], size)
    out = io.BytesIO()
    picture.convert("RGB").save(out, form, quality=_QUALITY[form])
    return {"image": base64.b64encode(out.getvalue()).decode()}


def _in_shape(path: str, form: str, width: int) -> dict[str, object]:
    from PIL import ImageOps

    from lazy_magpie.copies.similarity.pictures import on_white

    with picture_files.opened(path) as picture:
        own = str(picture.format).lower()
        form = form or (own if own in FORMS else "png")
        if own == form and (not width or picture.width <= width):
            return {}
        turned = ImageOps.exif_transpose(picture) or picture
        ready = on_white(turned) if form == "jpeg" else turned.convert("RGBA" if _has_alpha(turned) else "RGB")
        if width and ready.width > width:
            ready = ready.resize((width, max(1, round(ready.height * width / ready.width))))
        out = io.BytesIO()
        ready.save(out, form, quality=_QUALITY["jpeg"])
    return {"image": base64.b64encode(out.getvalue()).decode()}


def _has_alpha(picture: Image) -> bool:
    return "A" in picture.getbands() or "transparency" in picture.info


def _kit(path: str, size: tuple[int, int]) -> Image:
    """The preview of a kit (a folder, or an archive) where it is packed, else its pictures on one sheet."""
    found = list(_pictures_in(path) if os.path.isdir(path) else _pictures_packed(path))
    if not found:
        raise LookupError("no pictures in it")
    return found[0] if len(found) == 1 else _sheet(found, size)


def _pictures_in(folder: str) -> Iterator[Image]:
    """Yield the first pictures in a folder and those below."""
    paths = sorted(os.path.join(top, name) for top, _, names in os.walk(folder) for name in names)
    pictures = [path for path in paths if os.path.splitext(path)[1].lower() in PICTURES]
    for path in pictures[: _ON_SHEET[0] * _ON_SHEET[1]]:
        yield _picture(path, SMALL)


def _pictures_packed(archive: str) -> Iterator[Image]:
    """Yield the preview in an archive, or else its first pictures."""

    from lazy_magpie.copies.similarity.pictures import on_white

    disk, name = Filesystem(os.path.dirname(archive)), os.path.basename(archive)
    listed = contents(disk, name)
    pictures = [
        path
        for path, size in zip(listed.names, listed.sizes, strict=True)
        if os.path.splitext(path)[1].lower() in PICTURES and size <= _LARGEST_PACKED
    ]
    previews = [path for path in pictures if _PREVIEW.search(os.path.basename(path))]
    for path in previews[:1] or sorted(pictures)[: _ON_SHEET[0] * _ON_SHEET[1]]:
        with picture_files.opened(io.BytesIO(head_of(disk, name, path, _LARGEST_PACKED))) as picture:
            small = on_white(picture)
            small.thumbnail(LARGE)
            yield small


def _sheet(pictures: Sequence[Image], size: tuple[int, int]) -> Image:
    """Pictures side by side in rows."""
    from PIL import Image

    columns, rows = _ON_SHEET[0], -(-len(pictures) // _ON_SHEET[0])
    width, height = size[0] // _ON_SHEET[0], size[1] // _ON_SHEET[1]
    sheet = Image.new("RGB", (columns * width, rows * height), _GROUND)
    for number, picture in enumerate(pictures):
        picture.thumbnail((width - 8, height - 8))
        left, top = number % columns * width, number // columns * height
        sheet.paste(picture, (left + (width - picture.width) // 2, top + (height - picture.height) // 2))
    return sheet


def _picture(path: str, size: tuple[int, int]) -> Image:
    from PIL import ImageOps

    from lazy_magpie.copies.similarity.pictures import on_white

    with picture_files.opened(path) as picture:
        picture.draft("RGB", (2 * size[0], 2 * size[1]))
        small = on_white(ImageOps.exif_transpose(picture) or picture)
        small.thumbnail(size)
        return small


def _film(path: str, size: tuple[int, int]) -> Image:
    """Three frames from the first half of a film, side by side."""
    from PIL import Image

    width, height = size
    frames = _frames(path, [0.05 + 0.2 * number for number in range(3)])
    for frame in frames:
        frame.thumbnail((width // 3 - 2, height))
    strip = Image.new("RGB", (width, max(frame.height for frame in frames)), _GROUND)
    for number, frame in enumerate(frames):
        strip.paste(frame, (1 + number * width // 3, 0))
    return strip


def _cover(path: str, size: tuple[int, int]) -> Image:
    """The cover inside a song or film. Raises LookupError where there is none."""
    import av

    with av.open(path) as container:
        found = covers(container)
        if not found:
            raise LookupError("no cover inside")
        cover: Image = next(container.decode(found[0])).to_image()
    cover.thumbnail(size)
    return cover


def _portrait(path: str, size: tuple[int, int]) -> Image:
    """The cover inside a film, else a frame of it."""
    try:
        return _cover(path, size)
    except LookupError:
        return _still(path, size)


def _cover_or_shape(path: str, size: tuple[int, int]) -> Image:
    """The cover inside a song, else its shape."""
    try:
        return _cover(path, size)
    except LookupError:
        return _sound(path, size)


def _still(path: str, size: tuple[int, int]) -> Image:
    """The frame of some that has the most to see: the one whose brightness differs most."""
    import numpy as np

    frames = _frames(path, [0.1 + 0.1 * number for number in range(6)])
    best = max(frames, key=lambda frame: float(np.asarray(frame.convert("L")).std()))
    best.thumbnail(size)
    return best


def _frames(path: str, places: Sequence[float]) -> list[Image]:
    """Return the frames of a film at some places, each a share of its length."""
    import av

    with av.open(path) as container:
        stream = moving_pictures(container)[0]
        length = float(container.duration or 0) / 1_000_000
        frames = []
        for place in places:
            container.seek(int(length * place * 1_000_000))
            frames.append(next(container.decode(stream)).to_image())
        return frames


def _sound(path: str, size: tuple[int, int]) -> Image:
    """The shape of a sound: how loud it is, from its beginning to its end."""
    import numpy as np
    from PIL import Image, ImageDraw

    from lazy_magpie.copies.similarity.audio import samples_of

    width, height = size
    samples = np.abs(samples_of(path, 600.0))
    shape = Image.new("RGB", (width, height // 2), _GROUND)
    draw = ImageDraw.Draw(shape)
    loudest = float(samples.max()) if len(samples) else 0.0
    for column, piece in enumerate(np.array_split(samples, width) if loudest else []):
        reach = int(float(piece.max(initial=0.0)) / loudest * (height // 4 - 2))
        draw.line((column, height // 4 - reach, column, height // 4 + reach), fill=_INK)
    return shape


def _font(path: str, size: tuple[int, int]) -> Image:
    """A few letters set in a font."""
    from fontTools.ttLib import TTFont
    from PIL import Image, ImageDraw, ImageFont

    plain = io.BytesIO()
    with TTFont(path, fontNumber=0) as font:
        font.flavor = None
        font.save(plain)
    plain.seek(0)
    width, height = size
    scale = width / SMALL[0]
    specimen = Image.new("RGB", (width, height // 2 + int(10 * scale)), _GROUND)
    draw = ImageDraw.Draw(specimen)
    letters = ImageFont.truetype(plain, int(28 * scale))
    for number, line in enumerate(_SPECIMEN):
        draw.text((10 * scale, (6 + 36 * number) * scale), line, fill=_INK, font=letters)
    return specimen


def _design(path: str, size: tuple[int, int]) -> Image:
    """The stitches of a design, in the colours of its threads; where the machine cuts the thread, the line ends."""
    import pyembroidery
    from PIL import Image, ImageDraw

    pattern = pyembroidery.read(path)
    left, top, right, bottom = pattern.bounds()
    width, height = size
    scale = min((width - 10) / max(right - left, 1), (height - 10) / max(bottom - top, 1))
    sewn = Image.new("RGB", (int((right - left) * scale) + 10, int((bottom - top) * scale) + 10), "white")
    draw = ImageDraw.Draw(sewn)
    line: list[tuple[float, float]] = []
    thread = 0
    for x, y, what in [*pattern.stitches, (0, 0, pyembroidery.END)]:
        command = what & pyembroidery.COMMAND_MASK
        if command == pyembroidery.STITCH:
            line.append((5 + (x - left) * scale, 5 + (y - top) * scale))
        elif command != pyembroidery.JUMP:
            if len(line) > 1:
                draw.line(
                    line,
                    width=max(1, round(_THREAD * scale)),
                    fill=f"#{pattern.get_thread_or_filler(thread).color & 0xFFFFFF:06x}",
                )
            line = []
            thread += command == pyembroidery.COLOR_CHANGE
    return sewn


_DRAWERS: Mapping[Kind, _Drawer] = {
    Kind.PICTURE: _picture,
    Kind.KIT: _picture,
    Kind.MOVIE: _film,
    Kind.EPISODE: _film,
    Kind.EXTRA: _film,
    Kind.TRACK: _sound,
    Kind.FONT: _font,
    Kind.DESIGN: _design,
}
_PORTRAYERS: Mapping[Kind, _Drawer] = {
    Kind.MOVIE: _portrait,
    Kind.EPISODE: _portrait,
    Kind.TRACK: _cover,
    Kind.KIT: _kit,
    Kind.FONT: _font,
    Kind.DESIGN: _design,
}
_TILES: Mapping[Kind, _Drawer] = {
    Kind.PICTURE: _picture,
    Kind.KIT: _kit,
    Kind.MOVIE: _portrait,
    Kind.EPISODE: _portrait,
    Kind.EXTRA: _portrait,
    Kind.TRACK: _cover_or_shape,
    Kind.FONT: _font,
    Kind.DESIGN: _design,
}
_WAYS: Mapping[str, tuple[str, Mapping[Kind, _Drawer]]] = {
    _BESIDE: ("webp", _DRAWERS),
    _PORTRAIT: ("jpeg", _PORTRAYERS),
    _TILE: ("webp", _TILES),
}
"""For each way of drawing its form, and what draws each kind."""
