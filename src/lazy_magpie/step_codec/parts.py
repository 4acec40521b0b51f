"""Parts of steps as JSON: stamps, answers, attributes, filing rules, archives to unpack, files to pack, converters."""

from __future__ import annotations

import base64
from collections.abc import Iterable, Mapping
from typing import Any

from lazy_magpie.model import Answer, FileStamp, FolderAttributes, Kind, PathStamp
from lazy_magpie.model.converter import Converter
from lazy_magpie.model.steps import ArchivePart, FilingRule, FolderValues, PackMember
from lazy_magpie.paths import read_back, written
from lazy_magpie.proof_codec import decode_layout, encode_layout

Details = dict[str, Any]


def stamp_from(values: Iterable[int] | None) -> FileStamp | None:
    """Return the stamp of a JSON list of size, mtime and inode, None for None."""
    return None if values is None else FileStamp(*values)


def encode_answer(answer: Answer | None) -> Details | None:
    """Return an answer as an object of kind, fields and by whom; None for none."""
    return {"kind": answer.kind.value, "fields": dict(answer.fields), "by": answer.by} if answer else None


def decode_answer(record: Mapping[str, Any] | None) -> Answer | None:
    """Return the answer that `encode_answer` wrote."""
    return Answer(Kind(record["kind"]), record["fields"], str(record["by"])) if record else None


def encode_attributes(attributes: FolderAttributes) -> Details:
    """Return the attributes of a folder: mode, owner, mtime, xattrs in base64."""
    found: Details = {"mode": attributes.mode, "mtime": attributes.mtime}
    if attributes.owner:
        found["owner"] = list(attributes.owner)
    if attributes.xattrs:
        found["xattrs"] = {name: base64.b64encode(value).decode() for name, value in attributes.xattrs.items()}
    return {key: value for key, value in found.items() if value is not None}


def decode_attributes(record: Mapping[str, Any]) -> FolderAttributes:
    """Return the attributes that `encode_attributes` wrote."""
    owner = record.get("owner")
    xattrs = {name: base64.b64decode(value) for name, value in record.get("xattrs", {}).items()}
    return FolderAttributes(record.get("mode"), (owner[0], owner[1]) if owner else None, record.get("mtime"), xattrs)


def encode_values(values: FolderValues) -> Details:
    """Return the values of a thing's folder."""
    found: Details = {
        "maker": values.maker,
        "title": values.title,
        "arrived": values.arrived,
        "number": values.number,
    }
    return {**found, "marks": dict(values.custom)} if values.custom else found


def decode_values(record: Mapping[str, Any]) -> FolderValues:
    """Return the values that `encode_values` wrote."""
    return FolderValues(
        str(record["maker"]),
        str(record["title"]),
        int(record["arrived"]),
        record.get("number"),
        record.get("marks", {}),
    )


def encode_filing(filing: FilingRule | None) -> Details:
    """Return a filing rule as the key “placed” of details; nothing for none."""
    if filing is None:
        return {}
    placed: Details = {"rule": filing.rule, "kind": filing.kind}
    if filing.home:
        placed["home"] = written(filing.home)
        placed["thing"] = encode_values(filing.values) if filing.values else {}
    return {"placed": placed}


def decode_filing(details: Mapping[str, Any]) -> FilingRule | None:
    """Return the filing rule in details, None where there is none."""
    placed = details.get("placed")
    if placed is None:
        return None
    values = decode_values(placed["thing"]) if placed.get("thing") else None
    return FilingRule(placed["rule"], placed["kind"], read_back(placed.get("home", "")), values)


def encode_seen(seen: Iterable[PathStamp]) -> list[list[object]]:
    """Return paths with how they looked, a list each."""
    return [[written(one.path), *one.stamp] for one in seen]


def decode_seen(rows: Iterable[Any]) -> tuple[PathStamp, ...]:
    """Return what `encode_seen` wrote."""
    return tuple(PathStamp(read_back(path), FileStamp(*stamp)) for path, *stamp in rows)


def encode_part(part: ArchivePart) -> Details:
    """Return an archive to unpack."""
    more: Details = {"volumes": encode_seen(part.volumes)} if part.volumes else {}
    more |= {"names": part.names} if part.names else {}
    archive, layout = written(part.archive), encode_layout(part.layout)
    return {"archive": archive, "seen": list(part.stamp), "layout": layout, "listing": part.listing, **more}


def decode_part(part: Mapping[str, Any]) -> ArchivePart:
    """Return what `encode_part` wrote."""
    return ArchivePart(
        read_back(part["archive"]),
        FileStamp(*part["seen"]),
        decode_layout(part["layout"]),
        str(part.get("listing", "")),
        decode_seen(part.get("volumes", ())),
        str(part.get("names", "")),
    )


def encode_member(member: PackMember) -> list[object]:
    """Return a file to pack: its name, its path, how it looked, and the member of an archive that it is."""
    row: list[object] = [written(member.name), written(member.path), list(member.stamp) if member.stamp else None]
    return [*row, written(member.inside)] if member.inside else row


def decode_member(row: Any) -> PackMember:
    """Return what `encode_member` wrote."""
    name, path, stamp, *inside = row
    return PackMember(read_back(name), read_back(path), stamp_from(stamp), *map(read_back, inside))


def encode_converter(by: Converter) -> Details:
    """Return a converter: its name, its time, its commands."""
    ways = {"command": list(by.command), "back": list(by.back), "check": list(by.check)}
    return {"name": by.name, "seconds": by.seconds, **{key: words for key, words in ways.items() if words}}


def decode_converter(record: Mapping[str, Any]) -> Converter:
    """Return what `encode_converter` wrote."""
    ways = {key: tuple(record.get(key, ())) for key in ("command", "back", "check")}
    return Converter(record["name"], **ways, seconds=int(record["seconds"]))
