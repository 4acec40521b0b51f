"""Faces that call themselves families: "Gullwick Sans Semibold", style Regular, beside "Gullwick Sans".

Many programs know no more than four faces of a family, so fonts made for them, web forms above all, carry weight and
width in the family's name. Where the family itself is there, they are faces of it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from lazy_magpie.identify.fonts import REGULAR, STYLES
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Evidence, Identity, Kind
from lazy_magpie.scan.identified_file import IdentifiedFile


def joined(files: Sequence[IdentifiedFile]) -> Sequence[IdentifiedFile]:
    """Return the files, each font that is named after a face of a family with that family, and its style whole."""
    families = {str(file.identity.fields.get("family", "")) for file in files if file.identity.kind is Kind.FONT} - {""}
    if len(families) < 2:
        return files
    bases = dict(_bases(families))
    return [_renamed(file, bases) if file.identity.kind is Kind.FONT else file for file in files] if bases else files


def _bases(families: Iterable[str]) -> Iterable[tuple[str, str]]:
    """Yield each family that is a face of another one, and that one, as it is written."""
    by_key = {match_key(family): family for family in families}
    for family in by_key.values():
        words = family.split()
        while len(words) > 1 and words[-1].lower().replace("-", "") in STYLES:
            words.pop()
            if base := by_key.get(match_key(" ".join(words))):
                yield family, base
                break


def _renamed(file: IdentifiedFile, bases: Mapping[str, str]) -> IdentifiedFile:
    fields, family = file.identity.fields, str(file.identity.fields.get("family", ""))
    if family not in bases or "glyph" in fields:
        return file
    base, style = bases[family], str(fields.get("style", ""))
    face = " ".join(family.split()[len(base.split()) :])
    known = {match_key(word) for word in face.split()} | REGULAR
    whole = " ".join([face, *(word for word in style.split() if match_key(word) not in known)])
    identity: Identity = replace(
        file.identity,
        fields={**fields, "family": base, "style": whole},
        why=(*file.identity.why, Evidence("family", base, "siblings", family)),
    )
    return file._replace(identity=identity)
