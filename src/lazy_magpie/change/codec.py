"""The records of what is done within a run: its steps, folders, batches, and what became of them.

Those at the ends of a journal, and how any of them is a line, are in `records`. Paths stand in their written form.
Journals of format 1 are read as well (`lazy_magpie.step_codec`).
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any

from lazy_magpie.change.journal_state import DONE, Claim, JournalState, Run, StepResult
from lazy_magpie.change.records import Record, decode_head
from lazy_magpie.errors import MagpieError
from lazy_magpie.model import FileStamp, FolderAttributes, Step
from lazy_magpie.paths import read_back, written
from lazy_magpie.step_codec import FORMAT, details_of, step_from
from lazy_magpie.step_codec.parts import decode_attributes, encode_attributes, stamp_from

# --- what a change writes ---------------------------------------------------------------------------------------------


def run_record(kind: str, at: str, drives: Mapping[str, str] | None) -> Record:
    """Return the record that begins a run."""
    record: Record = {"r": "run", "run": kind, "at": at, "format": FORMAT}
    if drives is not None:
        record["drives"] = {written(folder): drive for folder, drive in drives.items()}
    return record


def step_record(step: Step) -> Record:
    """Return the record of a step, whole."""
    record: Record = {
        "r": "step",
        "k": step.number,
        "do": step.kind.value,
        "from": written(step.source),
        "to": written(step.target),
    }
    if step.item:
        record["item"] = step.item
    if step.stamp:
        record["seen"] = list(step.stamp)
    if details := details_of(step):
        record["data"] = details
    return record


def folders_record(folders: Mapping[str, tuple[int, int]], attributes: Mapping[str, FolderAttributes]) -> Record:
    """Return the record of how folders looked: (mtime, mode) of those touched, the attributes of those dropped."""
    return {
        "r": "folders",
        "were": {written(path): were for path, were in folders.items()},
        "marks": {written(path): encode_attributes(one) for path, one in attributes.items()},
    }


def ready_record(kind: str, steps: int) -> Record:
    """Return the record that the steps of a run are complete."""
    return {"r": "ready", "run": kind, "steps": steps}


def go_record(first: int, last: int) -> Record:
    """Return the record that a batch will now be done."""
    return {"r": "go", "first": first, "last": last}


def placing_record(step: int, made: StepResult) -> Record:
    """Return the record of what a step has made, before it gets its name."""
    return {"r": "placing", "k": step, **encode_result(made)}


def claim_record(path: str, since: int, stamp: FileStamp | None) -> Record:
    """Return the record that a name is claimed, and by what, once that is known."""
    record: Record = {"r": "claim", "at": written(path), "since": since}
    return record if stamp is None else {**record, "seen": list(stamp)}


def was_record(step: int, raw: str | None) -> Record:
    """Return the record of the attribute with a file's tags before a step changes it."""
    return {"r": "was", "k": step, "raw": raw}


def kept_record(path: str, held: str) -> Record:
    """Return the record of what an interrupted step left, and where it is held."""
    return {"r": "kept", "from": written(path), "at": written(held)}


def did_record(done: Iterable[tuple[int, StepResult]], still_open: Iterable[int] = ()) -> Record:
    """Return the record of the steps of a batch that are done, and of those that recovery could not tell."""
    entries: list[object] = []
    for number, result in done:
        entries.append([number, info] if (info := encode_result(result)) else number)
    record: Record = {"r": "did", "done": entries}
    return {**record, "open": opened} if (opened := list(still_open)) else record


# --- results of steps -------------------------------------------------------------------------------------------------


def encode_result(result: StepResult) -> Record:
    """Return what is known of a step that was done, {} where that is nothing."""
    found: Record = {}
    if result.made is not None:
        found["made"] = list(result.made)
    if result.tree is not None:
        found["tree"] = result.tree
    if result.moved is not None:
        found["moved"] = encode_result(result.moved)
    if result.attributes is not None:
        found["marks"] = encode_attributes(result.attributes)
    if result.raw is not None:
        found["raw"] = list(result.raw)
    if result.lost:
        found["lost"] = result.lost
    paths = (("held", result.held), ("from", result.origin), ("away", result.away))
    found |= {key: written(path) for key, path in paths if path}
    return found | {key: 1 for key, flag in (("folder", result.is_folder), ("there", result.was_there)) if flag}


