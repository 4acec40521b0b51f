"""Tables as OpenDocument spreadsheets (ISO/IEC 26300), written row by row: any number of them takes little memory."""

from __future__ import annotations

import re
import zipfile
from collections.abc import Iterable, Iterator, Sequence

from lazy_magpie.xml_text import escaped

_TYPE = "application/vnd.oasis.opendocument.spreadsheet"
_SPACES = re.compile("^ |  +|[\t\n\r]")
_NAMES = "urn:oasis:names:tc:opendocument:xmlns:"
_SPACES_OF_NAMES = " ".join(
    f'xmlns:{name}="{_NAMES}{rest}"'
    for name, rest in (
        ("office", "office:1.0"),
        ("table", "table:1.0"),
        ("text", "text:1.0"),
        ("style", "style:1.0"),
        ("fo", "xsl-fo-compatible:1.0"),
        ("manifest", "manifest:1.0"),
    )
)
_MANIFEST = f"""\
<?xml version="1.0" encoding="UTF-8"?>
<manifest:manifest {_SPACES_OF_NAMES} manifest:version="1.3">
<manifest:file-entry manifest:full-path="/" manifest:version="1.3" manifest:media-type="{_TYPE}"/>
<manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/>
</manifest:manifest>
"""
_HEAD = f"""\
<?xml version="1.0" encoding="UTF-8"?>
<office:document-content {_SPACES_OF_NAMES} office:version="1.3">
<office:automatic-styles><style:style style:name="head" style:family="table-cell">\
<style:text-properties fo:font-weight="bold"/></style:style></office:automatic-styles>
<office:body><office:spreadsheet><table:table table:name="{{name}}">
"""
_FOOT = "</table:table></office:spreadsheet></office:body></office:document-content>\n"
Cell = str | int | float | None


def write(path: str, name: str, columns: Sequence[str], rows: Iterable[Sequence[Cell]]) -> None:
    """Write a table called `name` to a new file. Raises FileExistsError."""
    with open(path, "xb") as file, zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr(zipfile.ZipInfo("mimetype"), _TYPE, zipfile.ZIP_STORED)  # first, and as it is
        packed.writestr("META-INF/manifest.xml", _MANIFEST)
        with packed.open("content.xml", "w", force_zip64=True) as content:
            for piece in _content(name, columns, rows):
                content.write(piece.encode())


def _content(name: str, columns: Sequence[str], rows: Iterable[Sequence[Cell]]) -> Iterator[str]:
    yield _HEAD.format(name=escaped(name, "�"))
    yield f'<table:table-column table:number-columns-repeated="{len(columns)}"/>\n<table:table-header-rows>'
    yield _row(columns, ' table:style-name="head"')
    yield "</table:table-header-rows>\n"
    for row in rows:
        yield _row(row)
    yield _FOOT


def _row(row: Sequence[Cell], style: str = "") -> str:
    return f"<table:table-row>{''.join(_cell(cell, style) for cell in row)}</table:table-row>\n"


def _cell(cell: Cell, style: str) -> str:
    """Return a cell: a number is a number, and a text is a text whatever it looks like."""
    if cell is None or cell == "":
        return "<table:table-cell/>"
    if isinstance(cell, str):
        return f'<table:table-cell{style} office:value-type="string"><text:p>{_text(cell)}</text:p></table:table-cell>'
    return (
        f'<table:table-cell office:value-type="float" office:value="{cell}"><text:p>{cell}</text:p></table:table-cell>'
    )


def _text(text: str) -> str:
    """Return a text with the spaces, tabs and line breaks that it has, which are elements of their own."""
    clean = escaped(text, "�")
    return _SPACES.sub(lambda found: _SPACE.get(found[0], f'<text:s text:c="{len(found[0])}"/>'), clean)


_SPACE = {"\t": "<text:tab/>", "\n": "<text:line-break/>", "\r": "<text:line-break/>"}
