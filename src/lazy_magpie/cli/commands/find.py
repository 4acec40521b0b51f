"""`magpie find [WORDS…]`: lists items, with chosen columns, sorted, added up, or as a list for others."""

from __future__ import annotations

import argparse
from collections.abc import Iterable, Sequence
from dataclasses import replace
from itertools import islice
from pathlib import Path

from lazy_magpie import find
from lazy_magpie.catalogue import Catalogue, Condition, asks_for, opened
from lazy_magpie.cli.csv_output import print_csv
from lazy_magpie.cli.items_argument import add_items
from lazy_magpie.cli.json_output import item_shape
from lazy_magpie.cli.list_file import ENDINGS, ListFile, check_list
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.output_file import check_page, new_folder, write_new
from lazy_magpie.cli.parser import whole
from lazy_magpie.cli.selection import check_sort, collection_of, condition_of, marked, places_of, told_of_crash
from lazy_magpie.cli.table import Table
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.columns import MIXED, OF_KIND, cells, chosen, least_of, value_of
from lazy_magpie.drives import present
from lazy_magpie.fields import MARKS, is_right, with_custom
from lazy_magpie.formatting import count_text, duration_text, size_text
from lazy_magpie.model import Item, in_path_order

_EXAMPLES = """examples:
  magpie find salt orchard                                 words of title, maker or path
  magpie find kind is track bitrate under 256k lossless is no
  magpie find kind is movie --sort size --reverse --columns title,year,size --remember
  magpie find kind is movie --write films.ods              a list for others: .xlsx, .md, .html, .m3u8 and more
  magpie find kind is kit --page kits.html                 a wall of pictures to look at
  magpie find --total                                      what takes the space
"""
_ALL = "all"


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `find`."""
    parser.epilog = _EXAMPLES
    add_items(parser, "plain words, paths, “kind is movie”; all if none", metavar="WORDS")
    parser.add_argument("--text", nargs="+", metavar="WORD", help="take all of these as plain words")
    parser.add_argument("--columns", metavar="A,B,C", help="the columns to show; “” for the usual ones")
    parser.add_argument("--remember", action="store_true", help="use these columns for this kind from now on")
    parser.add_argument("--sort", metavar="FIELD", default="", help="sort by a field, smallest first")
    parser.add_argument("--reverse", action="store_true", help="largest first")
    parser.add_argument("--limit", type=whole(1, 10**9), metavar="N", help="the first N items alone")
    forms = parser.add_mutually_exclusive_group()
    forms.add_argument("--total", action="store_true", help="count, size and length by kind, shelf, maker and system")
    forms.add_argument("--csv", action="store_true", help="comma-separated values for a spreadsheet")
    forms.add_argument("--write", metavar="FILE", help=f"a list for others, by its ending: {ENDINGS}")
    forms.add_argument("--page", metavar="FILE.html", help="a wall of pictures, in one file")
    forms.add_argument("--folder", dest="page_folder", metavar="DIR", help="the same in a new folder, for very many")
    parser.add_argument("--force", action="store_true", help="let --write and --page replace a file that is there")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """List the items in one of the forms."""
    collection = collection_of(args)
    fields = with_custom(collection.config.fields.values())
    check_sort(args.sort, fields)
    columns = chosen(args.columns, fields) if args.columns is not None else []
    _check_files(args)
    with opened(collection) as catalogue:
        told_of_crash(collection, terminal)
        places = places_of(collection, catalogue)
        condition = find.plain(args.text) if args.text else condition_of(collection, catalogue, args.words, places)
        marked(collection, catalogue, condition, [*columns, args.sort])
        if args.total:
            return _total(collection, catalogue, condition, terminal)
        if args.page or args.page_folder:
            return _wall(args, collection, catalogue, condition, terminal)
        items = _in_order(args, catalogue, condition, beside_last=not terminal.as_json)
        if terminal.as_json and not args.write:
            for item in items:
                terminal.json(item_shape(item, places.away))
            return 0
        found = _with_marks(catalogue, list(items)) if set(MARKS).intersection(columns) else list(items)
        used = columns or _usual(catalogue, found, places)
        tops = present(catalogue, collection) if args.write else {}
        tints = catalogue.tags.colours() if "tag" in used else {}
    if args.remember:
        _keep(collection, found, columns)
    if not found:
        near = "" if args.text else find.mistyped(args.words, fields)
        terminal.note(f"Nothing found. Did you mean the field “{near}”?" if near else "Nothing found.")
        return NEEDS_YOU if near else 0
    if args.write:
        _write(ListFile(Path(args.write), used, found, tops), terminal, force=args.force)
    elif args.csv:
        print_csv(used, ([value_of(item, column) for column in used] for item in found))
    else:
        rows = [cells(item, used, places.away) for item in found]
        shown = Table(used, rows, () if columns else least_of(used), list(filter(is_right, used)))
        dim = [at for at, item in enumerate(found) if item.matters_less]
        terminal.table(shown, tints=tints, dim=dim)
    return 0


def _check_files(args: argparse.Namespace) -> None:
    """Raise UsageError where the file to write can't be, before anything is looked for."""
    if args.write:
        check_list(Path(args.write))
    if args.page:
        check_page(Path(args.page), force=args.force)


