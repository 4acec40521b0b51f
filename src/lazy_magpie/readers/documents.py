"""Facts of documents: PDF (ISO 32000, through pypdf) and plain text.

| fact | what it is |
|---|---|
| pages | of a PDF |
| title, author | of a PDF, if its information says so |
| created | the day on which a PDF was made, if its information says so |
| encrypted | true where a PDF needs a password |
| lines | of a text |
"""

from __future__ import annotations

from contextlib import suppress

from lazy_magpie.model import Value

ENDINGS = frozenset(".pdf .txt .md .csv .htm .html".split())
_LARGEST = 32 << 20
_LONGEST = 500


def read(path: str) -> dict[str, Value]:
    """Return the facts of the document at `path`; raises what pypdf does for a PDF that it can't read."""
    return _pdf(path) if path.lower().endswith(".pdf") else _text(path)


def _pdf(path: str) -> dict[str, Value]:
    import logging

    from pypdf import PdfReader

    logging.getLogger("pypdf").setLevel(logging.CRITICAL)
    reader = PdfReader(path)
    if reader.is_encrypted:
        return {"encrypted": True}
    facts: dict[str, Value] = {"pages": len(reader.pages)}
    if about := reader.metadata:
        said = {"title": about.title, "author": about.author}
        facts |= {fact: text for fact, value in said.items() if (text := str(value or "").strip()[:_LONGEST])}
        with suppress(ValueError, TypeError):  # a date that is none
            if made := about.creation_date:
                facts["created"] = made.date().isoformat()
    return facts


def _text(path: str) -> dict[str, Value]:
    with open(path, "rb") as file:
        data = file.read(_LARGEST)
    return {"lines": data.count(b"\n") + (not data.endswith(b"\n") and bool(data))}
