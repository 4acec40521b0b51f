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
    "placing",
    "name-claimed",
    "replace-held",
    "link-held",
    "restore-away",
    "restore-returned",
    "unpack-member",
    "pack-written",
    "convert-made",
    "recovery-begun",
    "recovery-step",
)
"""Every name that `point` is called with."""

_WANTED, _, _COUNT = os.environ.get(VARIABLE, "").partition(":")
_left = iter(range(int(_COUNT or 1) - 1))


def failpoint(name: str) -> None:
    """Kill this process with SIGKILL if its environment asks for it: `MAGPIE_CRASH_AT=NAME` or `NAME:COUNT`."""
    if name == _WANTED and next(_left, None) is None:
        os.kill(os.getpid(), signal.SIGKILL)
