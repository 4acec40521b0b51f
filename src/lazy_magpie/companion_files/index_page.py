"""An index of things as a page: what each is, with a link to its file; it needs nothing but a browser."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from html import escape
from itertools import groupby

from lazy_magpie.companion_files.play_list_text import Entry
from lazy_magpie.formatting import duration_text, size_text
from lazy_magpie.labels import label
from lazy_magpie.model import Item
from lazy_magpie.paths import name_of, parent, written
from lazy_magpie.urls import relative_url
from lazy_magpie.xml_text import allowed

_STYLE = """\
:root { color-scheme: light dark; }
body { font: 16px/1.5 system-ui, sans-serif; max-width: 60rem; margin: 2rem auto; padding: 0 1rem; }
h2 { font-size: 1rem; margin: 1.6rem 0 .3rem; }
table { width: 100%; border-collapse: collapse; }
td { padding: .25rem .6rem .25rem 0; border-top: 1px solid #8884; overflow-wrap: anywhere; }
td + td { white-space: nowrap; text-align: right; width: 1%; }
"""


def index_html(title: str, entries: Sequence[Entry], home: str) -> str:
    """Return an index that lies in the folder `home`, by the folders of what it lists."""
    lines = ["<!DOCTYPE html>", '<html lang="en">', "<head>", '<meta charset="utf-8">']
    lines += ['<meta name="viewport" content="width=device-width, initial-scale=1">']
    lines += [f"<title>{_text(title)}</title>", f"<style>\n{_STYLE}</style>", "</head>", "<body>"]
    lines += [f"<h1>{_text(title)}</h1>", f"<p>{len(entries):,} in all.</p>"]
    for folder, some in groupby(entries, key=lambda entry: parent(entry[1])):
        lines += [f"<h2>{_text(written(folder))}</h2>", "<table>"]
        lines += [_row(item, path, home) for item, path in some]
        lines.append("</table>")
    return "\n".join([*lines, "</body>", "</html>", ""])


def _row(item: Item, path: str, home: str) -> str:
    place = relative_url(f"/{path}", f"/{home}")
    facts = "".join(f"<td>{_text(fact)}</td>" for fact in _facts(item, path))
    return f'<tr><td><a href="{place}">{_text(label(item.kind, item.fields) or name_of(path))}</a></td>{facts}</tr>'


def _facts(item: Item, path: str) -> Iterator[str]:
    """Yield length and size, each "" where it is not known."""
    length = item.facts.get("length")
    yield duration_text(length) if isinstance(length, int | float) else ""
    yield size_text(next((file.size for file in item.files if file.path == path), item.size))


def _text(text: str) -> str:
    return escape(allowed(written(text)))
