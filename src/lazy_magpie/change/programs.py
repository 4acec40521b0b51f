"""Runs outside programs without a shell, within limits of time and space, so that one can be stopped at any moment."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import time
from collections.abc import Callable, Mapping, Sequence

from lazy_magpie.change.file_limit import limit
from lazy_magpie.change.run_context import Skip
from lazy_magpie.formatting import duration_text

_LOOKS_EVERY = 0.05
_SAID = 300


def words_of(command: Sequence[str], values: Mapping[str, str], sources: Sequence[str]) -> list[str]:
    """Return a command with its fields filled in; `{sources}`, a word of its own, becomes one word for each."""
    found: list[str] = []
    for word in command:
        if word == "{sources}":
            found += sources
            continue
        for name, value in values.items():
            word = word.replace(f"{{{name}}}", value)
        found.append(word)
    return found


def run_program(
    command: Sequence[str], folder: str, seconds: float, most: int, stop: Callable[[], bool] = lambda: False
) -> None:
    """Run a program in a folder until it ends. Raises Skip where it can't be run, fails, takes too long or is stopped.

    It writes no file larger than `most` bytes, and is not stopped by the keys that stop us: we stop it.
    """
    if shutil.which(command[0]) is None:
        raise Skip(f"there is no program “{command[0]}”; install it, or correct the command in magpie.toml")
    until = time.monotonic() + seconds
    said_path = os.path.join(folder, ".said")
    try:
        with open(said_path, "wb") as said, open(os.devnull, "rb") as nothing:
            process = subprocess.Popen(
                [*_ends_with_us(), *command],
                cwd=folder,
                stdin=nothing,
                stdout=said,
                stderr=said,
                start_new_session=True,
            )
            limit(process.pid, most)
    except OSError as error:
        raise Skip(f"“{command[0]}” can't be run: {(error.strerror or str(error)).lower()}") from None
    try:
        why = ""
        while process.poll() is None and not why:
            if stop():
                why = "stopped"
            elif time.monotonic() > until:
                why = f"“{command[0]}” took longer than {duration_text(seconds)}"
            else:
                time.sleep(_LOOKS_EVERY)
        if why:
            raise Skip(why)
    finally:
        if process.poll() is None:
            os.killpg(process.pid, signal.SIGKILL)
            process.wait()
    if process.returncode:
        with open(said_path, "rb") as file:
            lines = file.read()[-_SAID:].decode("utf-8", "replace").split()
        signalled = f"ended by signal {-process.returncode}" if process.returncode < 0 else "failed"
        raise Skip(f"“{command[0]}” {signalled}: {' '.join(lines) or f'exit code {process.returncode}'}")
    os.unlink(said_path)


def _ends_with_us() -> list[str]:
    """Return what makes a program end when we are killed: it must not go on in a folder that recovery takes away."""
    found = shutil.which("setpriv")
    return [found, "--pdeathsig", "KILL", "--"] if found else []
