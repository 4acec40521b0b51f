"""Files that a person names for output: written whole beside their place, and never in place of another unasked."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from lazy_magpie.errors import UsageError


def is_there(path: Path) -> UsageError:
    """Return the error that says that a file named for output is there already."""
    return UsageError(f"{path} is there already; name another file, or replace it with --force.")


@contextmanager
def written_whole(path: Path, *, force: bool) -> Iterator[Path]:
    """Yield where to write a new file; it gets its name once it is written, and is never half of one.

    It lies in a folder of its own until then, so that nothing but what was written here is ever taken away again.
    Raises UsageError where a file of that name is there, unless by `force`.
    """
    if not force and os.path.lexists(path):
        raise is_there(path)
    with _made_beside(path) as part:
        yield part
        if force:
            part.replace(path)
        else:
            _named(part, path, is_there(path))


@contextmanager
def _made_beside(path: Path) -> Iterator[Path]:
    beside = Path(tempfile.mkdtemp(prefix=".magpie-", dir=path.absolute().parent))
    try:
        yield beside / path.name
    finally:
        shutil.rmtree(beside, ignore_errors=True)


def _named(part: Path, path: Path, error: UsageError) -> None:
    """Give what was made its name. Raises the error where something has that name meanwhile."""
    from lazy_magpie.change import rename_no_replace  # it comes with all that changes files

    try:
        rename_no_replace(str(part), str(path))
    except FileExistsError:
        raise error from None


def write_new(path: Path, text: str, *, force: bool) -> None:
    """Write a text to a file that a person named. Raises UsageError where it is there already, unless by `force`."""
    with written_whole(path, force=force) as part:
        part.write_text(text, encoding="utf-8", newline="")


@contextmanager
def new_folder(path: Path) -> Iterator[Path]:
    """Yield where to write a new folder; it gets its name once all is in it. Raises UsageError where it is there."""
    check_folder(path)
    error = UsageError(f"{path} is there already; name a new folder.")
    if os.path.lexists(path):
        raise error
    with _made_beside(path) as part:
        part.mkdir()
        yield part
        _named(part, path, error)


def check_page(path: Path, *, force: bool) -> None:
    """Raise UsageError where a page can't be written to `path`: it is no HTML, or is there already without `force`."""
    if path.suffix.lower() not in (".html", ".htm"):
        raise UsageError(f"A page is HTML; call the file {path.name}.html.")
    check_new(path, force=force)


def check_new(path: Path, *, force: bool) -> None:
    """Raise UsageError where a file can't be written to `path`: it is there without `force`, or there is no folder."""
    if os.path.lexists(path) and not force:
        raise is_there(path)
    check_folder(path)


def check_folder(path: Path) -> None:
    """Raise UsageError where there is no folder for a file that a person named."""
    folder = path.absolute().parent
    if not folder.is_dir():
        raise UsageError(f"There is no folder {folder}; make it, or name another file.")
