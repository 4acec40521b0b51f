"""`magpie match [LIST…]`: holds what is there against reference lists, and plans putting it right."""

from __future__ import annotations

import argparse
from collections import Counter
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

from lazy_magpie.cli.csv_output import print_csv
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.output_file import written_whole
from lazy_magpie.cli.parser import JOBS
from lazy_magpie.cli.proposal import add_proposal, answer, check_fix, propose
from lazy_magpie.cli.selection import collection_of
from lazy_magpie.cli.table import Table
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.errors import MagpieError
from lazy_magpie.formatting import count_text, size_text
from lazy_magpie.lists.loading import ReferenceList
from lazy_magpie.lists.matched import Counts, FileMatch, GameMatch, MatchState, Stranger
from lazy_magpie.model.reference import MISSING
from lazy_magpie.paths import written
from lazy_magpie.services.match import Matching, export_sets, open_lists
from lazy_magpie.services.session import writing

_EXAMPLES = """examples:
  magpie match                             how every list stands
  magpie match pocket                      one list: what is not as it says, and what to do
  magpie match pocket --state absent       what is missing
  magpie match --fix                       plan names, places and archives as the lists have them
  magpie match --export SHA256SUMS pocket  write a list of what there is
Lists are named in magpie.toml: [list.NAME] with file and folder.
"""
_NAMED = 20
_COLUMNS = ("list", "set", "file", "state", "path", "want", "text")
_SAYS = {
    MatchState.ELSEWHERE: "it lies elsewhere",
    MatchState.MISNAMED: "it has another name",
    MatchState.DAMAGED: "it is not what the list has",
    MatchState.ABSENT: "it is absent",
}


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `match`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("lists", nargs="*", metavar="LIST", help="names of lists; all if none")
    states = [state.value for state in MatchState]
    parser.add_argument("--state", choices=states, metavar="STATE", help=f"only these: {', '.join(states)}")
    parser.add_argument("--total", action="store_true", help="a line a list, also where lists are named")
    parser.add_argument("--csv", action="store_true", help="comma-separated values for a spreadsheet")
    parser.add_argument("--contents", action="store_true", help="read again all that lies in the lists' folders")
    doing = parser.add_mutually_exclusive_group()
    doing.add_argument("--fix", action="store_true", help="plan names, places and archives as the lists have them")
    doing.add_argument("--export", metavar="FILE", help="write a list of what there is: XML, CSV, or checksums")
    parser.add_argument("--jobs", type=JOBS, default=0, metavar="N", help="parallel readers (default: one per core)")
    add_proposal(parser)
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Match, and print how lists stand, or make the plan, or write a list."""
    collection = collection_of(args)
    check_fix(args)
    digests = _digests(args.export) if args.export else ()
    is_total = args.total or not (args.lists or args.state or args.csv or terminal.as_json)
    with writing(collection, "match", terminal.note) as catalogue:
        matching = open_lists(collection, catalogue, args.lists)
        for wrong in matching.wrong:
            terminal.note(wrong)
        if args.export:
            return _export(args, matching, digests, terminal)
        counts = matching.known_counts() if is_total and not (args.fix or args.contents) else None
        if counts is None:
            with terminal.progress("reading") as tick:
                matching.read(args.jobs, lambda count: tick(count, "reading"), anew=args.contents)
            _name_unreadable(terminal, matching)
        if args.fix:
            proposal = propose(collection, catalogue, matching.plan(), args, terminal)
        elif is_total:
            return _code(matching, _overview(terminal, matching, counts or matching.counts(), as_csv=args.csv))
        else:
            found = (one for one in matching.results() if not args.state or _state_of(one) == args.state)
            return _code(matching, _opened(args, terminal, matching, found))
    return _code(matching, answer(proposal, args, terminal, "Nothing to put right."))


def _code(matching: Matching, code: int) -> int:
    """Return the exit code: a list that could not be read is worse than what the others say."""
    return MagpieError.exit_code if matching.wrong else code


def _name_unreadable(terminal: Terminal, matching: Matching) -> None:
    found = matching.unreadable
    shown = found if terminal.verbose else found[:_NAMED]
    for path, why in shown:
        terminal.note(f"not read: {written(path)}: {why}")
    if more := len(found) - len(shown):
        terminal.note(f"not read: {count_text(more, 'more file')} (-v lists them)")


# --- how lists stand --------------------------------------------------------------------------------------------------


def _overview(terminal: Terminal, matching: Matching, counts: dict[int, Counts], *, as_csv: bool) -> int:
    """Print a line a list."""
    shapes = [_list_shape(one, counts[one.known.id]) for one in matching.lists]
    if terminal.as_json:
        for shape in shapes:
            terminal.json(shape)
    elif as_csv:
        print_csv(list(shapes[0]) if shapes else (), (shape.values() for shape in shapes))
    else:
        columns = ("list", "there", "size", *_OTHERS, "version", "folder")
        rows = [_row(one, counts[one.known.id]) for one in matching.lists]
        empty = [name for name in _OTHERS if not any(row[columns.index(name)] for row in rows)]
        keep = [at for at, name in enumerate(columns) if name not in empty]
        names = [columns[at] for at in keep]
        cells = [[row[at] for at in keep] for row in rows]
        table = Table(names, cells, ("version", "size"), right=set(columns) - _TEXTS)
        terminal.table(table)
        if any(one.games[state] for one in counts.values() for state in ("elsewhere", "misnamed")):
            terminal.note("\nNext: magpie match --fix, or magpie match LIST to open one list.")
        elif matching.lists:
            terminal.note("\nNext: magpie match LIST opens one list.")
    right = all(set(one.games) <= {"there"} and not one.unknown for one in counts.values())
    return 0 if right else NEEDS_YOU


_OTHERS = ("elsewhere", "misnamed", "damaged", "incomplete", "absent", "unknown")
_TEXTS = {"list", "version", "folder"}


def _row(one: ReferenceList, counts: Counts) -> list[str]:
    def shown(number: int) -> str:
        return f"{number:,}" if number else ""

    numbers = [shown(counts.games[state]) for state in _OTHERS[:-1]]
    return [
        written(one.name),
        f"{counts.games['there']:,} of {counts.all_games:,}",
        f"{size_text(counts.bytes)} of {size_text(counts.all_bytes)}",
        *numbers,
        shown(counts.unknown),
        written(one.known.version),
        written(one.folder),
    ]


def _list_shape(one: ReferenceList, counts: Counts) -> dict[str, Any]:
    return {
        "list": written(one.name),
        "section": one.known.section,
        "about": written(one.known.about),
        "version": written(one.known.version),
        "date": written(one.known.date),
        "folder": written(one.folder),
        "games": counts.all_games,
        **{state.value: counts.games[state.value] for state in MatchState if state is not MatchState.UNKNOWN},
        "unknown": counts.unknown,
        "files": counts.all_files,
        "files_there": counts.files,
        "bytes": counts.all_bytes,
        "bytes_there": counts.bytes,
    }


# --- lists opened -----------------------------------------------------------------------------------------------------


def _opened(
    args: argparse.Namespace, terminal: Terminal, matching: Matching, found: Iterable[GameMatch | Stranger]
) -> int:
    """Print every game with how it stands, and what no list has."""
    if terminal.as_json or args.csv:
        return _lines(terminal, found, as_csv=args.csv)
    there: Counter[int] = Counter()
    rows: dict[int, list[list[str]]] = {}
    for one in found:
        of = 0 if isinstance(one, Stranger) else one.list.known.id
        if _state_of(one) == MatchState.THERE and not args.state:
            there[of] += 1
        else:
            rows.setdefault(of, []).append(_cells(one))
    with terminal.paged():
        shown = [one for one in matching.lists if not args.state or one.known.id in rows]
        for number, one_list in enumerate(shown):
            own = rows.get(one_list.known.id, [])
            if number:
                terminal.say()
            _show_list(terminal, one_list, there[one_list.known.id], own)
        if strangers := rows.get(0):
            terminal.say()
            terminal.table(Table(("state", "path", "why"), [[row[0], row[3], row[2]] for row in strangers]))
    states = {row[0] for some in rows.values() for row in some}
    if states & {MatchState.ELSEWHERE, MatchState.MISNAMED, MatchState.UNKNOWN}:
        terminal.note(f"\nNext: magpie match {' '.join(args.lists)} --fix".replace("  ", " "))
    return NEEDS_YOU if states - {MatchState.THERE} else 0


def _show_list(terminal: Terminal, one: ReferenceList, there: int, rows: list[list[str]]) -> None:
    """Print a list's heading, and its games that need something."""
    version = f", version {written(one.known.version)}" if one.known.version else ""
    about = f": {written(one.known.about)}" if one.known.about else ""
    terminal.say(terminal.styled(f"{written(one.name)}{about}{version}", "bold"))
    terminal.say(f"{written(one.known.path)} → {written(one.folder)}/")
    if there:
        terminal.say(f"{count_text(there, 'game')} there (--state there lists them)")
    if rows:
        terminal.say()
        terminal.table(Table(("state", "game", "why", "path"), rows, least=("path",)))


