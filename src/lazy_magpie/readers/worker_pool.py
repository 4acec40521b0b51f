"""Reads many files in worker processes: one that hangs or crashes its decoder is named, and the rest goes on."""

from __future__ import annotations

import json
import os
import queue
import selectors
import subprocess
import sys
import threading
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import suppress

from lazy_magpie.model import Value
from lazy_magpie.readers import family_of

Facts = Mapping[str, Value]
Question = tuple[int, object]
TELLING = "lazy_magpie.readers.dispatch"
"""The module by which workers answer what a file says of itself."""
LISTING = "lazy_magpie.readers.archive_listing"
"""The module by which they answer what an archive lists."""
_WORTH = 8
"""So many files at the least are worth a process more."""
LATER = "later"
"""The fact beside a refusal that another time may end otherwise: no permission, no reader to be started."""
_AT_ONCE = 8
"""Files that a worker is given at a time."""
SECONDS = 20.0
"""How long one file may take."""


def read_all(paths: Iterable[str], jobs: int = 0, seconds: float = SECONDS) -> Iterator[tuple[str, Facts]]:
    """Yield (path, facts) for each path, in the order in which they are done.

    A file that can't be read has the one fact `unreadable`, with the reason. `jobs` 0 means as many workers as there
    are processors.
    """
    wanted = sorted(paths, key=_by_family)
    for at, facts in ask_all(wanted, TELLING, jobs, seconds):
        yield wanted[at], facts


def ask_all(
    questions: Sequence[object], module: str, jobs: int = 0, seconds: float = SECONDS
) -> Iterator[tuple[int, Facts]]:
    """Put questions (JSON values) to workers that answer by `module`, as `Workers.ask` does, and end them."""
    with Workers(module, jobs, seconds) as workers:
        yield from workers.ask(questions)


class Workers:
    """Workers that are asked again and again: they start when there are questions for them, and anew after a crash.

    One question may take `seconds`; `jobs` 0 means as many workers as there are processors. As a context it ends them.
    """

    def __init__(self, module: str, jobs: int = 0, seconds: float = SECONDS) -> None:
        self._workers = [_LastingWorker(module, seconds) for _ in range(jobs or os.cpu_count() or 1)]
        self._seconds = seconds

    def __enter__(self) -> Workers:
        return self

    def __exit__(self, *wrong: object) -> None:
        for worker in self._workers:
            worker.end()

    def ask(self, questions: Sequence[object]) -> Iterator[tuple[int, Facts]]:
        """Put questions (JSON values) to them; yield (place, answer) as they are done.

        One that takes too long, or crashes its worker, is answered by `unreadable`. Workers take from both ends, so
        that like questions are best put side by side.
        """
        if not questions:
            return
        count = min(len(self._workers), -(-len(questions) // _WORTH))
        size = max(1, min(_AT_ONCE, len(questions) // (count * 4)))
        numbered = list(enumerate(questions))
        waiting = deque(numbered[at : at + size] for at in range(0, len(numbered), size))
        done: queue.SimpleQueue[list[tuple[int, Facts]]] = queue.SimpleQueue()
        ends = (waiting.popleft, waiting.pop)
        threads = [
            threading.Thread(target=worker.work, args=(ends[number % 2], done), daemon=True)
            for number, worker in enumerate(self._workers[:count])
        ]
        for thread in threads:
            thread.start()
        left = len(questions)
        try:
            while left:
                answers = done.get()
                left -= len(answers)
                yield from answers
        finally:
            waiting.clear()
            for thread in threads:
                thread.join(self._seconds)


def _by_family(path: str) -> tuple[int, str]:
    """Order files by the family of their format, so that each worker loads few packages."""
    return family_of(os.path.splitext(path)[1].lower()), path


def read_one(path: str) -> Facts:
    """Return the facts of one file, {} where it can't be read."""
    facts = next(iter(read_all([path])))[1]
    return {} if "unreadable" in facts else facts


class _LastingWorker:
    """A process that is asked again and again: it starts at the first question, and anew after a crash."""

    def __init__(self, module: str, seconds: float) -> None:
        self.module, self.seconds = module, seconds
        self._worker: _Worker | None = None

    def work(self, take: Callable[[], list[Question]], done: queue.SimpleQueue[list[tuple[int, Facts]]]) -> None:
        """Put questions to it, several at a time, until there are none to take."""
        while True:
            try:
                questions = take()
            except IndexError:
                return
            for answers in self.answers(questions):
                done.put(answers)

    def end(self) -> None:
        """End the process."""
        if self._worker:
            self._worker.end()
            self._worker = None

    def answers(self, questions: list[Question]) -> Iterator[list[tuple[int, Facts]]]:
        """Yield the answers to a few questions, those together that it gave before it crashed."""
        while questions:
            answers: list[Facts] = []
            try:
                self._worker = self._worker or _Worker(self.module)
                answers = self._worker.ask([question for _, question in questions], self.seconds)
            except Exception as error:  # whatever happens, somebody waits for an answer
                why: Facts = {"unreadable": f"its reader could not be started: {error}", LATER: True}
                answers = [why] * len(questions)
            yield [(at, answer) for (at, _), answer in zip(questions, answers, strict=False)]
            questions = questions[len(answers) :]
            if self._worker and not self._worker.alive:
                self._worker = None


class _Worker:
    """A process that reads files for us, and does one thing at a time: we start as many as there are processors."""

    def __init__(self, module: str) -> None:
        self.alive = True
        self.process = subprocess.Popen(
            [sys.executable, "-m", "lazy_magpie.readers.worker", module],
            env={**os.environ, "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1"},
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            bufsize=0,
        )
        self._said = b""

    def ask(self, questions: Sequence[object], seconds: float) -> list[Facts]:
        """Return what the worker answers, up to the question that takes too long or crashes it, which ends it."""
        assert self.process.stdin
        answers: list[Facts] = []
        with suppress(OSError):  # it died: its answer will be missing
            self.process.stdin.write(b"".join(json.dumps(question).encode() + b"\n" for question in questions))
        for _ in questions:
            try:
                line = self._line(seconds)
            except TimeoutError:
                self.end()
                return [*answers, {"unreadable": f"reading it took longer than {seconds:.0f} seconds"}]
            if not line:
                self.end()
                return [*answers, {"unreadable": "its decoder crashed"}]
            answers.append(json.loads(line))
        return answers

    def _line(self, seconds: float) -> bytes:
        """Return the next line that the worker says, b"" where it has died. Raises TimeoutError."""
        assert self.process.stdout
        while b"\n" not in self._said:
            with selectors.DefaultSelector() as selector:
                selector.register(self.process.stdout, selectors.EVENT_READ)
                if not selector.select(seconds):
                    raise TimeoutError
            some = os.read(self.process.stdout.fileno(), 1 << 16)
            if not some:
                return b""
            self._said += some
        line, _, self._said = self._said.partition(b"\n")
        return line

    def end(self) -> None:
        """End the process."""
        self.alive = False
        self.process.kill()
        assert self.process.stdin and self.process.stdout
        with suppress(OSError):
            self.process.stdin.close()
        self.process.stdout.close()
        self.process.wait()