def decode_result(info: Mapping[str, Any]) -> StepResult:
    """Return the result that `encode_result` wrote."""
    if not info:
        return DONE
    raw = info.get("raw")
    return StepResult(
        made=stamp_from(info.get("made")),
        tree=info.get("tree"),
        held=read_back(info.get("held", "")),
        origin=read_back(info.get("from", "")),
        away=read_back(info.get("away", "")),
        moved=decode_result(info["moved"]) if "moved" in info else None,
        is_folder="folder" in info,
        was_there="there" in info,
        attributes=decode_attributes(info["marks"]) if "marks" in info else None,
        raw=None if raw is None else (raw[0], raw[1]),
        lost=str(info.get("lost", "")),
    )


# --- what a reader makes of it ----------------------------------------------------------------------------------------


def decode_step(record: Record) -> Step:
    """Return the step of a record."""
    return step_from(
        record["do"],
        record.get("data", {}),
        number=record["k"],
        source=read_back(record["from"]),
        target=read_back(record["to"]),
        item=record.get("item", 0),
        stamp=stamp_from(record.get("seen")),
    )


def add_record(record: Record, state: JournalState) -> None:
    """Add what a record tells to what is known of a change. Raises MagpieError for one of a newer format."""
    kind = record["r"]
    _begin_lost_run(kind, state)
    if state.head is None and (kind == "change" or record.get("change")):
        state.head = decode_head(record if kind == "change" else record["change"])
    if kind == "run":
        if record.get("format", 1) > FORMAT:
            raise MagpieError(
                f"A change was written by a newer magpie (format {record['format']}, this one knows {FORMAT}); "
                "update magpie."
            )
        drives = record.get("drives")
        known = None if drives is None else {read_back(folder): drive for folder, drive in drives.items()}
        state.runs.append(Run(record["run"], record["at"], known))
    elif state.runs and (add := _ADD.get(kind)):
        add(record, state.runs[-1])
        if record.get("looked"):
            state.damaged = ""


def _begin_lost_run(kind: str, state: JournalState) -> None:
    """Begin a run whose first record is damaged where another one of it is met; `ready` says which it was."""
    if state.damaged and kind in ("step", "folders") and (not state.runs or state.runs[-1].ready):
        state.runs.append(Run("", ""))


def _add_step(record: Record, run: Run) -> None:
    run.steps[record["k"]] = decode_step(record)


def _add_folders(record: Record, run: Run) -> None:
    run.folders = {read_back(path): (were[0], were[1]) for path, were in record["were"].items()}
    run.attributes = {read_back(path): decode_attributes(one) for path, one in record.get("marks", {}).items()}


def _add_ready(record: Record, run: Run) -> None:
    run.ready = True
    run.kind = run.kind or str(record.get("run", ""))


def _add_go(record: Record, run: Run) -> None:
    run.begun = {k for k in range(record["first"], record["last"] + 1) if k in run.steps}


def _add_claim(record: Record, run: Run) -> None:
    run.claims[read_back(record["at"])] = Claim(record["since"], stamp_from(record.get("seen")))


def _add_was(record: Record, run: Run) -> None:
    run.was[record["k"]] = record["raw"]


def _add_placing(record: Record, run: Run) -> None:
    run.placing[int(record["k"])] = decode_result(record)


def _add_kept(record: Record, run: Run) -> None:
    run.kept.append((read_back(record["from"]), read_back(record["at"])))


def _add_did(record: Record, run: Run) -> None:
    for entry in record["done"]:
        number, info = (entry, {}) if isinstance(entry, int) else entry
        run.done[number] = decode_result(info)
    run.begun = set(record.get("open", ()))
    run.claims.clear()  # what a batch claimed is taken by its end


def _add_end(record: Record, run: Run) -> None:
    run.state = str(record.get("state", ""))
    run.after = {read_back(path): mtime for path, mtime in record.get("after", {}).items()}


_ADD: Mapping[str, Callable[[Record, Run], None]] = {
    "step": _add_step,
    "folders": _add_folders,
    "ready": _add_ready,
    "go": _add_go,
    "claim": _add_claim,
    "was": _add_was,
    "kept": _add_kept,
    "placing": _add_placing,
    "did": _add_did,
    "end": _add_end,
}
