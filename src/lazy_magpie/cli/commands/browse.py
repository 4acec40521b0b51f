"""`magpie browse`: the wall of pictures and the report of the live catalogue, in a browser on this machine."""

from __future__ import annotations

import argparse
import webbrowser

from lazy_magpie.catalogue import opened
from lazy_magpie.cli.parser import whole
from lazy_magpie.cli.selection import collection_of, condition_of, told_of_crash
from lazy_magpie.cli.serving import serve, started
from lazy_magpie.cli.terminal import Terminal

_EXAMPLES = """examples:
  magpie browse               prints the address; it works on this machine alone, until Ctrl-C
  magpie browse --open        opens it in the browser
The search field takes find words: kind is movie year from 1960 to 1969
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `browse`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("--port", type=whole(0, 65_535), default=0, help="serve at this port; any that is free if none")
    parser.add_argument("--open", action="store_true", help="open it in the browser")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Serve the pages until Ctrl-C."""
    from lazy_magpie.cli.browse_server import BrowseServer
    from lazy_magpie.services.live_pages import LivePages

    collection = collection_of(args)
    with opened(collection):  # says what is wrong with it, before anybody looks
        told_of_crash(collection, terminal)
    pages = LivePages(collection, lambda catalogue, words: condition_of(collection, catalogue, words))
    server = started(lambda: BrowseServer(pages, args.port), args.port)
    show = (lambda: webbrowser.open(server.url)) if args.open else lambda: False
    return serve(server, terminal, {"url": server.url}, server.url, show)
