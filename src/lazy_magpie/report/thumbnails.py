"""Pictures of files: of a picture itself, of a film's first frames, a sound's shape, a font's letters, a design.

They are drawn in worker processes with limits, as anything may be in a file: `answer` is what a worker answers.
"""

from __future__ import annotations

import base64
import io
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, Any

from lazy_magpie.model import Kind
from lazy_magpie.readers.video import covers, moving_pictures
from lazy_magpie.readers.worker_pool import ask_all

if TYPE_CHECKING:
    from PIL.Image import Image

    _Drawer = Callable[[str, tuple[int, int]], Image]
SMALL, LARGE = (200, 140), (800, 560)
"""Points that a drawing has at the most: on a page, and as a picture of its own."""
_QUALITY = {"webp": 60, "jpeg": 88}
_INK, _GROUND = "#2b3a42", "#f4f1ea"
_SPECIMEN = ("Aa Bb Gg", "Kite 123")
_SECONDS = 60.0
_THREAD = 4
"""How wide a thread is, in tenths of a millimetre, the units of a design."""


def drawn(files: Sequence[tuple[Kind, str]], jobs: int = 0) -> Iterator[tuple[int, str]]:
    """Yield (place, picture as a data URI) for each file (kind, whole path) that can be drawn, as they are done."""
    for at, image in _asked(files, "webp", _DRAWERS, SMALL, jobs):
        yield at, f"data:image/webp;base64,{image}"


def portraits(files: Sequence[tuple[Kind, str]], jobs: int = 0) -> Iterator[tuple[int, bytes]]:
    """Yield (place, JPEG) for each file that can be drawn, as they are done.

    Of a film that is the cover inside the file, else one frame; of a song the cover inside it alone.
    """
    for at, image in _asked(files, "jpeg", _PORTRAYERS, LARGE, jobs):
        yield at, base64.b64decode(image)


def _asked(
    files: Sequence[tuple[Kind, str]], form: str, drawers: Mapping[Kind, _Drawer], size: tuple[int, int], jobs: int
) -> Iterator[tuple[int, str]]:
    wanted = [at for at, (kind, _) in enumerate(files) if kind in drawers]
    questions = [[files[at][0].value, files[at][1], form, *size] for at in wanted]
    for at, answer in ask_all(questions, __name__, jobs, _SECONDS):
        if "image" in answer:
            yield wanted[at], str(answer["image"])


def answer(question: Sequence[Any]) -> dict[str, object]:
    """Answer [kind, path, form, width, height] by {"image": base64}. Raises whatever a decoder does with damage."""
    kind, path, form, width, height = question
    drawers = _PORTRAYERS if form == "jpeg" else _DRAWERS
    picture = drawers[Kind(kind)](path, (width, height)).convert("RGB")
    out = io.BytesIO()
    picture.save(out, form, quality=_QUALITY[form])
    return {"image": base64.b64encode(out.getvalue()).decode()}


def _picture(path: str, size: tuple[int, int]) -> Image:
    from PIL import Image, ImageOps

    from lazy_magpie.copies.similarity.pictures import on_white

    with Image.open(path) as picture:
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
    Kind.FONT: _font,
    Kind.DESIGN: _design,
}
