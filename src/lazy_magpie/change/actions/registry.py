"""The action of each type of step."""

from __future__ import annotations

from collections.abc import Mapping
from typing import cast

from lazy_magpie.change.actions import annotate, convert, create, directory, hold, move, pack, replace, restore, send
from lazy_magpie.change.actions.base import Action, StepT
from lazy_magpie.model import Step

_ACTIONS: Mapping[type[Step], object] = {
    **move.ACTIONS,
    **create.ACTIONS,
    **directory.ACTIONS,
    **hold.ACTIONS,
    **replace.ACTIONS,
    **annotate.ACTIONS,
    **restore.ACTIONS,
    **pack.ACTIONS,
    **convert.ACTIONS,
    **send.ACTIONS,
}


def action_for(step: StepT) -> Action[StepT]:
    """Return the action by which a step is done, recovered and taken back."""
    return cast("Action[StepT]", _ACTIONS[type(step)])
