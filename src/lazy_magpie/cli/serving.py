"""Serving something on loopback until Ctrl-C."""

from __future__ import annotations

import sys
from collections.abc import Callable
from typing import Any, TypeVar

from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.errors import MagpieError
from lazy_magpie.loopback import LoopbackServer

ServerT = TypeVar("ServerT", bound=LoopbackServer)


def started(make: Callable[[], ServerT], port: int) -> ServerT:
    """Return a server. Raises MagpieError where the port can't be had."""
    try:
        return make()
    except OSError as error:
        raise MagpieError(f"Port {port} can't be used: {error.strerror}. Name another one with --port.") from error


def serve(
    server: LoopbackServer,
    terminal: Terminal,
    shape: dict[str, Any],
    text: str,
    then: Callable[[], object] = lambda: None,
) -> int:
    """Say where it is, as JSON or in words, do what comes `then`, and serve."""
    with server:
        if terminal.as_json:
            terminal.json(shape)
        else:
            terminal.say(f"{text} (Ctrl-C ends)")
        sys.stdout.flush()
        then()
        try:
            server.serve_forever()
        except KeyboardInterrupt:
            terminal.note("\nNo longer served.")
    return 0
