"""Named points in a change at which tests kill the process, to see that nothing is lost there."""

from __future__ import annotations

import os
import signal

VARIABLE = "MAGPIE_CRASH_AT"

POINTS = (
    "steps-written",
    "batch-announced",
    "step-checked",
    "step-done",
    "batch-done",
    "batch-noted",
    "run-ended",
    "copy-begun",
    "copy-half",
    "copy-written",
    "copy-compared",
    "copy-in-place",
    "source-held",
    "aside",
    "replace-held",
    "unpack-member",
    "recovery-begun",
    "recovery-step",
)
"""Every name that `point` is called with."""

_countdown: dict[str, int] = {}


def point(name: str) -> None:
    """Kill this process with SIGKILL if the environment asks for it: `MAGPIE_CRASH_AT=NAME` or `NAME:COUNT`."""
    wanted = os.environ.get(VARIABLE)
    if not wanted:
        return
    at, _, count = wanted.partition(":")
    if at == name:
        left = _countdown.setdefault(name, int(count or 1)) - 1
        _countdown[name] = left
        if left <= 0:
            os.kill(os.getpid(), signal.SIGKILL)
