"""`magpie help [COMMAND]`: the same as --help."""

from __future__ import annotations

import argparse

from lazy_magpie.cli.terminal import Terminal

_EXAMPLES = """examples:
  magpie help            the commands, by what one wants to do
  magpie help tidy       all about one of them
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `help`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("topic", nargs="?", default="", metavar="COMMAND", help="the command to read about")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Print the help of a command, or the overview."""
    from lazy_magpie.cli.parser import build, help_of, known_command

    topic = known_command(args.topic) if args.topic else ""
    terminal.say(help_of(build(topic), topic).rstrip())
    return 0
