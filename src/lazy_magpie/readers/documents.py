"""Facts of documents: PDF (ISO 32000, through pypdf), EPUB 2 and 3, and plain text.

| fact | what it is |
|---|---|
| pages | of a PDF |
| title, author | of a PDF, if its information says so; of an EPUB, of its package document |
| created | the day on which a PDF was made, if its information says so |
| width, height | of a drawing that is a PDF: its first page's box in points, 1/72 inch |
| encrypted | true where a PDF needs a password |
| lines | of a text |
"""

from __future__ import annotations

from contextlib import suppress

from lazy_magpie.model import Value

ENDINGS = frozenset(".pdf .txt .md .csv .htm .html .epub".split())
_LARGEST = 32 << 20
_LONGEST = 500


def read(path: str) -> dict[str, Value]:
    """Return the facts of the document at `path`; raises what pypdf does for a PDF that it can't read."""
    low = path.lower()
    return pdf_facts(path) if low.endswith(".pdf") else _epub(path) if low.endswith(".epub") else _text(path)


def pdf_facts(path: str, *, sizes: bool = False) -> dict[str, Value]:
    """Return what a PDF says of itself, with the size of its first page where that is asked for; raises as `read`."""
    import logging

    from pypdf import PdfReader

    logging.getLogger("pypdf").setLevel(logging.CRITICAL)
    reader = PdfReader(path)
    if reader.is_encrypted:
        return {"encrypted": True}
    facts: dict[str, Value] = {"pages": len(reader.pages)}
    if sizes and reader.pages:
        box = reader.pages[0].mediabox
        facts |= {"width": round(float(box.width)), "height": round(float(box.height))}
    if about := reader.metadata:
        said = {"title": about.title, "author": about.author}
        facts |= {fact: text for fact, value in said.items() if (text := str(value or "").strip()[:_LONGEST])}
        with suppress(ValueError, TypeError):  # a date that is none
            if made := about.creation_date:
                facts["created"] = made.date().isoformat()
    return facts


def _epub(path: str) -> dict[str, Value]:
    """Read what the package document says; how large that is, is bounded before it is unpacked."""
    import zipfile

    from defusedxml.ElementTree import fromstring

    with zipfile.ZipFile(path) as packed:

        def part(name: str) -> bytes:
            if packed.getinfo(name).file_size > _LARGEST:
                raise ValueError(f"{name} in it is too large to be read")
            return packed.read(name)

        container = fromstring(part("META-INF/container.xml"))
        package = next(one.get("full-path", "") for one in container.iter() if one.tag.endswith("}rootfile"))
        said: dict[str, list[str]] = {"title": [], "creator": []}
        for element in fromstring(part(package)).iter():
            name = element.tag.rpartition("}")[2]
            if (
                element.tag.startswith(DUBLIN_CORE)
                and name in said
                and (text := " ".join((element.text or "").split()))
            ):
                said[name].append(text[:_LONGEST])
    facts: dict[str, Value] = {"title": said["title"][0]} if said["title"] else {}
    return facts | ({"author": ", ".join(said["creator"])[:_LONGEST]} if said["creator"] else {})


DUBLIN_CORE = "{http://purl.org/dc/elements/1.1/}"
"""The namespace of the elements that packages and packets of metadata say titles and authors by."""


def _text(path: str) -> dict[str, Value]:
    with open(path, "rb") as file:
        data = file.read(_LARGEST)
    return {"lines": data.count(b"\n") + (not data.endswith(b"\n") and bool(data))}
