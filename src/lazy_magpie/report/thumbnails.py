"""Small pictures of files: of a picture itself, of a film's first frames, a sound's shape, a font's letters, a design.

They are drawn in worker processes with limits, as anything may be in a file: `answer` is what a worker answers.
"""

from __future__ import annotations

import base64
import io
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import TYPE_CHECKING

from lazy_magpie.model import Kind
from lazy_magpie.readers.worker_pool import ask_all

if TYPE_CHECKING:
    from PIL.Image import Image

WIDTH, HEIGHT = 200, 140
"""Points that a drawing has at the most."""
_QUALITY = 60
_INK, _GROUND = "#2b3a42", "#f4f1ea"
_SPECIMEN = ("Aa Bb Gg", "Kite 123")
_SECONDS = 60.0


def drawn(files: Sequence[tuple[Kind, str]], jobs: int = 0) -> Iterator[tuple[int, str]]:
    """Yield (place, picture as a data URI) for each file (kind, whole path) that can be drawn, as they are done."""
    wanted = [at for at, (kind, _) in enumerate(files) if kind in _DRAWERS]
    questions = [[files[at][0].value, files[at][1]] for at in wanted]
    for at, answer in ask_all(questions, __name__, jobs, _SECONDS):
        if "image" in answer:
            yield wanted[at], f"data:image/webp;base64,{answer['image']}"


def answer(question: Sequence[str]) -> dict[str, object]:
    """Answer [kind, path] by {"image": base64 of WebP}. Raises whatever a decoder does with a damaged file."""
    kind, path = question
    picture = _DRAWERS[Kind(kind)](path).convert("RGB")
    out = io.BytesIO()
    picture.save(out, "webp", quality=_QUALITY)
    return {"image": base64.b64encode(out.getvalue()).decode()}


def _picture(path: str) -> Image:
    from PIL import Image, ImageOps

    from lazy_magpie.copies.similarity.pictures import on_white

    with Image.open(path) as picture:
        picture.draft("RGB", (2 * WIDTH, 2 * HEIGHT))
        small = on_white(ImageOps.exif_transpose(picture) or picture)
        small.thumbnail((WIDTH, HEIGHT))
        return small


def _film(path: str) -> Image:
    """Three frames from the first half of a film, side by side."""
    import av
    from PIL import Image

    frames = []
    with av.open(path) as container:
        stream = container.streams.video[0]
        length = float(container.duration or 0) / 1_000_000
        for number in range(3):
            container.seek(int(length * (0.05 + 0.2 * number) * 1_000_000))
            frame = next(container.decode(stream)).to_image()  # type: ignore[no-untyped-call]
            frame.thumbnail((WIDTH // 3 - 2, HEIGHT))
            frames.append(frame)
    strip = Image.new("RGB", (WIDTH, max(frame.height for frame in frames)), _GROUND)
    for number, frame in enumerate(frames):
        strip.paste(frame, (1 + number * WIDTH // 3, 0))
    return strip


def _sound(path: str) -> Image:
    """The shape of a sound: how loud it is, from its beginning to its end."""
    import numpy as np
    from PIL import Image, ImageDraw

    from lazy_magpie.copies.similarity.audio import samples_of

    samples = np.abs(samples_of(path, 600.0))
    shape = Image.new("RGB", (WIDTH, HEIGHT // 2), _GROUND)
    draw = ImageDraw.Draw(shape)
    loudest = float(samples.max()) if len(samples) else 0.0
    for column, piece in enumerate(np.array_split(samples, WIDTH) if loudest else []):
        reach = int(float(piece.max(initial=0.0)) / loudest * (HEIGHT // 4 - 2))
        draw.line((column, HEIGHT // 4 - reach, column, HEIGHT // 4 + reach), fill=_INK)
    return shape


def _font(path: str) -> Image:
    """A few letters set in a font."""
    from fontTools.ttLib import TTFont
    from PIL import Image, ImageDraw, ImageFont

    plain = io.BytesIO()
    with TTFont(path, fontNumber=0) as font:
        font.flavor = None
        font.save(plain)
    plain.seek(0)
    specimen = Image.new("RGB", (WIDTH, HEIGHT // 2 + 10), _GROUND)
    draw = ImageDraw.Draw(specimen)
    letters = ImageFont.truetype(plain, 28)
    for number, line in enumerate(_SPECIMEN):
        draw.text((10, 6 + 36 * number), line, fill=_INK, font=letters)
    return specimen


def _design(path: str) -> Image:
    """The stitches of a design, in the colours of its threads; where the machine cuts the thread, the line ends."""
    import pyembroidery
    from PIL import Image, ImageDraw

    pattern = pyembroidery.read(path)
    left, top, right, bottom = pattern.bounds()
    scale = min((WIDTH - 10) / max(right - left, 1), (HEIGHT - 10) / max(bottom - top, 1))
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
                draw.line(line, fill=f"#{pattern.get_thread_or_filler(thread).color & 0xFFFFFF:06x}")
            line = []
            thread += command == pyembroidery.COLOR_CHANGE
    return sewn


_DRAWERS: Mapping[Kind, Callable[[str], Image]] = {
    Kind.PICTURE: _picture,
    Kind.KIT: _picture,
    Kind.MOVIE: _film,
    Kind.EPISODE: _film,
    Kind.EXTRA: _film,
    Kind.TRACK: _sound,
    Kind.FONT: _font,
    Kind.DESIGN: _design,
}
