"""The program's entry: finds the command, reads its arguments, catches every error in one place."""

from __future__ import annotations

import argparse
import os
import sys
from importlib import import_module

from lazy_magpie import __version__
from lazy_magpie.cli.commands import COMMANDS
from lazy_magpie.errors import MagpieError, UsageError
from lazy_magpie.suggest import nearest

TYPE_CHECKING = False  # as in typing, which would cost a third of the time that --version takes
if TYPE_CHECKING:
    from collections.abc import Iterator
    from typing import NoReturn

SHELLS = ("bash", "zsh", "tcsh")
NEEDS_YOU, WRONG_USE, COULD_NOT = 1, 2, 3


class Parser(argparse.ArgumentParser):
    """A parser whose errors are one sentence, with the nearest known option."""

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


def main(argv: list[str] | None = None) -> int:
    """Run one command and return its exit code: 0 done, 1 needs you, 2 wrong use, 3 could not."""
    argv = sys.argv[1:] if argv is None else argv
    verbose = "-v" in argv or "--verbose" in argv
    try:
        return _run(argv)
    except BrokenPipeError:  # whoever read our output has seen enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except MagpieError as error:
        _tell(str(error), verbose)
        return error.exit_code
    except KeyboardInterrupt:
        _tell("Stopped. What was kept so far stays; run the command again to go on.", verbose)
        return COULD_NOT
    except OSError as error:
        where = f" ({error.filename})" if error.filename else ""
        _tell(
            f"The disk refused: {error.strerror or error}{where}. Check space and permissions, then try again.", verbose
        )
        return COULD_NOT
    except Exception as error:
        _tell(f"Something went wrong inside magpie: {error!r}. Run it again with -v to see where.", verbose)
        return COULD_NOT


def _run(argv: list[str]) -> int:
    name = command_in(argv)
    if name and name not in COMMANDS:
        raise UsageError(f"There is no command “{name}”{nearest(name, COMMANDS)} “magpie --help” lists them.")
    parser = build(name)
    args = parser.parse_args(argv)
    if args.version:
        print(f"magpie {__version__}")
        return 0
    if args.completion:
        import shtab

        print(shtab.complete(build(*COMMANDS), shell=args.completion))
        return 0
    if not args.command:
        parser.print_help()
        return WRONG_USE if argv else 0
    from lazy_magpie.cli.terminal import Terminal

    code: int = args.run(args, Terminal.of(args))
    sys.stdout.flush()
    return code


def _tell(text: str, verbose: bool) -> None:
    if verbose:
        import traceback

        traceback.print_exc()
    print(f"magpie: {text}", file=sys.stderr)


def run() -> NoReturn:
    """Run the program as installed."""
    sys.exit(main())
