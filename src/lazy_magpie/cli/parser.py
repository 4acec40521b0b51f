"""The parser of the command line: every command with its arguments, errors as one sentence."""

from __future__ import annotations

import argparse
from collections.abc import Callable, Iterator
from importlib import import_module
from typing import NoReturn

from lazy_magpie.cli.commands import COMMANDS
from lazy_magpie.errors import UsageError
from lazy_magpie.suggest import nearest

SHELLS = ("bash", "zsh", "tcsh")
KNOWN_TAGS = {
    "bash": """_magpie_tags() {
  { printf '%s\\n' put drop rename merge colour list; magpie tag list --names 2>/dev/null; } |
    while IFS= read -r word; do [[ $word == "$1"* ]] && printf '%q\\n' "$word"; done
}""",
    "zsh": """_magpie_tags() {
  compadd -- put drop rename merge colour list "${(@f)$(magpie tag list --names 2>/dev/null)}"
}""",
}
"""What the completion of a shell asks the program: the words of `magpie tag`, and the tags that there are."""


def whole(least: int, most: int) -> Callable[[str], int]:
    """Return a reader of whole numbers from `least` to `most`, for the type of an option."""

    def number(text: str) -> int:
        if not text.isdecimal() or len(text) > 12 or not least <= int(text) <= most:
            raise argparse.ArgumentTypeError(f"“{text}” is no whole number from {least:,} to {most:,}")
        return int(text)

    return number


JOBS = whole(0, 1_000)
CHANGE = whole(0, 999_999_999)


class Parser(argparse.ArgumentParser):
    """A parser whose errors are one sentence, with the nearest known option; words and options mix in any order."""

    _mixing = False

    def parse_known_args(self, args=None, namespace=None):  # type: ignore[no-untyped-def]
        """Parse as argparse does, but let words of one argument stand on both sides of an option."""
        if self._subparsers is not None or self._mixing:
            return super().parse_known_args(args, namespace)
        self._mixing = True
        try:
            return self.parse_known_intermixed_args(args, namespace)
        finally:
            self._mixing = False

    def error(self, message: str) -> NoReturn:
        """Raise a UsageError with argparse's message as a sentence."""
        text = message[0].upper() + message[1:]
        hint = "."
        if message.startswith("unrecognized arguments: "):
            word = message.removeprefix("unrecognized arguments: ").split()[0]
            options = [
                option for parser in _with_commands(self) for a in parser._actions for option in a.option_strings
            ]
            text = f"There is no option “{word}” here"
            hint = nearest(word, options)
        raise UsageError(f"{text}{hint} “{self.prog} --help” shows what there is.")


def _with_commands(parser: argparse.ArgumentParser) -> Iterator[argparse.ArgumentParser]:
    """Yield a parser and those of its commands."""
    yield parser
    for action in parser._actions:
        if isinstance(action, argparse._SubParsersAction):
            yield from action.choices.values()


def build(*whole: str) -> Parser:
    """Return the parser, with the arguments of the commands named; the others are known by name alone."""
    parser = Parser(
        prog="magpie",
        description="Catalogues, names and files large collections, and never loses a file.",
        epilog="Each command has its own --help.",
        allow_abbrev=False,
    )
    parser.add_argument("-C", dest="folder", metavar="DIR", default=".", help="work on the collection that DIR lies in")
    parser.add_argument("--version", action="store_true", help="print the version")
    parser.add_argument("--completion", choices=SHELLS, metavar="SHELL", help="print completion for bash, zsh or tcsh")
    _add_everywhere(parser, default=False)
    commands = parser.add_subparsers(prog="magpie", dest="command", metavar="COMMAND", parser_class=Parser)
    for name, summary in COMMANDS.items():
        command = commands.add_parser(
            name,
            help=summary,
            description=summary[0].upper() + summary[1:] + ".",
            formatter_class=argparse.RawDescriptionHelpFormatter,
            allow_abbrev=False,
        )
        if name in whole:
            import_module(f"lazy_magpie.cli.commands.{name}").register(command)
            _add_everywhere(command, default=argparse.SUPPRESS)
            command.add_argument("-C", dest="folder", metavar="DIR", default=argparse.SUPPRESS, help=argparse.SUPPRESS)
    return parser


def _add_everywhere(parser: argparse.ArgumentParser, default: object) -> None:
    """Add the options that every command has, before and behind its name."""
    for names, text in (
        (("--json",), "machine output on stdout"),
        (("--quiet",), "nothing on stderr but errors"),
        (("-v", "--verbose"), "more detail; where an error came from"),
        (("--no-colour",), "no colour"),
    ):
        parser.add_argument(*names, action="store_true", default=default, help=text)


def command_in(argv: list[str]) -> str:
    """Return the first word of `argv` that is no option, "" if there is none."""
    skip = False
    for word in argv:
        if skip:
            skip = False
        elif word in ("-C", "--completion"):
            skip = True
        elif not word.startswith("-"):
            return word
    return ""
