"""The outlines of a font's glyphs, by their places in it, as paths: through FreeType, and of WOFF2 decoded here.

FreeType as it comes with its Python package knows no WOFF2; to take one apart and put it together again as OpenType
costs a hundred times what a look at some of its glyphs does. So its `glyf` table, as WOFF2 transforms it (W3C WOFF 2.0,
5.1), is read in its transformed form: streams of points, of which those that are asked for are decoded.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator, Sequence
from functools import cached_property
from typing import TYPE_CHECKING, Any, NamedTuple, Protocol

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray


class Outlines(Protocol):
    """The glyphs of one face."""

    def width(self, glyph: int) -> float:
        """Return how far a glyph advances, in units of the font."""

    def path(self, glyph: int) -> Any:
        """Return the outline of a glyph as a `pathops.Path`. Raises ValueError for what is damaged."""


class FreeTypeOutlines:
    """Glyphs as FreeType reads them: TrueType, CFF, WOFF 1."""

    def __init__(self, path: str, face: int) -> None:
        import freetype

        self._flags = freetype.FT_LOAD_NO_SCALE | freetype.FT_LOAD_NO_HINTING
        self._face = freetype.Face(path, index=face)

    def width(self, glyph: int) -> float:
        """Return how far a glyph advances."""
        self._face.load_glyph(glyph, self._flags)
        return float(self._face.glyph.metrics.horiAdvance)

    def path(self, glyph: int) -> Any:
        """Return the outline of a glyph."""
        import pathops

        self._face.load_glyph(glyph, self._flags)
        path = pathops.Path()
        pen = path.getPen()
        is_open = [False]

        def move(to: Any, _: object) -> None:
            if is_open[0]:
                pen.closePath()
            is_open[0] = True
            pen.moveTo((to.x, to.y))

        self._face.glyph.outline.decompose(
            move_to=move,
            line_to=lambda to, _: pen.lineTo((to.x, to.y)),
            conic_to=lambda by, to, _: pen.qCurveTo((by.x, by.y), (to.x, to.y)),
            cubic_to=lambda by, then, to, _: pen.curveTo((by.x, by.y), (then.x, then.y), (to.x, to.y)),
        )
        if is_open[0]:
            pen.closePath()
        return path


class FontToolsOutlines:
    """Glyphs as fontTools reads them: those of a WOFF2 with CFF outlines."""

    def __init__(self, font: Any) -> None:
        self._glyphs, self._order = font.getGlyphSet(), font.getGlyphOrder()

    def width(self, glyph: int) -> float:
        """Return how far a glyph advances."""
        return float(self._glyphs[self._order[glyph]].width)

    def path(self, glyph: int) -> Any:
        """Return the outline of a glyph."""
        import pathops

        path = pathops.Path()
        self._glyphs[self._order[glyph]].draw(path.getPen(glyphSet=self._glyphs))
        return path


class _Simple(NamedTuple):
    """Where the points of a glyph are: the first of its flags, the first byte of its moves, the last point of each
    contour."""

    flag: int
    move: int
    ends: Sequence[int]


class _Component(NamedTuple):
    """A glyph within another one, and how it is laid there: xx, xy, yx, yy, dx, dy."""

    glyph: int
    laid: tuple[float, float, float, float, float, float]


_HEAD = struct.Struct(">4H7I")
_WORDS, _ARE_MOVES, _SCALE, _MORE, _TWO_SCALES, _FOUR_SCALES, _INSTRUCTIONS = 1, 2, 8, 32, 64, 128, 256
"""Flags of a component (OpenType, `glyf`)."""
_DEEPEST = 8


class TransformedOutlines:
    """Glyphs of a WOFF2 in its transformed form. Raises ValueError where its streams do not fit together."""

    def __init__(self, glyf: bytes, widths: Sequence[int]) -> None:
        import numpy as np

        self._widths = widths
        _, _, count, _, *sizes = _HEAD.unpack_from(glyf)
        at, streams = _HEAD.size, []
        for size in sizes:
            streams.append(glyf[at : at + size])
            at += size
        contours, points, flags, moves, parts, _, _ = streams
        self._contours = np.frombuffer(contours[: 2 * count], ">i2")
        self._points, self._moves, self._parts = points, moves, parts
        self._flags = np.frombuffer(flags, np.uint8)
        low = self._flags & 0x7F
        self._sizes = 1 + (low >= 84) + (low >= 120) + (low >= 124).astype(np.int64)
        self._starts = np.concatenate([np.zeros(1, np.int64), np.cumsum(self._sizes)])

    def width(self, glyph: int) -> float:
        """Return how far a glyph advances."""
        return float(self._widths[min(glyph, len(self._widths) - 1)])

    def path(self, glyph: int) -> Any:
        """Return the outline of a glyph."""
        import pathops

        path = pathops.Path()
        self._draw(glyph, path.getPen(), (1.0, 0.0, 0.0, 1.0, 0.0, 0.0), 0)
        return path

    @cached_property
    def _glyphs(self) -> list[_Simple | list[_Component] | None]:
        """What each glyph is made of; None for one without outlines."""
        found: list[_Simple | list[_Component] | None] = []
        point = move = flag = part = 0
        for contours in self._contours.tolist():
            if contours > 0:
                ends, total = [], 0
                for _ in range(contours):
                    count, point = _short(self._points, point)
                    total += count
                    ends.append(total - 1)
                found.append(_Simple(flag, move, ends))
                if flag + total >= len(self._starts):
                    raise ValueError("the streams of its outlines do not fit together")
                move += int(self._starts[flag + total] - self._starts[flag])
                flag += total
                _, move = _short(self._moves, move)
            elif contours < 0:
                components, part, has_instructions = self._composite(part)
                found.append(components)
                if has_instructions:
                    _, move = _short(self._moves, move)
            else:
                found.append(None)
        return found

    def _composite(self, at: int) -> tuple[list[_Component], int, bool]:
        components, flags, has_instructions = [], _MORE, False
        while flags & _MORE:
            flags, glyph = struct.unpack_from(">HH", self._parts, at)
            at += 4
            dx, dy = struct.unpack_from(">hh" if flags & _WORDS else ">bb", self._parts, at)
            at += 4 if flags & _WORDS else 2
            count = 4 if flags & _FOUR_SCALES else 2 if flags & _TWO_SCALES else 1 if flags & _SCALE else 0
            scales = [one / 16384 for one in struct.unpack_from(f">{count}h", self._parts, at)]
            at += 2 * count
            xx, xy, yx, yy = {0: [1.0, 0.0, 0.0, 1.0], 1: [*scales, 0.0, 0.0, *scales]}.get(
                count, [scales[0], 0.0, 0.0, scales[-1]] if count == 2 else scales
            )
            if not flags & _ARE_MOVES:  # points are laid upon each other: none is moved
                dx = dy = 0
            components.append(_Component(glyph, (xx, xy, yx, yy, dx, dy)))
            has_instructions = has_instructions or bool(flags & _INSTRUCTIONS)
        return components, at, has_instructions

    def _draw(self, glyph: int, pen: Any, laid: tuple[float, ...], depth: int) -> None:
        found = self._glyphs[glyph] if glyph < len(self._glyphs) and depth < _DEEPEST else None
        if isinstance(found, list):
            for part in found:
                self._draw(part.glyph, pen, _within(part.laid, laid), depth + 1)
        elif found:
            xx, xy, yx, yy, dx, dy = laid
            points = self._decoded(found)
            xs = points[:, 0] * xx + points[:, 1] * yx + dx
            ys = points[:, 0] * xy + points[:, 1] * yy + dy
            on = (self._flags[found.flag : found.flag + found.ends[-1] + 1] & 0x80) == 0
            first = 0
            for last in found.ends:
                contour = list(zip(xs[first : last + 1].tolist(), ys[first : last + 1].tolist(), strict=True))
                _quadratic(pen, contour, on[first : last + 1].tolist())
                first = last + 1

    def _decoded(self, glyph: _Simple) -> NDArray[np.float64]:
        """Return the points of a glyph (n, 2): flags say how many bytes a move takes, and what they are."""
        import numpy as np

        count = glyph.ends[-1] + 1
        where = glyph.move + self._starts[glyph.flag : glyph.flag + count] - self._starts[glyph.flag]
        moves = np.frombuffer(self._moves[: int(where[-1]) + 4].ljust(int(where[-1]) + 4, b"\0"), np.uint8).astype(int)
        one, two, three, four = (moves[where + at] for at in range(4))
        flag = (self._flags[glyph.flag : glyph.flag + count] & 0x7F).astype(int)
        short, pair = flag - 20, flag - 84
        sorts = [flag < 10, flag < 20, flag < 84, flag < 120, flag < 124]
        across = np.select(sorts, [
            0 * flag, ((flag - 10 & 14) << 7) + one, 1 + (short & 0x30) + (one >> 4), 1 + (pair // 12 << 8) + one,
            (one << 4) + (two >> 4),
        ], (one << 8) + two)  # fmt: skip
        up = np.select(sorts, [
            ((flag & 14) << 7) + one, 0 * flag, 1 + ((short & 0x0C) << 2) + (one & 0x0F),
            1 + (pair % 12 >> 2 << 8) + two, ((two & 0x0F) << 8) + three,
        ], (three << 8) + four)  # fmt: skip
        across = np.where(flag & 1, across, -across)
        up = np.where(np.where(flag < 10, flag, flag >> 1) & 1, up, -up)
        return np.cumsum(np.stack([across, up], axis=1), axis=0).astype(float)


def _within(part: Sequence[float], whole: Sequence[float]) -> tuple[float, ...]:
    """Return how a part of a part is laid."""
    xx, xy, yx, yy, dx, dy = part
    a, b, c, d, e, f = whole
    return (
        xx * a + xy * c, xx * b + xy * d, yx * a + yy * c, yx * b + yy * d, dx * a + dy * c + e, dx * b + dy * d + f
    )  # fmt: skip


def _short(stream: bytes, at: int) -> tuple[int, int]:
    """Return a number (255UInt16), and where the next one begins. Raises ValueError where it is cut off."""
    try:
        code = stream[at]
        if code == 253:
            return stream[at + 1] << 8 | stream[at + 2], at + 3
        if code == 255:
            return stream[at + 1] + 253, at + 2
        return (stream[at + 1] + 506, at + 2) if code == 254 else (code, at + 1)
    except IndexError:
        raise ValueError("a number in its outlines is cut off") from None


def _quadratic(pen: Any, contour: Sequence[tuple[float, float]], on: Sequence[bool]) -> None:
    """Draw a closed contour of points on the curve and off it (OpenType, `glyf`)."""
    if not contour:
        return
    if True not in on:
        pen.qCurveTo(*contour, None)
        pen.closePath()
        return
    first = on.index(True)
    points, ons = [*contour[first:], *contour[:first]], [*on[first:], *on[:first]]
    pen.moveTo(points[0])
    off: list[tuple[float, float]] = []
    for point, is_on in zip([*points[1:], points[0]], [*ons[1:], True], strict=True):
        if not is_on:
            off.append(point)
        elif off:
            pen.qCurveTo(*off, point)
            off = []
        else:
            pen.lineTo(point)
    pen.closePath()


def faces_of(path: str) -> Iterator[tuple[Any, Outlines]]:
    """Yield each face of a file: as fontTools opens it, and its outlines. Raises what fontTools and FreeType do."""
    from fontTools.ttLib import TTFont

    with open(path, "rb") as file:
        head = file.read(12)
    count = int.from_bytes(head[8:12], "big") if head.startswith(b"ttcf") else 0
    for face in range(max(count, 1)):
        with TTFont(path, lazy=True, fontNumber=face if count else -1) as font:
            if font.flavor != "woff2":
                yield font, FreeTypeOutlines(path, face)
            elif "glyf" in font:
                yield font, TransformedOutlines(*_streams(font))
            else:
                yield font, FontToolsOutlines(font)


def _streams(font: Any) -> tuple[bytes, Sequence[int]]:
    """Return the transformed outlines of a WOFF2, and how far its glyphs advance."""
    reader = font.reader
    glyf = reader.tables["glyf"].loadData(reader.transformBuffer)
    entry = reader.tables["hmtx"]
    data = entry.loadData(reader.transformBuffer)
    count = int(font["hhea"].numberOfHMetrics)
    if entry.transformed:
        return glyf, struct.unpack_from(f">{count}H", data, 1)
    return glyf, struct.unpack_from(">" + "H2x" * count, data)