def _in_order(
    args: argparse.Namespace, catalogue: Catalogue, condition: Condition, *, beside_last: bool
) -> Iterable[Item]:
    items = catalogue.items.ask(condition, args.sort, down=args.reverse, gone=asks_for(condition, "gone"))
    if not args.sort:
        items = in_path_order(items, down=args.reverse, beside_last=beside_last)
    return islice(items, args.limit) if args.limit else items


def _write(made: ListFile, terminal: Terminal, *, force: bool) -> None:
    made.write(force=force)
    count = len(made.items) - made.left
    if terminal.as_json:
        terminal.json({"file": str(made.path), "items": count, "left": made.left})
    else:
        left = f"; {made.left:,} left out, which no player plays or which are away" if made.left else ""
        terminal.note(f"{count_text(count, 'item')} in {made.path}{left}.")


def _wall(
    args: argparse.Namespace, collection: Collection, catalogue: Catalogue, condition: Condition, terminal: Terminal
) -> int:
    """Write the wall of what is found: one file, or a folder."""
    from lazy_magpie.report.wall_page import MOST_IN_ONE
    from lazy_magpie.services.wall import too_many, wall_of

    path = Path(args.page or args.page_folder)
    home = (path.absolute() if args.page_folder else path.absolute().parent).resolve()
    items = list(_in_order(args, catalogue, condition, beside_last=True))
    if not items:
        terminal.note("Nothing found.")
        return 0
    if args.page and len(items) > MOST_IN_ONE:
        raise too_many(len(items))
    with terminal.progress("drawing") as tick:
        wall = wall_of(collection, catalogue, items, str(home), tick)
        if args.page:
            write_new(path, wall.as_one_file(), force=args.force)
        else:
            with new_folder(path) as part:
                wall.write_to(part, lambda count: tick(count, "copying"))
    pictures = sum("picture" in row for row in wall.rows)
    shown = path if args.page else path / "index.html"
    if terminal.as_json:
        terminal.json({"file": str(shown), "items": len(items), "pictures": pictures})
    else:
        terminal.note(f"The page is {shown}: {count_text(len(items), 'item')}, {pictures:,} with a picture.")
    return 0


def _kind_of(found: Sequence[Item]) -> str:
    """Return the one kind that all items are of, “all” where they are of several."""
    kinds = {item.kind.value for item in found}
    return kinds.pop() if len(kinds) == 1 else _ALL


def _usual(catalogue: Catalogue, found: Sequence[Item], places: find.Places) -> list[str]:
    """Return the columns that a person kept for the kind listed, else the usual ones."""
    kind = _kind_of(found)
    root = ["root"] if places.roots else []
    return catalogue.items.kept_columns(kind) or root + list(OF_KIND.get(kind, MIXED))


def _with_marks(catalogue: Catalogue, found: Sequence[Item]) -> list[Item]:
    """Return items with what reference lists and preferences say of them."""
    marks = catalogue.marks.of(item.id for item in found)
    return [replace(one, facts={**one.facts, **marks[one.id].values}) if one.id in marks else one for one in found]


def _keep(collection: Collection, found: Sequence[Item], columns: Sequence[str]) -> None:
    from lazy_magpie.lock import locked

    with locked(collection.state_dir, "find --remember"), opened(collection, write=True) as catalogue:
        catalogue.items.keep_columns(_kind_of(found), columns)


def _total(collection: Collection, catalogue: Catalogue, condition: Condition, terminal: Terminal) -> int:
    """Add up by kind, shelf, maker and system."""
    from lazy_magpie.report.totals import Weight, totals

    found = totals((Weight(*each) for each in catalogue.items.weigh(condition)), collection.config.shelf_name)
    if terminal.as_json:
        for one in found:
            terminal.json(one.shape())
        return 0
    table = [
        (one.by, one.name, f"{one.count:,}", size_text(one.size), duration_text(one.length) * bool(round(one.length)))
        for one in found
    ]
    columns = ("by", "name", "count", "size", "length")
    terminal.table(Table(columns, table, least=("length",), right=("count", "size", "length")))
    return 0
