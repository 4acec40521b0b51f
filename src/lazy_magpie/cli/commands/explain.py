"""`magpie explain NAME|PATH|FOLDER/…`: how a name is understood, what a folder is for; needs no collection."""

from __future__ import annotations

import argparse
import os
import sys
from collections import deque
from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import islice

from lazy_magpie.cli.json_output import identity_shape
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.parser import JOBS
from lazy_magpie.cli.terminal import Terminal, as_line
from lazy_magpie.errors import MagpieError
from lazy_magpie.fields import shown
from lazy_magpie.identify import identify, not_understood
from lazy_magpie.model import Identity, State
from lazy_magpie.paths import read_back, written

_EXAMPLES = """examples:
  magpie explain "Tidewater Lane 2x05 The Ferry.avi"
  find Heap -print0 | magpie explain --json -0
  magpie explain Music/Samplers/                 what a folder is taken for, and why
"""


_CHUNK = 2_000
"""Names that one process is given at a time; fewer are not worth a second process."""
_AHEAD = 6
_MOST_FOLDERS = 2_000
"""So many folders below one that lies in no collection are looked at."""
ROLE_WORDS = {
    "category": "a category: a shelf, a genre, a place",
    "owner": "an owner: an artist, a maker, a system",
    "work": "a work: a film, a show, an album, a kit, a family",
    "division": "a part of a work: a season, a disc, a section",
    "beside": "a place for what lies beside things",
}


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `explain`."""
    parser.epilog = _EXAMPLES
    parser.add_argument(
        "names",
        nargs="*",
        metavar="NAME",
        help="names, paths, folders that are there or have a / behind; - reads them from stdin, one a line",
    )
    parser.add_argument("-0", dest="nul", action="store_true", help="read NUL-ended names from stdin, as they are")
    parser.add_argument("--jobs", type=JOBS, default=0, metavar="N", help="parallel processes (default: one per core)")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Identify each name from itself alone and print the result."""
    folders = [name for name in args.names if name.strip("/.") and (name.endswith("/") or os.path.isdir(name))]
    for folder in folders:
        _explain_folder(terminal, args, folder)
    args.names = [name for name in args.names if name not in folders]
    if folders and not args.names:
        return 0
    if not args.names and not args.nul:
        args.names = ["-"]
    if args.names == ["-"] and sys.stdin.isatty():
        terminal.note("Type or paste names, one a line; Ctrl-D ends them.")
    if terminal.as_json:
        doubtful = _as_json(_names(args), args.jobs)
    else:
        doubtful = [_show(terminal, path) for path in _names(args)]
    return NEEDS_YOU if any(doubtful) else 0


def _explain_folder(terminal: Terminal, args: argparse.Namespace, name: str) -> None:
    """Say what a folder is taken for: in its collection where it lies in one, else from its path and what is in it."""
    from lazy_magpie.identify.roles.explanation import explained, in_words

    path, listing, told = _in_collection(args, name) or (os.path.normpath(name).strip("/"), _on_disk(name), {})
    found = explained(path, listing, told)
    reading = found.reading
    if terminal.as_json:
        terminal.json(
            {
                "path": f"{written(path)}/",
                "role": reading.role,
                "kind": reading.matter,
                "confidence": round(reading.chance, 3),
                "roles": {role: round(chance, 3) for role, chance in found.roles.items()},
                "told": reading.told,
                "why": [{"sign": in_words(sign.name), "weight": round(sign.weight, 2)} for sign in found.signs],
            }
        )
        return
    said = "you said so" if reading.told else f"{reading.chance:.0%} sure"
    terminal.say(terminal.styled(f"{written(path)}/", "bold"))
    terminal.say(f"  {ROLE_WORDS[reading.role]}; {said}")
    for sign in found.signs:
        terminal.say(f"  {sign.weight:+5.1f}  {terminal.styled(in_words(sign.name), 'dim')}")
    terminal.say()


def _in_collection(
    args: argparse.Namespace, name: str
) -> tuple[str, Mapping[str, Sequence[str]], Mapping[str, str]] | None:
    """Return a folder's path in its collection, what is listed there, and what was said of folders; None outside."""
    from lazy_magpie.catalogue import MAIN_ROOT, opened  # names alone need none of this
    from lazy_magpie.cli.selection import collection_of, path_in
    from lazy_magpie.drives import present

    try:
        collection = collection_of(args)
        with opened(collection) as catalogue:
            whole = path_in(collection, present(catalogue, collection), name)
            path = collection.relative(whole) if whole else None
            if not path:
                return None
            return path, catalogue.files.listing(MAIN_ROOT), catalogue.roles.told(MAIN_ROOT)
    except MagpieError:
        return None


