"""The errors a person can meet. Each carries one sentence that says what, where and what to do next."""

from __future__ import annotations


class MagpieError(Exception):
    """The work could not be done (exit code 3). The message is a whole sentence for a person."""

    exit_code = 3


class UsageError(MagpieError):
    """What was asked can't be meant like that (exit code 2): a wrong word, option, key or value."""

    exit_code = 2


class ConfigError(UsageError):
    """magpie.toml has a mistake; the message names the file, the line and the key."""


class TemplateError(UsageError):
    """A path template has a mistake.

    `column` counts from 1 and points into `template`; the message shows both.
    """

    def __init__(self, text: str, template: str, column: int) -> None:
        self.template = template
        self.column = column
        super().__init__(f"in the template “{template}”, column {column}: {text}")


class BusyError(MagpieError):
    """Another magpie is writing in this collection; the message says who and since when."""
