"""Charts of the report's tables, as SVG that stands in the page: its texts stay texts, and take the page's colour.

The colours are told apart by eyes that see no red, no green or no blue, too; what a chart says stands in its table.
"""

from __future__ import annotations

import io
import re
import warnings
from collections.abc import Callable, Mapping, Sequence
from functools import cache
from typing import TYPE_CHECKING, Any

from lazy_magpie.report.report_table import NOT_KNOWN, Cell, ReportTable, cell_text
from lazy_magpie.report.treemap import Box, boxes

if TYPE_CHECKING:
    from matplotlib.axes import Axes

COLOURS = ("#246f8a", "#cb6814", "#61519e", "#64a55f", "#aa5363", "#d4b145", "#72b5eb", "#634532")
_OTHER = "#8b9298"
_INK = "#123456"
"""Stands for the colour of the page's text until the chart is done."""
_WIDE = 6.4
_BARS, _COLUMNS, _PARTS = 16, 60, 40
_NAME = 34
_REFERENCED = re.compile(r"(?:url\(#|href=\"#)([^)\"]+)")
_ID = re.compile(r" id=\"([^\"]+)\"")
_ON_LIGHT = 0.45


def chart(table: ReportTable) -> str:
    """Return the chart of a table as an SVG element, "" for a table that has none."""
    if table.chart is None:
        return ""
    rc, figure_of = _tools()
    with rc({"svg.hashsalt": table.name}):
        draw, height = _FORMS[table.chart.form]
        figure = figure_of(figsize=(_WIDE, height(table)))
        axes = figure.add_subplot()
        _plain(axes)
        draw(axes, table, list(table.columns).index(table.chart.value))
        out = io.StringIO()
        with warnings.catch_warnings():  # the letters that our own font has not are drawn by the reader's
            warnings.simplefilter("ignore", UserWarning)
            figure.savefig(out, format="svg", transparent=True, bbox_inches="tight", metadata={"Date": None})
    return _tidied(out.getvalue(), table)


@cache
def _tools() -> tuple[Any, Any]:
    import matplotlib
    from matplotlib.figure import Figure

    matplotlib.rcParams.update(
        {
            "svg.fonttype": "none", "font.family": "sans-serif", "font.size": 10, "text.color": _INK,
            "axes.labelcolor": _INK, "xtick.color": _INK, "ytick.color": _INK, "axes.edgecolor": _INK,
            "text.parse_math": False,
        }
    )  # fmt: skip
    return matplotlib.rc_context, Figure


def _tidied(svg: str, table: ReportTable) -> str:
    """Return a chart as an element of a page: no id twice in the page, texts in its colour, a name for who listens."""
    svg = svg[svg.index("<svg") :]
    used = set(_REFERENCED.findall(svg))
    svg = _ID.sub(lambda match: f' id="{table.name}-{match[1]}"' if match[1] in used else "", svg)
    for name in used:
        svg = svg.replace(f"url(#{name})", f"url(#{table.name}-{name})").replace(
            f'href="#{name}"', f'href="#{table.name}-{name}"'
        )
    svg = re.sub(r"<metadata>.*?</metadata>", "", svg, flags=re.DOTALL)
    svg = svg.replace(_INK, "currentColor").replace("sans-serif", "system-ui, sans-serif")
    head = f'<svg role="img" aria-labelledby="{table.name}-title"'
    return re.sub(r'<svg(?= )(?=[^>]*\bheight="[^"]*")', head, svg, count=1)


def _plain(axes: Axes) -> None:
    for side in ("top", "right", "left"):
        axes.spines[side].set_visible(False)
    axes.spines["bottom"].set_alpha(0.3)
    axes.tick_params(length=0)


def _name(text: Cell) -> str:
    text = cell_text("", text)
    return text if len(text) <= _NAME else f"{text[: _NAME - 1]}…"


def _largest(table: ReportTable, value: int, most: int) -> list[tuple[str, float]]:
    """Return the rows with the largest numbers, by name, and one for all others together."""
    rows = [(_name(row[0]), float(row[value])) for row in table.rows]
    if len(rows) <= most:
        return rows
    kept = {at for at, _ in sorted(enumerate(rows), key=lambda pair: -pair[1][1])[: most - 1]}
    others = sum(number for at, (_, number) in enumerate(rows) if at not in kept)
    return [*(row for at, row in enumerate(rows) if at in kept), (f"{len(rows) - most + 1:,} others", others)]


def _bars(axes: Axes, table: ReportTable, value: int) -> None:
    rows = _largest(table, value, _BARS)
    numbers = [number for _, number in rows]
    axes.barh(range(len(rows)), numbers, color=COLOURS[0], height=0.7)
    axes.set_yticks(range(len(rows)), [name for name, _ in rows])
    axes.invert_yaxis()
    axes.set_xticks([])
    for at, number in enumerate(numbers):
        said = cell_text(table.columns[value], int(number))
        axes.text(number + max(numbers, default=1) * 0.01, at, said, va="center", fontsize=9)
    axes.set_xlim(0, max(max(numbers, default=1), 1) * 1.14)


def _columns(axes: Axes, table: ReportTable, value: int) -> None:
    rows = [(str(row[0]), float(row[value])) for row in table.rows][-_COLUMNS:]
    axes.bar(range(len(rows)), [number for _, number in rows], color=COLOURS[0], width=0.8)
    _labelled(axes, [name for name, _ in rows])
    _measured(axes, table.columns[value])


