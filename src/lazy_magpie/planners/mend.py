"""Plans what mends findings of `check`: what tidy files, other names, what is taken away, folders that are empty."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from lazy_magpie.checks import Finding, Mend
from lazy_magpie.config import Config
from lazy_magpie.model import Conflict, Plan, Step
from lazy_magpie.model.steps import DropFolder, Hold, Move, renumbered
from lazy_magpie.paths import join, same_name
from lazy_magpie.planners.by_hand.free_names import FreeNames
from lazy_magpie.planners.directory_index import Listing
from lazy_magpie.planners.directory_steps import drop_emptied
from lazy_magpie.planners.disk_view import DiskView

_ANYTHING = "."
"""What stands for all that an empty folder holds."""


def mend(findings: Iterable[Finding], tidied: Plan, config: Config, disk: DiskView, listing: Listing) -> Plan:
    """Plan all that has a remedy: `tidied` is what tidy does for the findings that it mends."""
    names = FreeNames(listing)
    busy = {same_name(path) for step in tidied.steps for path in (step.source, step.target) if path}
    steps: list[Step] = []
    empty: list[str] = []
    conflicts: list[Conflict] = list(tidied.conflicts)
    for one in findings:
        if one.mend is Mend.DROP:
            empty.append(one.path)
        if one.mend not in (Mend.NAME, Mend.HOLD) or same_name(one.path) in busy:
            continue
        busy.add(same_name(one.path))
        status = disk.status(one.path)
        if status is None or status.is_folder:
            continue
        if one.mend is Mend.HOLD:
            steps.append(Hold(source=one.path, why=one.text, group=one.rule, stamp=status.stamp))
        elif conflict := names.claim(one.to, one.path):
            conflicts.append(conflict)
        else:
            steps.append(Move(source=one.path, target=one.to, why=one.text, group=one.rule, stamp=status.stamp))
    steps += tidied.steps
    steps += _dropped(steps, empty, config, disk)
    return replace(tidied, command="check", steps=renumbered(steps), conflicts=tuple(conflicts), unmoved=())


def _dropped(steps: Iterable[Step], empty: Iterable[str], config: Config, disk: DiskView) -> list[DropFolder]:
    """Return the steps that remove the folders that are empty, or are once the others are done, the deepest first."""
    done = list(steps)
    coming = [step.target for step in done if step.target]
    gone = [step.source for step in done if isinstance(step, Hold | Move)]
    known = {step.source for step in done if isinstance(step, DropFolder)}
    keep = config.standing
    inside = [join(folder, _ANYTHING) for folder in empty]
    emptied = drop_emptied(disk, [*gone, *inside], [*coming, *keep], "", "empty-folder")
    kept = known.union(keep)
    return [step for step in emptied if step.source not in kept]