def _on_disk(name: str) -> Mapping[str, Sequence[str]]:
    """Return what lies in and below a folder that need not be there, as far as one wants to wait for it."""
    found: dict[str, Sequence[str]] = {}
    top = os.path.normpath(name)
    for folder, _, files in islice(os.walk(top), _MOST_FOLDERS):
        found[folder.strip("/")] = files
    return found


def _show(terminal: Terminal, path: str) -> bool:
    """Print how one name is understood; say whether it is not clear."""
    identity = _identity(path)
    terminal.say(terminal.styled(written(path), "bold"))
    show_why(terminal, identity)
    terminal.say()
    return identity.state is not State.CLEAR


def _as_json(paths: Iterator[str], jobs: int) -> list[bool]:
    """Print names as JSON, in order; many names in several processes, a few chunks ahead so that memory stays flat."""
    first = list(islice(paths, _CHUNK))
    text, doubtful = _told(first)
    sys.stdout.write(text)
    if len(first) < _CHUNK:
        return [doubtful]
    from concurrent.futures import Future, ProcessPoolExecutor

    found = [doubtful]
    ahead: deque[Future[tuple[str, bool]]] = deque()
    with ProcessPoolExecutor(jobs or os.cpu_count()) as pool:
        try:
            while (chunk := list(islice(paths, _CHUNK))) or ahead:
                if chunk:
                    ahead.append(pool.submit(_told, chunk))
                if not chunk or len(ahead) > _AHEAD:
                    text, doubtful = ahead.popleft().result()
                    sys.stdout.write(text)
                    found[0] = found[0] or doubtful
        finally:
            pool.shutdown(cancel_futures=True)
    return found


def _told(paths: list[str]) -> tuple[str, bool]:
    """Return the JSON lines of names, and whether any of them is not clear."""
    identities = [_identity(path) for path in paths]
    lines = (as_line(identity_shape(path, identity)) for path, identity in zip(paths, identities, strict=True))
    return "".join(f"{line}\n" for line in lines), any(one.state is not State.CLEAR for one in identities)


def _identity(path: str) -> Identity:
    """Return what a name says; one that can't be read is unknown, with what went wrong."""
    try:
        return identify(path.strip("/"))
    except Exception as error:
        return not_understood(error)


def _names(args: argparse.Namespace) -> Iterator[str]:
    for name in args.names:
        if name != "-":
            yield read_back(os.path.normpath(name))
        elif not args.nul:
            yield from (read_back(os.fsdecode(line)) for line in _lines(b"\n") if line)
    if args.nul:
        yield from (os.fsdecode(name) for name in _lines(b"\0") if name)


def _lines(end: bytes) -> Iterable[bytes]:
    """Yield what stdin holds between `end`s, in bounded memory."""
    rest = b""
    while chunk := os.read(sys.stdin.fileno(), 1 << 16):
        *whole, rest = (rest + chunk).split(end)
        yield from (line.rstrip(b"\r") if end == b"\n" else line for line in whole)
    if rest:
        yield rest


_FROM = {"measured": ""}


def show_why(terminal: Terminal, identity: Identity) -> None:
    """Print an identity: kind and state, each field with where it was seen, the doubts."""
    style = {State.DOUBTFUL: "warn", State.UNKNOWN: "bad"}.get(identity.state, "new")
    state = terminal.styled(identity.state.value, style)
    terminal.say(f"  {identity.kind.value}, {state}, confidence {identity.confidence:.2f}")
    values = {**identity.fields, **identity.facts}
    for name, value in values.items():
        seen = [f"{e.source} “{written(e.text)}”" if e.text else e.source for e in identity.why if e.field == name]
        from_where = terminal.styled(f"  {_FROM.get(seen[0], 'from ')}{', '.join(seen)}", "dim") if seen else ""
        terminal.say(f"  {name.replace('_', ' '):<14} {written(shown(name, value))}{from_where}")
    for doubt in identity.doubts:
        terminal.say(terminal.styled(f"  in doubt: {doubt}", "warn"))