def _stacked(axes: Axes, table: ReportTable, value: int) -> None:
    """Bars whose pieces are the second column's values."""
    names = list(dict.fromkeys(str(row[0]) for row in table.rows))[-_COLUMNS:]
    kinds = list(dict.fromkeys(str(row[1]) for row in table.rows))
    numbers = {(str(row[0]), str(row[1])): float(row[value]) for row in table.rows}
    left = [0.0] * len(names)
    for place, kind in enumerate(kinds):
        pieces = [numbers.get((name, kind), 0.0) for name in names]
        colour = _OTHER if kind == NOT_KNOWN or place >= len(COLOURS) else COLOURS[place]
        axes.barh(range(len(names)), pieces, left=left, color=colour, height=0.7, label=_name(kind))
        left = [a + b for a, b in zip(left, pieces, strict=True)]
    axes.set_yticks(range(len(names)), list(map(_name, names)))
    axes.invert_yaxis()
    axes.set_xticks([])
    for at, number in enumerate(left):
        axes.text(number + max(left, default=1) * 0.01, at, cell_text(table.columns[value], int(number)), va="center",
                  fontsize=9)  # fmt: skip
    axes.legend(frameon=False, fontsize=9, loc="upper left", bbox_to_anchor=(0, -0.02), ncols=4)


def _growth(axes: Axes, table: ReportTable, value: int) -> None:
    names = [str(row[0]) for row in table.rows]
    so_far = [float(row[value]) for row in table.rows]
    axes.fill_between(range(len(names)), so_far, color=COLOURS[0], alpha=0.35, step="post")
    axes.plot(range(len(names)), so_far, color=COLOURS[0], drawstyle="steps-post", marker="o", markersize=3)
    axes.set_ylim(bottom=0)
    _labelled(axes, names)
    _measured(axes, table.columns[value])


def _labelled(axes: Axes, names: Sequence[str]) -> None:
    step = max(1, -(-len(names) // 10))
    axes.set_xticks(range(0, len(names), step), names[::step])


def _measured(axes: Axes, column: str) -> None:
    from matplotlib.ticker import FuncFormatter, MaxNLocator

    axes.yaxis.set_major_locator(MaxNLocator(4, integer=True))
    axes.yaxis.set_major_formatter(FuncFormatter(lambda number, _: cell_text(column, int(number))))
    axes.grid(axis="y", alpha=0.2)


def _treemap(axes: Axes, table: ReportTable, value: int) -> None:
    from matplotlib.patches import Rectangle

    axes.set_axis_off()
    axes.set_xlim(0, 100)
    axes.set_ylim(0, 60)
    groups: dict[str, list[tuple[str, float]]] = {}
    for row in table.rows:
        groups.setdefault(str(row[0]), []).append((_name(row[1]), float(row[value])))
    ordered = sorted(groups.items(), key=lambda pair: -sum(size for _, size in pair[1]))
    outer = boxes([sum(size for _, size in parts) for _, parts in ordered], Box(0, 0, 100, 60))
    for place, ((group, parts), box) in enumerate(zip(ordered, outer, strict=True)):
        colour = COLOURS[place] if place < len(COLOURS) else _OTHER
        ink = "#ffffff" if _brightness(colour) < _ON_LIGHT else "#1c2226"
        small = parts[: _PARTS - 1] + (
            [("others", sum(s for _, s in parts[_PARTS - 1 :]))] if len(parts) >= _PARTS else []
        )
        for (name, size), part in zip(small, boxes([size for _, size in small], box), strict=True):
            axes.add_patch(Rectangle(part[:2], part.width, part.height, facecolor=colour, edgecolor="white", lw=0.8))
            said = f"{name}\n{cell_text('size', int(size))}"
            if part.width > 1.2 * max(map(len, said.split("\n"))) and part.height > 6.5:
                axes.text(
                    part.x + 0.8, part.y + part.height - 0.8, said, va="top", fontsize=7.5, color=ink, clip_on=True
                )
        axes.add_patch(Rectangle(box[:2], box.width, box.height, fill=False, edgecolor="white", lw=3))
        axes.add_patch(Rectangle((0, 0), 0, 0, facecolor=colour, label=_name(group)))
    axes.legend(frameon=False, fontsize=9, loc="upper left", bbox_to_anchor=(0, 0), ncols=5)


def _brightness(colour: str) -> float:
    """Return how bright a colour is, from 0 to 1."""
    red, green, blue = (int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5))
    return 0.3 * red + 0.59 * green + 0.11 * blue


def _rows_high(most: int, by: Callable[[ReportTable], int]) -> Callable[[ReportTable], float]:
    return lambda table: 0.6 + 0.25 * min(by(table), most)


_FORMS: Mapping[str, tuple[Callable[[Axes, ReportTable, int], None], Callable[[ReportTable], float]]] = {
    "bars": (_bars, _rows_high(_BARS, lambda table: len(table.rows))),
    "columns": (_columns, lambda table: 2.6),
    "stacked": (_stacked, _rows_high(_COLUMNS, lambda table: len({row[0] for row in table.rows}))),
    "treemap": (_treemap, lambda table: 4.0),
    "growth": (_growth, lambda table: 2.6),
}
