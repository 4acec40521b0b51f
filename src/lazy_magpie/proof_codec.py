"""Proofs of steps as JSON, and the layouts of archives in them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from lazy_magpie.model import FileStamp
from lazy_magpie.model.proofs import Alike, Converted, InArchive, Proof, Repacked, SameBytes, Spread, Unpacked
from lazy_magpie.paths import read_back, written


def encode_layout(layout: Mapping[str, str]) -> dict[str, str]:
    """Return where members go, in the written form."""
    together = "".join((*layout, *layout.values()))
    if written(together) == together:
        return dict(layout)
    return {written(member): written(rest) for member, rest in layout.items()}


def decode_layout(layout: Mapping[str, str]) -> dict[str, str]:
    """Return the layout that `encode_layout` wrote."""
    return {read_back(member): read_back(rest) for member, rest in layout.items()}


def encode_proof(proof: Proof) -> dict[str, Any]:
    """Return a proof as an object, whose first key says which it is."""
    match proof:
        case SameBytes(path):
            return {"same": written(path)}
        case Alike(path, stamp):
            return {"alike": written(path), "seen": list(stamp)}
        case Unpacked(folder, layout, names):
            more: dict[str, Any] = {} if layout is None else {"layout": encode_layout(layout)}
            more |= {"names": names} if names else {}
            return {"unpacked": written(folder), **more}
        case Repacked(archive):
            return {"repacked": written(archive)}
        case InArchive(archive, member):
            return {"in_archive": written(archive), "member": written(member)}
        case Spread(places):
            return {"spread": [[written(name) for name in (member, *place)] for member, place in places.items()]}
        case Converted(path):
            return {"converted": written(path)}


def decode_proof(proof: Mapping[str, Any]) -> Proof:
    """Return the proof that `encode_proof` wrote."""
    if "same" in proof:
        return SameBytes(read_back(proof["same"]))
    if "alike" in proof:
        return Alike(read_back(proof["alike"]), FileStamp(*proof["seen"]))
    if "unpacked" in proof:
        layout = proof.get("layout")
        where = read_back(proof["unpacked"])
        return Unpacked(where, None if layout is None else decode_layout(layout), str(proof.get("names", "")))
    if "in_archive" in proof:
        return InArchive(read_back(proof["in_archive"]), read_back(proof["member"]))
    if "spread" in proof:
        rows = ([read_back(name) for name in row] for row in proof["spread"])
        return Spread({member: (path, inside) for member, path, inside in rows})
    if "converted" in proof:
        return Converted(read_back(proof["converted"]))
    return Repacked(read_back(proof["repacked"]))


def first_proofs(details: Mapping[str, Any]) -> Iterator[Proof]:
    """Yield the proofs as format 1 had them: their paths were not written in the written form."""
    if keeper := details.get("keeps"):
        yield SameBytes(keeper)
    for keeper, *stamp in details.get("like", ()):
        yield Alike(keeper, FileStamp(*stamp))
    if (folder := details.get("unpacked")) is not None:
        layout = details.get("layout")
        yield Unpacked(folder, None if layout is None else decode_layout(layout))
    if archive := details.get("repacked"):
        yield Repacked(archive)
