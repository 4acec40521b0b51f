"""The pages of a wall of pictures: one file that holds all, or a folder with data and pictures beside the page.

Rows and details are those of `wall`. In a folder they lie in parts, as scripts, since a page that is opened as a file
may read nothing else beside it.
"""

from __future__ import annotations

import json
from base64 import b64encode
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from lazy_magpie.formatting import count_text
from lazy_magpie.report.pages import rendered
from lazy_magpie.report.wall import Row

MOST_IN_ONE = 5_000
"""Items that a single file holds at the most."""
_PART = 1_000
_FIRST = 120
_POLICY = "default-src 'none'; style-src 'unsafe-inline'; script-src 'unsafe-inline'{own}; img-src {own_images}data:"
DATA, DETAILS, PICTURES = "rows/", "details/", "pictures/"
"""The folders beside a page."""


def one_file(title: str, rows: Sequence[Row], details: Sequence[Row], picture: Callable[[str], bytes]) -> str:
    """Return a page with everything in it; `picture` gives the WebP that a row's picture is called by."""
    shown = [
        {**row, "picture": b64encode(picture(str(row["picture"]))).decode()} if row.get("picture") else row
        for row in rows
    ]
    setup = {"part": max(len(rows), 1), "parts": 0, "pictures": "data:image/webp;base64,"}
    policy = _POLICY.format(own="", own_images="")
    return _page(title, len(rows), setup, [shown], [(0, details)], policy=policy)


def write_folder(folder: Path, title: str, rows: Sequence[Row], details: Sequence[Row]) -> None:
    """Write index.html and the data beside it; pictures are put into `PICTURES` by whoever has them."""
    parts = [rows[at : at + _PART] for at in range(0, len(rows), _PART)]
    for name, kind, every in ((DATA, "rows", parts), (DETAILS, "details", None)):
        (folder / name).mkdir()
        for number, part in enumerate(every or [details[at : at + _PART] for at in range(0, len(details), _PART)]):
            given = script_json(part)
            text = f"magpie.rows({given});\n" if kind == "rows" else f"magpie.details({number}, {given});\n"
            (folder / name / f"{number:04}.js").write_text(text, encoding="utf-8")
    first: Sequence[Sequence[Row]] = [rows] if len(rows) <= _FIRST else []
    setup = {
        "part": _PART, "parts": 0 if first else len(parts), "data": DATA, "details": DETAILS, "pictures": PICTURES,
    }  # fmt: skip
    policy = _POLICY.format(own=" 'self' file:", own_images="'self' file: ")
    page = _page(title, len(rows), setup, first, [], policy=policy)
    (folder / "index.html").write_text(page, encoding="utf-8")


def live_page(title: str, count: str, rows: Sequence[Row], details: Sequence[Row], **given: Any) -> str:
    """Return a page of a collection that is looked at while it lives: these rows, and the way to others.

    `given` are what the page's form and its links to other pages show: action, words, sort, sorts, down, pages, said.
    """
    setup = {
        "part": max(len(rows), 1), "parts": 0, "paged": True, "count": count, "pictures": "picture/",
    }  # fmt: skip
    return _page(title, len(rows), setup, [rows], [(0, details)], policy="", **given)


def script_json(value: object) -> str:
    """Return a value as JSON that may stand in a script, also in a page: nothing in it ends the script."""
    text = json.dumps(value, ensure_ascii=False, separators=(",", ":"))
    return text.replace("<", "\\u003c").replace("\u2028", "\\u2028").replace("\u2029", "\\u2029")


def _page(
    title: str,
    count: int,
    setup: dict[str, object],
    rows: Sequence[Sequence[Row]],
    details: Sequence[tuple[int, Sequence[Row]]],
    **given: Any,
) -> str:
    return rendered(
        "wall.html",
        title=title,
        count=count_text(count, "item"),
        setup=setup,
        rows=[part for part in rows if part],
        details=details,
        **given,
    )
