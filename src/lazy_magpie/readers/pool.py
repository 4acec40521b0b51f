"""Reads many files in worker processes: one that hangs or crashes its decoder is named, and the rest goes on."""

from __future__ import annotations

import json
import os
import queue
import selectors
import subprocess
import sys
import threading
from collections.abc import Iterable, Iterator, Mapping
from contextlib import suppress

from lazy_magpie.model import Value

Facts = Mapping[str, Value]
_WORTH = 8
"""So many files at the least are worth a process more."""
LATER = "later"
"""The fact beside a refusal that another time may end otherwise: no permission, no reader to be started."""
SECONDS = 20.0
"""How long one file may take."""


def read_all(paths: Iterable[str], jobs: int = 0, seconds: float = SECONDS) -> Iterator[tuple[str, Facts]]:
    """Yield (path, facts) for each path, in the order in which they are done.

    A file that can't be read has the one fact `unreadable`, with the reason. `jobs` 0 means as many workers as there
    are processors.
    """
    wanted = list(paths)
    if not wanted:
        return
    waiting: queue.SimpleQueue[str | None] = queue.SimpleQueue()
    done: queue.SimpleQueue[tuple[str, Facts]] = queue.SimpleQueue()
    count = min(jobs or os.cpu_count() or 1, -(-len(wanted) // _WORTH))
    for path in (*wanted, *[None] * count):
        waiting.put(path)
    threads = [threading.Thread(target=_work, args=(waiting, done, seconds), daemon=True) for _ in range(count)]
    for thread in threads:
        thread.start()
    try:
        for _ in wanted:
            yield done.get()
    finally:
        with suppress(queue.Empty):
            while True:
                waiting.get_nowait()
        for _ in threads:
            waiting.put(None)
        for thread in threads:
            thread.join(seconds)


def read_one(path: str) -> Facts:
    """Return the facts of one file, {} where it can't be read."""
    facts = next(iter(read_all([path])))[1]
    return {} if "unreadable" in facts else facts


def _work(waiting: queue.SimpleQueue[str | None], done: queue.SimpleQueue[tuple[str, Facts]], seconds: float) -> None:
    """Give one worker its files, one after the other; start it anew after a crash."""
    worker: _Worker | None = None
    while (path := waiting.get()) is not None:
        facts: Facts = {}
        try:
            worker = worker or _Worker()
            facts = worker.ask(path, seconds)
        except Exception as error:  # whatever happens, somebody waits for an answer
            facts = {"unreadable": f"its reader could not be started: {error}", LATER: True}
        finally:
            done.put((path, facts))
        if worker and not worker.alive:
            worker = None
    if worker:
        worker.end()


class _Worker:
    """A process that reads files for us."""

    def __init__(self) -> None:
        self.alive = True
        self.process = subprocess.Popen(
            [sys.executable, "-m", "lazy_magpie.readers.worker"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
        )

    def ask(self, path: str, seconds: float) -> Facts:
        """Return what the worker says of a file; it is ended if it takes too long or answers nothing."""
        assert self.process.stdin and self.process.stdout
        try:
            self.process.stdin.write(json.dumps(path).encode() + b"\n")
            self.process.stdin.flush()
            with selectors.DefaultSelector() as selector:
                selector.register(self.process.stdout, selectors.EVENT_READ)
                if not selector.select(seconds):
                    self.end()
                    return {"unreadable": f"reading it took longer than {seconds:.0f} seconds"}
            line = self.process.stdout.readline()
        except OSError:
            line = b""
        if not line.endswith(b"\n"):
            self.end()
            return {"unreadable": "its decoder crashed"}
        facts: Facts = json.loads(line)
        return facts

    def end(self) -> None:
        """End the process."""
        self.alive = False
        self.process.kill()
        assert self.process.stdin and self.process.stdout
        with suppress(OSError):
            self.process.stdin.close()
        self.process.stdout.close()
        self.process.wait()
