"""`magpie titles add|list|search|serve|drop`: title lists and title services."""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from pathlib import Path

from lazy_magpie.catalogue import Catalogue, NewTitle, opened
from lazy_magpie.cli.parser import whole
from lazy_magpie.cli.selection import collection_of
from lazy_magpie.cli.serving import serve, started
from lazy_magpie.cli.table import Table
from lazy_magpie.cli.terminal import Terminal, Ticker
from lazy_magpie.errors import UsageError
from lazy_magpie.formatting import count_text
from lazy_magpie.lock import locked
from lazy_magpie.suggest import nearest
from lazy_magpie.titles import TitleMatch, containing, ranked
from lazy_magpie.titles.list_files import KINDS, read_titles
from lazy_magpie.titles.reconciliation_client import Service, Services

_EXAMPLES = """examples:
  magpie titles add films.csv                    a list: kind, title, year, other titles, season, episode, …
  magpie titles add http://localhost:8710/       a service that speaks the Reconciliation Service API
  magpie titles search tern watchers --kind movie
  magpie titles serve films.csv --port 8710      serves a list to others at home
"""
PORT = 8710
_MOST = 20


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `titles`."""
    parser.epilog = _EXAMPLES
    parser.add_argument(
        "words", nargs="+", metavar="add FILE|URL | list | search WORDS | serve FILE | drop NAME", help="what to do"
    )
    parser.add_argument("--name", default="", help="what a list or service is called here")
    parser.add_argument("--kind", choices=KINDS, metavar="KIND", help=f"search one kind alone: {', '.join(KINDS)}")
    parser.add_argument("--year", type=whole(0, 9_999), default=0, help="search with a year")
    parser.add_argument(
        "--port", type=whole(0, 65_535), default=PORT, help=f"serve at this port ({PORT}); 0 takes any that is free"
    )
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Do one of the five."""
    match args.words:
        case ["serve", file]:
            return _serve(Path(file), args.port, terminal)
        case ["add", source]:
            return _add(args, source, terminal)
        case ["list"]:
            return _list(args, terminal)
        case ["search", *words] if words:
            return _search(args, " ".join(words), terminal)
        case ["drop", name]:
            return _drop(args, name, terminal)
        case _:
            raise UsageError("“magpie titles” takes add FILE|URL, list, search WORDS, serve FILE, or drop NAME.")


def _add(args: argparse.Namespace, source: str, terminal: Terminal) -> int:
    """Read a list into the catalogue, or meet a service and keep its address."""
    collection = collection_of(args)
    is_service = source.startswith(("http://", "https://"))
    with locked(collection.state_dir, "titles add"), opened(collection, write=True, scanned=False) as catalogue:
        if is_service:
            service = Service(source)
            service.meet()
            name = args.name or service.name
            catalogue.titles.add_list(name, source, "service")
            text = f"The service “{name}” is asked from now on."
            count = 0
        else:
            path = Path(source)
            name = args.name or path.stem
            with terminal.progress("reading") as tick:
                count = catalogue.titles.add(catalogue.titles.add_list(name, str(path), "file"), _told(path, tick))
            text = f"{count_text(count, 'title')} in the list “{name}”."
    if terminal.as_json:
        terminal.json({"list": name, "source": source, "titles": count})
    else:
        terminal.say(text)
        terminal.note("Next: magpie settle --auto takes what is beyond doubt; magpie settle shows the rest.")
    return 0


def _told(path: Path, tick: Ticker) -> Iterator[NewTitle]:
    for number, title in enumerate(read_titles(path), start=1):
        if number % 1000 == 0:
            tick(number)
        yield title


def _list(args: argparse.Namespace, terminal: Terminal) -> int:
    with opened(collection_of(args), scanned=False) as catalogue:
        lists = catalogue.titles.lists()
    if terminal.as_json:
        for one in lists:
            terminal.json(
                {"list": one.name, "type": one.sort, "source": one.source, "titles": one.titles, "added": one.added}
            )
    elif not lists:
        terminal.note("There is no title list; “magpie titles add FILE” reads one.")
    else:
        rows = [
            (one.name, one.sort, f"{one.titles:,}" if one.sort == "file" else "", one.source, one.added[:10])
            for one in lists
        ]
        terminal.table(Table(("list", "type", "titles", "source", "added"), rows, ("type",), right=("titles",)))
    return 0


def _search(args: argparse.Namespace, words: str, terminal: Terminal) -> int:
    collection = collection_of(args)
    kinds = [args.kind] if args.kind else list(KINDS)
    with locked(collection.state_dir, "titles search"), opened(collection, write=True, scanned=False) as catalogue:
        found = _found(catalogue, kinds, words, args.year, terminal)
    if terminal.as_json:
        for one in found:
            terminal.json(candidate_shape(one))
    elif not found:
        terminal.note(f"No list has a title like “{words}”.")
    else:
        kinds_of: dict[tuple[str, ...], list[str]] = {}  # a service may know no kinds: one line for all of them
        for one in found:
            shown = (one.text, f"{one.score:.2f}", one.why, "; ".join(one.title.others), one.title.list)
            kinds_of.setdefault(shown, []).append(one.title.kind)
        rows = [("any" if len(of) == len(KINDS) else ", ".join(of), *shown) for shown, of in kinds_of.items()]
        columns = ("kind", "title", "score", "why", "other titles", "list")
        terminal.table(Table(columns, rows, ("list", "other titles", "kind"), right=("score",)))
    return 0


def _found(catalogue: Catalogue, kinds: list[str], words: str, year: int, terminal: Terminal) -> list[TitleMatch]:
    Services(catalogue.titles, terminal.note).prepare((kind, words, year) for kind in kinds)
    found = ranked(catalogue.titles, kinds, words, year)
    there = {one.title.id for one in found}
    return [*found, *(one for one in containing(catalogue.titles, kinds, words) if one.title.id not in there)][:_MOST]


def candidate_shape(one: TitleMatch) -> dict[str, object]:
    """Return a candidate as JSON."""
    title = one.title
    return {
        "kind": title.kind,
        "title": title.title,
        "year": title.year or None,
        "maker": title.maker,
        "other_titles": list(title.others),
        "score": round(one.score, 4),
        "why": one.why,
        "list": title.list,
    }


def _drop(args: argparse.Namespace, name: str, terminal: Terminal) -> int:
    collection = collection_of(args)
    with locked(collection.state_dir, "titles drop"), opened(collection, write=True, scanned=False) as catalogue:
        names = [one.name for one in catalogue.titles.lists()]
        if not catalogue.titles.remove_list(name):
            raise UsageError(f"There is no title list “{name}”{nearest(name, names)} “magpie titles list” lists them.")
    terminal.note(f"The list “{name}” is removed; what it settled stays settled.")
    return 0


def _serve(path: Path, port: int, terminal: Terminal) -> int:
    """Serve a list on loopback until Ctrl-C."""
    from lazy_magpie.titles.reconciliation_server import Server

    server = started(lambda: Server(path, port), port)
    text = f"{count_text(server.count, 'title')} of {path} at {server.url}"
    return serve(server, terminal, {"url": server.url, "titles": server.count}, text)
