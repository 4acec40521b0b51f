"""The manual page, made from the same source as --help: `python -m lazy_magpie.cli.manual > man/magpie.1`."""

from __future__ import annotations

import argparse
import re

from lazy_magpie import __version__
from lazy_magpie.cli.commands import COMMANDS, GROUPS
from lazy_magpie.cli.parser import EXIT_CODES, SUMMARY, build


def manual() -> str:
    """Return the manual page as roff (man(7))."""
    parser = build(*COMMANDS)
    lines = [
        f'.TH MAGPIE 1 "" "magpie {__version__}" "User commands"',
        ".SH NAME", f"magpie \\- {_text(SUMMARY[0].lower() + SUMMARY[1:].rstrip('.'))}",
        ".SH SYNOPSIS", ".B magpie", "[\\-C DIR] COMMAND ...",
        ".SH OPTIONS", *_arguments(parser),
        ".SH COMMANDS",
    ]  # fmt: skip
    commands = next(a for a in parser._actions if isinstance(a, argparse._SubParsersAction)).choices
    for group, names in GROUPS.items():
        lines.append(f".SS {_text(group)}")
        for name in names:
            command = commands[name]
            lines += [".PP", f".B magpie {_text(name)}", ".RS", _text(str(command.description)), *_arguments(command)]
            lines += [".PP", ".nf", *map(_text, (command.epilog or "").strip().splitlines()), ".fi", ".RE"]
    codes = (code.strip() for code in EXIT_CODES.partition(":")[2].rstrip(".").split(";"))
    lines.append(".SH EXIT STATUS")
    for code in codes:
        number, _, text = code.partition(" ")
        lines += [".TP", f".B {number}", _text(text)]
    lines += [
        ".SH FILES",
        ".TP", ".I magpie.toml", "what a collection is called, its shelves and naming schemes",
        ".TP", ".I .magpie/", "the catalogue, the journals of all changes, and the holding area",
        ".SH ENVIRONMENT",
        ".TP", ".B NO_COLOR", "no colour, whatever it is set to",
        ".TP", ".B PAGER", "what shows a plan that is longer than the terminal",
    ]  # fmt: skip
    return "\n".join(lines) + "\n"


def _arguments(parser: argparse.ArgumentParser) -> list[str]:
    """Return the arguments of a parser, but those that every command has."""
    own = parser.prog != "magpie"
    lines = []
    for action in parser._actions:
        common = {"--json", "--help", "--quiet", "--colour", "--no-colour", "--verbose"} & {*action.option_strings}
        if action.help == argparse.SUPPRESS or isinstance(action, argparse._SubParsersAction) or (own and common):
            continue
        name = str(action.metavar or action.dest) if action.nargs != 0 or not action.option_strings else ""
        if action.choices and not action.metavar:
            name = "|".join(map(str, action.choices))
        label = ", ".join(action.option_strings)
        lines += [".TP", f".B {_text(f'{label} {name}'.strip())}", _text(action.help or "")]
    return lines


def _text(text: str) -> str:
    """Return a text that roff takes as it stands."""
    text = text.replace("\\", "\\e").replace("-", "\\-").replace("%%", "%")
    return re.sub(r"^([.'])", r"\\&\1", text)


if __name__ == "__main__":
    print(manual(), end="")
