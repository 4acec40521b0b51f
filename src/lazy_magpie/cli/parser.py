"""The parser of the command line: every command with its arguments, errors as one sentence."""

from __future__ import annotations

import argparse
from collections.abc import Callable, Iterator
from importlib import import_module
from typing import NoReturn

from lazy_magpie.cli.commands import COMMANDS, GROUPS, MEANT
from lazy_magpie.errors import UsageError
from lazy_magpie.suggest import nearest

SHELLS = ("bash", "zsh", "tcsh", "fish")
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

    def format_help(self) -> str:
        """Return the help: of the program itself an overview of its commands."""
        return _overview(self) if self._subparsers is not None else super().format_help()

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


_AS_IT_STANDS = "\ufdd0"
"""Stands in front of a word that is no option though it begins like one."""


_TAKING_TEXT = {"--append": 1, "--prepend": 1, "--to": 1, "--swap": 2, "--swap-pattern": 2, "--ending": 1}
"""Options that take texts as they stand, and how many: people put "-cover" behind names."""


def as_typed(word: str) -> str:
    """Return a word as it was typed, whatever it begins with."""
    return word.removeprefix(_AS_IT_STANDS)


def _texts_marked(argv: list[str]) -> list[str]:
    """Return a command line in which the texts of options can't be taken for options."""
    found: list[str] = []
    texts = 0
    for word in argv:
        found.append(_AS_IT_STANDS + word if texts and word.startswith("-") else word)
        texts = texts - 1 if texts else _TAKING_TEXT.get(word, 0)
    return found


def parsed(parser: Parser, argv: list[str]) -> argparse.Namespace:
    """Return the arguments of a command line; what stands behind “--” is words, whatever it begins with."""
    argv = _texts_marked(argv)
    if "--" not in argv:
        return parser.parse_args(argv)
    at = argv.index("--")
    args = parser.parse_args([*argv[:at], *(f"{_AS_IT_STANDS}{word}" for word in argv[at + 1 :])])
    for name, value in vars(args).items():
        if isinstance(value, str):
            setattr(args, name, as_typed(value))
        elif isinstance(value, list) and all(isinstance(word, str) for word in value):
            setattr(args, name, [as_typed(word) for word in value])
    return args


def _with_commands(parser: argparse.ArgumentParser) -> Iterator[argparse.ArgumentParser]:
    """Yield a parser and those of its commands."""
    yield parser
    for action in parser._actions:
        if isinstance(action, argparse._SubParsersAction):
            yield from action.choices.values()


EXIT_CODES = "Exit codes: 0 done; 1 done, and something needs you; 2 wrong use; 3 could not."
SUMMARY = "Catalogue, name and file a large collection without losing a file."


def known_command(name: str) -> str:
    """Return a command by its name. Raises UsageError for what is none, with the one that is meant."""
    if name in COMMANDS:
        return name
    meant = next((command for command, words in MEANT.items() if name.lower() in words.split()), "")
    hint = f". Did you mean “magpie {meant}”?" if meant else nearest(name, COMMANDS)
    raise UsageError(f"There is no command “{name}”{hint} “magpie --help” lists them.")


def build(*whole: str) -> Parser:
    """Return the parser, with the arguments of the commands named; the others are known by name alone."""
    parser = Parser(prog="magpie", usage="magpie [-C DIR] COMMAND …", allow_abbrev=False)
    parser.add_argument("-C", dest="folder", metavar="DIR", default=".", help="work on the collection that DIR lies in")
    parser.add_argument("--version", action="store_true", help="print the version")
    parser.add_argument("--completion", metavar="SHELL", help=f"print completion for {', '.join(SHELLS)}")
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


def help_of(parser: argparse.ArgumentParser, name: str = "") -> str:
    """Return the help of a command as it is printed, "" for the overview."""
    if not name:
        return _overview(parser)
    return next(one for one in _with_commands(parser) if one.prog == f"magpie {name}").format_help()


def _overview(parser: argparse.ArgumentParser) -> str:
    """Return the commands by what one wants to do, and the options that all have."""
    wide = max(map(len, COMMANDS))
    lines = [SUMMARY, "", f"usage: {parser.usage}"]
    for group, commands in GROUPS.items():
        lines += ["", group, *(f"  {name:<{wide}}  {text}" for name, text in commands.items())]
    options = argparse.HelpFormatter("magpie", width=100, max_help_position=26)
    options.start_section("Options")
    options.add_arguments(action for action in parser._actions if not isinstance(action, argparse._SubParsersAction))
    options.end_section()
    return "\n".join(
        [
            *lines, "", options.format_help().rstrip(), "",
            "“magpie help COMMAND” tells all about a command.",
            "“--” ends the options: what follows are words and paths.",
            EXIT_CODES, "",
        ]
    )  # fmt: skip


def _add_everywhere(parser: argparse.ArgumentParser, default: object) -> None:
    """Add the options that every command has, before and behind its name."""
    for names, text in (
        (("-j", "--json"), "JSON on stdout"),
        (("-q", "--quiet"), "nothing on stderr but errors"),
        (("-v", "--verbose"), "more detail; where an error came from"),
    ):
        parser.add_argument(*names, action="store_true", default=default, help=text)
    nothing = default if default == argparse.SUPPRESS else "auto"
    parser.add_argument(
        "--colour", "--color", choices=("auto", "always", "never"), metavar="WHEN", default=nothing,
        help="auto (on a terminal), always or never",
    )  # fmt: skip
    parser.add_argument(
        "--no-colour", "--no-color", dest="colour", action="store_const", const="never", default=nothing,
        help="the same as --colour never",
    )  # fmt: skip


def command_in(argv: list[str]) -> str:
    """Return the first word of `argv` that is no option, "" if there is none."""
    skip = False
    for word in argv:
        if skip:
            skip = False
        elif word in ("-C", "--completion", "--colour", "--color"):
            skip = True
        elif not word.startswith("-"):
            return word
    return ""