def _cells(one: GameMatch | Stranger) -> list[str]:
    if isinstance(one, Stranger):
        return [MatchState.UNKNOWN.value, "", _briefly(_stranger_text(one)), written(one.place.path)]
    return [one.state.value, written(one.game.name), _briefly(one.text), written(one.path)]


def _briefly(text: str) -> str:
    """Return what is said of a game without what --fix does: that is said once, below the table."""
    return "; ".join(part for part in text.split("; ") if not part.startswith("--fix"))


def _stranger_text(one: Stranger) -> str:
    return "a second copy; --fix holds it" if one.twins else "no list has it; --fix moves it to the inbox"


def _state_of(one: GameMatch | Stranger) -> MatchState:
    return MatchState.UNKNOWN if isinstance(one, Stranger) else one.state


def _lines(terminal: Terminal, found: Iterable[GameMatch | Stranger], *, as_csv: bool) -> int:
    """Print a line a game, and one for each of its files that stands otherwise than the game."""
    states: set[MatchState] = set()

    def shapes() -> Iterator[dict[str, Any]]:
        for one in found:
            states.add(_state_of(one))
            yield from _shapes(one)

    if as_csv:
        print_csv(_COLUMNS, (shape.values() for shape in shapes()))
    else:
        for shape in shapes():
            terminal.json(shape)
    return NEEDS_YOU if states - {MatchState.THERE} else 0


