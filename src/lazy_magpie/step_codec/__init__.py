"""Steps as JSON, for journals and kept plans: the one place that knows how a step is written.

Paths stand in their written form. What a step has besides its number, kind, paths, item and stamp is its *details*, an
object with the keys below; journals and plans of format 1 wrote some of them otherwise, and are read as well.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from lazy_magpie.model import FileStamp, Step, StepKind
from lazy_magpie.model.sends import Extract, Retract, Send
from lazy_magpie.model.steps import (
    Convert,
    Copy,
    DropFolder,
    DropLink,
    FreePlace,
    Hardlink,
    Hold,
    LeaveFindings,
    MakeFolder,
    Move,
    Pack,
    Replace,
    Restore,
    RewriteKeywords,
    RewriteTags,
    RewriteText,
    SetField,
    SetTags,
    Settle,
    SettleFolder,
    Softlink,
    TextEdit,
    Unpack,
    Write,
)
from lazy_magpie.paths import read_back, written
from lazy_magpie.proof_codec import decode_proof, encode_proof, first_proofs
from lazy_magpie.step_codec.parts import (
    Details,
    decode_answer,
    decode_attributes,
    decode_converter,
    decode_filing,
    decode_member,
    decode_part,
    decode_seen,
    encode_answer,
    encode_attributes,
    encode_converter,
    encode_filing,
    encode_member,
    encode_part,
    encode_seen,
    stamp_from,
)

FORMAT = 2
"""The format that is written; 1 had the proofs of a held file in keys of their own, and a bundle as an item below 0."""
_KINDS = {kind.value: kind for kind in StepKind}


def details_of(step: Step) -> Details:
    """Return what a step has besides what all steps have, as JSON values."""
    details: Details = {}
    if step.bundle:
        details["bundle"] = step.bundle
    if step.turns:
        details["of"] = step.turns
    if encode := _ENCODERS.get(type(step)):
        details |= encode(step)
    return details


def step_from(
    kind: str,
    details: Mapping[str, Any],
    *,
    number: int,
    source: str,
    target: str,
    why: str = "",
    group: str = "",
    item: int = 0,
    stamp: FileStamp | None = None,
) -> Step:
    """Return the step that was written so, in any format; raises KeyError or ValueError for what is none."""
    step_type, more = _DECODERS[_KINDS[kind]](details) if details or kind in _NEEDING else (_PLAIN[_KINDS[kind]], {})
    bundle = int(details.get("bundle", 0)) if details else 0
    if item < 0:  # format 1
        bundle, item = -item, 0
    return step_type(
        number=number,
        source=source,
        target=target,
        why=why,
        group=group,
        item=item,
        bundle=bundle,
        stamp=stamp,
        turns=int(details.get("of", 0)) if details else 0,
        **more,
    )


def _encode_hold(step: Hold) -> Details:
    found: Details = {}
    if step.proofs:
        found["proofs"] = [encode_proof(proof) for proof in step.proofs]
    if step.needs:
        found["needs"] = encode_seen(step.needs)
    return found if step.tree is None else {**found, "tree": step.tree}


def _decode_hold(details: Mapping[str, Any]) -> tuple[type[Step], Details]:
    proofs = map(decode_proof, details["proofs"]) if "proofs" in details else first_proofs(details)
    needs = decode_seen(details.get("needs", ()))
    return Hold, {"proofs": tuple(proofs), "needs": needs, "tree": details.get("tree")}


def _encode_drop_link(step: DropLink) -> Details:
    found: Details = {"file": written(step.file)}
    return found if step.text is None else {**found, "text": step.text}


def _decode_drop(details: Mapping[str, Any]) -> tuple[type[Step], Details]:
    if "file" in details:
        return DropLink, {"file": read_back(details["file"]), "text": details.get("text")}
    if "link" in details:  # format 1
        return DropLink, {"file": details["link"], "text": details.get("text")}
    return DropFolder, {}


def _encode_text(step: RewriteText) -> Details:
    edits = [[one.start, one.old, one.new, written(one.needs)] for one in step.edits]
    return {"text": step.text, **({"edits": edits} if edits else {})}


def _decode_replace(details: Mapping[str, Any]) -> tuple[type[Step], Details]:
    if "text" in details:
        edits = tuple(
            TextEdit(start, old, new, read_back(needs)) for start, old, new, needs in details.get("edits", ())
        )
        return RewriteText, {"text": str(details["text"]), "edits": edits}
    if "tags" in details:
        return RewriteTags, {"tags": dict(details["tags"]), "cover": read_back(details.get("cover", ""))}
    if "new" in details:
        return RewriteKeywords, {"old": tuple(details.get("old") or ()), "new": tuple(details["new"] or ())}
    return Replace, {}


def _encode_unpack(step: Unpack) -> Details:
    found: Details = {}
    if step.parts:
        found["parts"] = [encode_part(part) for part in step.parts]
        found |= {"bytes": step.bytes, "outside": step.outside}
    return found | encode_filing(step.filing)


def _decode_unpack(details: Mapping[str, Any]) -> tuple[type[Step], Details]:
    if "member" in details:
        return Extract, {"member": read_back(details["member"])}
    return Unpack, {
        "parts": tuple(map(decode_part, details.get("parts", ()))),
        "bytes": int(details.get("bytes", 0)),
        "outside": bool(details.get("outside", False)),
        "filing": decode_filing(details),
    }


def _encode_tags(step: SetTags) -> Details:
    found: Details = {"old": list(step.old), "new": list(step.new)}
    if step.untouched:
        found["untouched"] = 1
    return found if step.raw is None else {**found, "raw": list(step.raw)}


def _decode_tag(details: Mapping[str, Any]) -> tuple[type[Step], Details]:
    if "field" in details:
        return SetField, {key: details.get(key) for key in ("field", "old", "new")}
    raw = details.get("raw")
    return SetTags, {
        "old": tuple(details.get("old") or ()),
        "new": tuple(details.get("new") or ()),
        "untouched": "untouched" in details,
        "raw": None if raw is None else (raw[0], raw[1]),
    }


def whole_step(step: Step) -> Details:
    """Return a step as an object of its own, as it stands in another one."""
    found: Details = {"do": step.kind.value, "from": written(step.source), "to": written(step.target)}
    if step.stamp:
        found["seen"] = list(step.stamp)
    return {**found, "details": details_of(step)}


def step_from_whole(record: Mapping[str, Any]) -> Step:
    """Return the step that `whole_step` wrote."""
    source, target, stamp = read_back(record["from"]), read_back(record["to"]), stamp_from(record.get("seen"))
    return step_from(record["do"], record["details"], number=0, source=source, target=target, stamp=stamp)


def _encode_restore(step: Restore) -> Details:
    found: Details = {"instead": written(step.instead), "made": list(step.made)}
    for key, path in (("to", step.to), ("link", step.link)):
        if path:
            found[key] = written(path)
    if step.loose:
        found["loose"] = 1
    return found if step.tree is None else {**found, "tree": step.tree}


def _decode_restore(details: Mapping[str, Any]) -> tuple[type[Step], Details]:
    return Restore, {
        "instead": read_back(details["instead"]),
        "made": FileStamp(*details["made"]),
        "to": read_back(details.get("to", "")),
        "link": read_back(details.get("link", "")),
        "loose": "loose" in details,
        "tree": details.get("tree"),
    }


def _decode_settle(details: Mapping[str, Any]) -> tuple[type[Step], Details]:
    if "new_role" in details:
        roles = {"old": str(details["old_role"]), "new": str(details["new_role"])}
        return SettleFolder, {"root": str(details["root"]), **roles}
    if "new_rules" in details:
        return LeaveFindings, {key: tuple(map(str, details[f"{key}_rules"])) for key in ("old", "new")}
    if "kept_by_hand" in details:
        return FreePlace, {"kept": bool(details["kept_by_hand"])}
    return Settle, {key: decode_answer(details.get(key)) for key in ("old", "new")}


def _decode_send(details: Mapping[str, Any]) -> tuple[type[Step], Details]:
    return Send, {"by": step_from_whole(details["by"]), "key": read_back(details.get("key", ""))}


_ENCODERS: Mapping[type[Step], Callable[[Any], Details]] = {
    Move: lambda step: encode_filing(step.filing),
    Copy: lambda step: ({"outside": True} if step.outside else {}) | encode_filing(step.filing),
    Hardlink: lambda step: {"instead_of": list(step.replaces)} if step.replaces else {},
    Softlink: lambda step: {"text": step.text},
    MakeFolder: lambda step: {"marks": encode_attributes(step.attributes)} if step.attributes else {},
    DropLink: _encode_drop_link,
    Write: lambda step: {"text": step.text},
    RewriteText: _encode_text,
    RewriteKeywords: lambda step: {"old": list(step.old), "new": list(step.new)},
    RewriteTags: lambda step: {"tags": dict(step.tags), **({"cover": written(step.cover)} if step.cover else {})},
    Unpack: _encode_unpack,
    Hold: _encode_hold,
    SetTags: _encode_tags,
    SetField: lambda step: {"field": step.field, "old": step.old, "new": step.new},
    Settle: lambda step: {"old": encode_answer(step.old), "new": encode_answer(step.new)},
    SettleFolder: lambda step: {"root": step.root, "old_role": step.old, "new_role": step.new},
    LeaveFindings: lambda step: {"old_rules": list(step.old), "new_rules": list(step.new)},
    FreePlace: lambda step: {"kept_by_hand": step.kept},
    Pack: lambda step: {
        "members": [encode_member(one) for one in step.members],
        "store": step.store,
        **({"outside": True} if step.outside else {}),
    },
    Convert: lambda step: {"inputs": encode_seen(step.inputs), "by": encode_converter(step.by)},
    Restore: _encode_restore,
    Extract: lambda step: {"member": written(step.member)},
    Send: lambda step: {"by": whole_step(step.by), "key": written(step.key)},
    Retract: lambda step: {"again": whole_step(step.again)},
}
_DECODERS: Mapping[StepKind, Callable[[Mapping[str, Any]], tuple[type[Step], Details]]] = {
    StepKind.MOVE: lambda details: (Move, {"filing": decode_filing(details)}),
    StepKind.COPY: lambda details: (
        Copy,
        {"outside": bool(details.get("outside", False)), "filing": decode_filing(details)},
    ),
    StepKind.HARDLINK: lambda details: (Hardlink, {"replaces": stamp_from(details.get("instead_of"))}),
    StepKind.SOFTLINK: lambda details: (Softlink, {"text": str(details["text"])}),
    StepKind.MAKE: lambda details: (
        MakeFolder,
        {"attributes": decode_attributes(details["marks"]) if details.get("marks") else None},
    ),
    StepKind.DROP: _decode_drop,
    StepKind.WRITE: lambda details: (Write, {"text": str(details["text"])}),
    StepKind.REPLACE: _decode_replace,
    StepKind.UNPACK: _decode_unpack,
    StepKind.HOLD: _decode_hold,
    StepKind.TAG: _decode_tag,
    StepKind.SETTLE: _decode_settle,
    StepKind.RESTORE: _decode_restore,
    StepKind.SEND: _decode_send,
    StepKind.RETRACT: lambda details: (Retract, {"again": step_from_whole(details["again"])}),
    StepKind.PACK: lambda details: (
        Pack,
        {
            "members": tuple(map(decode_member, details["members"])),
            "store": bool(details["store"]),
            "outside": bool(details.get("outside", False)),
        },
    ),
    StepKind.CONVERT: lambda details: (
        Convert,
        {"inputs": decode_seen(details["inputs"]), "by": decode_converter(details["by"])},
    ),
}
_PLAIN: Mapping[StepKind, type[Step]] = {
    StepKind.MOVE: Move,
    StepKind.COPY: Copy,
    StepKind.HARDLINK: Hardlink,
    StepKind.MAKE: MakeFolder,
    StepKind.DROP: DropFolder,
    StepKind.REPLACE: Replace,
    StepKind.UNPACK: Unpack,
    StepKind.HOLD: Hold,
}
"""The types of steps that need no details."""
_NEEDING = frozenset(kind.value for kind in StepKind if kind not in _PLAIN)
