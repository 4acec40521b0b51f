"""A server that this machine alone can reach; its requests are answered quietly, each in a thread of its own."""

from __future__ import annotations

from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

HOST = "127.0.0.1"


class LoopbackServer(ThreadingHTTPServer):
    """Listens at a port of loopback, 0 for any that is free. Raises OSError where it can't be had."""

    daemon_threads = True

    def __init__(self, port: int, handler: type[BaseHTTPRequestHandler]) -> None:
        super().__init__((HOST, port), handler)

    @property
    def url(self) -> str:
        """The address of what is served."""
        return f"http://{HOST}:{self.server_port}/"

    def handle_error(self, request: Any, client_address: Any) -> None:
        """Say nothing of a client that hung up: there is nobody left to answer."""


class QuietRequestHandler(BaseHTTPRequestHandler):
    """Answers without a word on the terminal, and says nothing of what it is made with."""

    sys_version = ""
    timeout = 30

    def log_message(self, format: str, *args: object) -> None:
        """Say nothing."""