def _shapes(one: GameMatch | Stranger) -> Iterator[dict[str, Any]]:
    if isinstance(one, Stranger):
        path = written(one.place.path)
        yield _shape(None, None, None, MatchState.UNKNOWN, path, None, _stranger_text(one))
        return
    name, game = written(one.list.name), written(one.game.name)
    single = one.files[0] if len(one.files) == 1 else None
    file = written(single.wanted.name) if single else None
    yield _shape(name, game, file, one.state, written(one.path) or None, written(one.want), one.text)
    for match in one.files if len(one.files) > 1 else ():
        if match.state is not one.state:
            yield _file_shape(name, game, match)


def _file_shape(name: str, game: str, match: FileMatch) -> dict[str, Any]:
    path, want = written(match.path) or None, written(match.want)
    says = "no copy of it is known" if match.wanted.status == MISSING and not path else _SAYS.get(match.state, "")
    return _shape(name, game, written(match.wanted.name), match.state, path, want, says)


def _shape(
    name: str | None,
    game: str | None,
    file: str | None,
    state: MatchState,
    path: str | None,
    want: str | None,
    text: str,
) -> dict[str, Any]:
    found = (name, game, file, state.value, path, want, text)
    return dict(zip(_COLUMNS, found, strict=True))


def _digests(name: str) -> tuple[str, ...]:
    from lazy_magpie.lists.writing import digests_for

    return digests_for(Path(name).name)


# --- a list of what there is ------------------------------------------------------------------------------------------


def _export(args: argparse.Namespace, matching: Matching, digests: tuple[str, ...], terminal: Terminal) -> int:
    """Write a list of what there is of the chosen lists, or of all games."""
    from lazy_magpie.lists.writing import list_text

    path = Path(args.export)
    with terminal.progress("reading") as tick:
        sets = export_sets(matching, bool(args.lists), digests, args.jobs, lambda count: tick(count, "reading"))
    _name_unreadable(terminal, matching)
    title = matching.lists[0].name if args.lists and matching.lists else matching.collection.config.name
    with (
        written_whole(path, force=args.force) as part,
        part.open("w", encoding="utf-8", errors="surrogateescape") as out,
    ):
        out.writelines(list_text(path.name, title, sets))
    terminal.note(f"{path} has {count_text(sum(len(one.files) for one in sets), 'file')}.")
    return _code(matching, 0)
