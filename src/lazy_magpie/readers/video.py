"""Facts of video files, through PyAV: `resolution` (lines, as 720p) and `length` (seconds).

Run as a program it prints the facts of one file as JSON, so that a decoder that hangs or crashes on a damaged file
costs that file alone: `measure` calls it so, with limits on time and memory.
"""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Mapping

from lazy_magpie.model import Value

_SECONDS = 20
_MEMORY = 2 << 30


def read(path: str) -> dict[str, Value]:
    """Return the facts of the video file at `path`; raises whatever PyAV does for a file it can't open."""
    import av

    facts: dict[str, Value] = {}
    with av.open(path, metadata_errors="ignore") as container:
        if container.duration:
            facts["length"] = round(container.duration / av.time_base, 1)
        if container.streams.video:
            facts["resolution"] = f"{container.streams.video[0].height}p"
    return facts


def measure(path: str) -> Mapping[str, Value]:
    """Return what `read` finds, read in a process of its own; {} where the file can't be read."""
    try:
        run = subprocess.run([sys.executable, "-m", __name__, path], capture_output=True, timeout=_SECONDS, check=True)
        facts: dict[str, Value] = json.loads(run.stdout)
    except (subprocess.SubprocessError, OSError, ValueError):
        return {}
    return facts


def _limit_memory() -> None:
    try:
        import resource
    except ImportError:  # Windows has no such limits
        return
    resource.setrlimit(resource.RLIMIT_AS, (_MEMORY, _MEMORY))


if __name__ == "__main__":
    _limit_memory()
    print(json.dumps(read(sys.argv[1])))
