"""The program's entry: finds the command, runs it, catches every error in one place."""

from __future__ import annotations

import os
import sys

from lazy_magpie import __version__
from lazy_magpie.errors import MagpieError, UsageError

TYPE_CHECKING = False  # as in typing, which is left out so that --version costs nothing
if TYPE_CHECKING:
    from typing import NoReturn

NEEDS_YOU, WRONG_USE, COULD_NOT = 1, 2, 3


def before_words(argv: list[str]) -> list[str]:
    """Return what stands in front of “--”: behind it nothing is an option or a command."""
    return argv[: argv.index("--")] if "--" in argv else argv


def main(argv: list[str] | None = None) -> int:
    """Run one command and return its exit code: 0 done, 1 needs you, 2 wrong use, 3 could not."""
    argv = sys.argv[1:] if argv is None else argv
    options = before_words(argv)
    verbose = "-v" in options or "--verbose" in options
    try:
        return _run(argv)
    except BrokenPipeError:  # whoever read our output has seen enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except MagpieError as error:
        _tell(str(error), verbose and not isinstance(error, UsageError))
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
    except OverflowError:
        _tell("A number in the command, or in a file that it reads, is out of range; nothing was changed.", verbose)
        return WRONG_USE
    except Exception as error:
        _tell(f"Something went wrong inside magpie: {error!r}. Run it again with -v to see where.", verbose)
        return COULD_NOT


def _run(argv: list[str]) -> int:
    if argv == ["--version"]:  # before anything is imported
        print(f"magpie {__version__}")
        return 0
    from lazy_magpie.cli.parser import KNOWN_TAGS, SHELLS, build, command_in, known_command, parsed

    name = command_in(before_words(argv))
    parser = build(known_command(name) if name else "")
    args = parsed(parser, argv)
    if args.version:
        print(f"magpie {__version__}")
        return 0
    if args.completion:
        import shtab

        from lazy_magpie.cli.commands import COMMANDS

        if args.completion not in SHELLS:
            raise UsageError(f"No completion for “{args.completion}”. Available: {', '.join(SHELLS)}.")
        print(shtab.complete(build(*COMMANDS), shell=args.completion, preamble=KNOWN_TAGS))  # type: ignore[arg-type]
        return 0
    if not args.command:
        parser.print_help()
        return WRONG_USE if argv else 0
    import gc

    from lazy_magpie.cli.terminal import Terminal

    gc.set_threshold(400_000, 50, 100)  # a plan is many small values that stay: look for circles among them seldom
    code: int = args.run(args, Terminal.of(args))
    sys.stdout.flush()
    return code


def _tell(text: str, verbose: bool) -> None:
    if verbose:
        import traceback

        traceback.print_exc()
    from lazy_magpie.paths import visible

    print(f"magpie: {visible(text)}", file=sys.stderr)


def run() -> NoReturn:
    """Run the program as installed."""
    sys.exit(main())
