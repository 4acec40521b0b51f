"""Processes that work for this one: how they are started, and that they end with it."""

from __future__ import annotations

import gc
import multiprocessing
import os
import signal
import sys
import threading
from multiprocessing.context import BaseContext


def helpers() -> BaseContext:
    """Return what starts processes that share nothing with this one: no lock, no open file, no thread."""
    return multiprocessing.get_context("forkserver" if sys.platform == "linux" else "spawn")


def begin() -> None:
    """Begin to help, first of all in a new process: who stops the command ends its helpers."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    gc.set_threshold(100_000, 50, 100)
    threading.Thread(target=_end_with_parent, daemon=True).start()


def _end_with_parent() -> None:
    """End this process when the one that it works for is gone, however that ended."""
    if parent := multiprocessing.parent_process():
        parent.join()
        os._exit(0)
