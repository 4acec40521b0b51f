"""Plans kept in the catalogue until they are applied or dropped."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING, NamedTuple

from lazy_magpie.formatting import now_text
from lazy_magpie.model import FileStamp
from lazy_magpie.paths import read_back, written
from lazy_magpie.plain_json import json_text

if TYPE_CHECKING:  # who opens a catalogue needs no plan yet
    from lazy_magpie.model import Plan, Step


class SavedPlan(NamedTuple):
    """What a list of plans shows of one.

    `made` is ISO 8601, UTC; `state` is kept (it is pending), applied, dropped, or replaced by a newer one of its
    command. `since` is the newest change when it was made, None where that is not known.
    """

    number: int
    made: str
    command: str
    state: str
    steps: int
    since: int | None = None


class Plans:
    """The tables `plan`, `plan_step` and `plan_note`."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def keep(self, plan: Plan, since: int) -> int:
        """Store a plan and return its number; it takes the place of pending ones of its command.

        `since` is the newest change that there is.
        """
        from lazy_magpie.step_codec import details_of

        with self.db:
            self.db.execute("UPDATE plan SET state = 'replaced' WHERE state = 'kept' AND command = ?", (plan.command,))
            cursor = self.db.execute(
                "INSERT INTO plan (made, command, state, steps, passed, drives, since) "
                "VALUES (?, ?, 'kept', ?, ?, ?, ?)",
                (
                    now_text("microseconds"),
                    plan.command,
                    len(plan.steps),
                    json.dumps(dict(plan.passed)),
                    _drives_text(plan),
                    since,
                ),
            )
            number = int(cursor.lastrowid or 0)
            self.db.executemany(
                "INSERT INTO plan_step VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                ((number, *_step_row(step, details_of(step))) for step in plan.steps),
            )
            self.db.executemany("INSERT INTO plan_note VALUES (?, ?, ?, ?, ?, ?)", _note_rows(number, plan))
        return number

    def list(self, state: str = "kept") -> list[SavedPlan]:
        """Return the plans in a state, the newest last."""
        rows = self.db.execute(
            "SELECT number, made, command, state, steps, since FROM plan WHERE state = ? ORDER BY number", (state,)
        )
        return [SavedPlan(*row) for row in rows]

    def get(self, number: int) -> SavedPlan | None:
        """Return what is known of plan `number`, None where there is none."""
        row = self.db.execute(
            "SELECT number, made, command, state, steps, since FROM plan WHERE number = ?", (number,)
        ).fetchone()
        return SavedPlan(*row) if row else None

    def replaced_by(self, plan: SavedPlan) -> int:
        """Return the plan that took the place of one."""
        row = self.db.execute(
            "SELECT min(number) FROM plan WHERE number > ? AND command = ?", (plan.number, plan.command)
        ).fetchone()
        return int(row[0] or 0)

    def renew(self, number: int, since: int) -> None:
        """Say that a plan still holds after a change: the rest of one that was applied in part."""
        with self.db:
            self.db.execute(
                "UPDATE plan SET made = ?, since = ? WHERE number = ?", (now_text("microseconds"), since, number)
            )

    def load(self, number: int) -> Plan:
        """Return plan `number` whole."""
        from lazy_magpie.model import Conflict, Plan, Unmoved

        row = self.db.execute("SELECT command, passed, drives FROM plan WHERE number = ?", (number,)).fetchone()
        command, passed, drives = row
        notes = self.db.execute(
            "SELECT sort, path, items, why FROM plan_note WHERE plan = ? ORDER BY note", (number,)
        ).fetchall()
        return Plan(
            command=command,
            steps=tuple(self.steps(number)),
            conflicts=tuple(
                Conflict(read_back(path), tuple(map(read_back, json.loads(items))), why)
                for sort, path, items, why in notes
                if sort == "conflict"
            ),
            unmoved=tuple(
                Unmoved(read_back(path), why, sort == "asks") for sort, path, _, why in notes if sort != "conflict"
            ),
            passed=json.loads(passed),
            number=number,
            drives=None if drives is None else {read_back(at): id for at, id in json.loads(drives).items()},
            read_back=command == "tidy",
        )

    def steps(self, number: int) -> Iterator[Step]:
        """Yield the steps of plan `number` in order."""
        from lazy_magpie.step_codec import step_from

        rows = self.db.execute(
            "SELECT step, sort, source, target, why, gathered, item, size, mtime, inode, data FROM plan_step "
            "WHERE plan = ? ORDER BY step",
            (number,),
        )
        for step, sort, source, target, why, group, item, size, mtime, inode, data in rows:
            stamp = None if size is None else FileStamp(size, mtime, inode)
            yield step_from(
                sort,
                json.loads(data) if data != "{}" else {},
                number=step,
                source=read_back(source),
                target=read_back(target),
                why=why,
                group=read_back(group),
                item=item,
                stamp=stamp,
            )

    def set_state(self, number: int, state: str) -> None:
        """Say that a plan was applied, dropped or replaced."""
        with self.db:
            self.db.execute("UPDATE plan SET state = ? WHERE number = ?", (state, number))


def _step_row(step: Step, details: Mapping[str, object]) -> tuple[object, ...]:
    stamp = step.stamp or (None, None, None)
    return (
        step.number,
        step.kind.value,
        written(step.source),
        written(step.target),
        step.why,
        written(step.group),
        step.item,
        *stamp,
        json.dumps(details),
    )


def _note_rows(number: int, plan: Plan) -> Iterator[tuple[object, ...]]:
    note = 0
    for conflict in plan.conflicts:
        items = json_text([written(item) for item in conflict.items])
        yield number, note, "conflict", written(conflict.target), items, conflict.why
        note += 1
    for left in plan.unmoved:
        yield number, note, "asks" if left.asks else "left", written(left.path), "[]", left.why
        note += 1


def _drives_text(plan: Plan) -> str | None:
    return None if plan.drives is None else json.dumps({written(at): id for at, id in plan.drives.items()})
