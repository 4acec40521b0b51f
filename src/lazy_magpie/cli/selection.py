"""Opening the collection, and choosing items: paths, find words, or both."""

from __future__ import annotations

import argparse
import getpass
import os
import sys
from collections.abc import Collection as Collection_
from collections.abc import Mapping, Sequence
from pathlib import Path

from lazy_magpie import collection as collections
from lazy_magpie import find
from lazy_magpie.catalogue import MAIN_ROOT, Below, Catalogue, Condition, OneOf, asks_for
from lazy_magpie.cli.items_argument import take_listed
from lazy_magpie.cli.terminal import Terminal, outgoing
from lazy_magpie.collection import Collection
from lazy_magpie.drives import present
from lazy_magpie.errors import UsageError
from lazy_magpie.fields import MARKS, with_custom
from lazy_magpie.model import id_number
from lazy_magpie.passwords import PASSWORDS
from lazy_magpie.paths import is_below, join, read_back, written
from lazy_magpie.services.session import was_cut_off
from lazy_magpie.suggest import nearest


def collection_of(args: argparse.Namespace) -> Collection:
    """Return the collection that -C or the current folder names, with its configuration checked."""
    found = collections.find(Path(args.folder))
    take_listed(args, found.root)
    file = found.config.intake.passwords
    PASSWORDS.use(str(found.root / file) if file else "", _ask_password if sys.stdin.isatty() else None)
    return found


def _ask_password(archive: str) -> str:
    """Ask a person, on the terminal, for the password of an archive; "" says that there is none."""
    return getpass.getpass(outgoing(f"Password of {written(archive)} (empty: none): "), stream=sys.stderr)


def condition_of(
    collection: Collection, catalogue: Catalogue, words: Sequence[str], places: find.Places | None = None
) -> Condition:
    """Return the condition for items chosen by paths, find words, an id, or all of these."""
    if len(words) == 1 and (number := id_number(words[0])):
        one = OneOf((number,))
        if next(catalogue.items.ask(one, gone=True), None):
            return one
    chosen = find.parse(words, places or places_of(collection, catalogue))
    return marked(collection, catalogue, catalogue.items.looked_up(chosen))


def marked(
    collection: Collection, catalogue: Catalogue, condition: Condition, columns: Sequence[str] = ()
) -> Condition:
    """Return a condition once what it asks of reference lists and preferences is up to date, also for columns."""
    if any(asks_for(condition, name) or name in columns for name in MARKS):
        from lazy_magpie.services.marks import refresh_marks

        refresh_marks(collection, catalogue)
    return condition


def check_sort(field: str, fields: Collection_[str]) -> None:
    """Raise UsageError for a field that there is not, to sort by; "" is none."""
    if field and field not in fields:
        raise UsageError(f"There is no field “{field}” to sort by{nearest(field, fields)}")


def nothing_matches(words: Sequence[str]) -> UsageError:
    """Return the error for words that name no item."""
    return UsageError(f"Nothing matches “{' '.join(words)}”; “magpie find” lists what there is.")


def some_of(collection: Collection, catalogue: Catalogue, words: Sequence[str]) -> Condition:
    """Return the condition that words say, everything if there are none. Raises UsageError where they name no item."""
    condition = condition_of(collection, catalogue, words)
    if words and next(catalogue.items.ask(condition), None) is None:
        raise nothing_matches(words)
    return condition


def places_of(collection: Collection, catalogue: Catalogue) -> find.Places:
    """Return what paths, shelves and roots are called in this collection."""
    here = present(catalogue, collection)
    known = {root.name: root.number for root in catalogue.roots.all()}

    def path_of(word: str) -> Below | None:
        whole = path_in(collection, here, word)
        if whole is None:
            return None
        root = next(name for name, top in here.items() if is_below(whole, top))
        return Below(whole[len(here[root]) + 1 :], known[root])

    def thing_at(place: Below) -> Condition:
        top = here[next(name for name, number in known.items() if number == place.root)]
        if place.root != MAIN_ROOT or not place.path or os.path.isdir(join(top, place.path)):
            return place
        id = None if catalogue.items.at(place.path) else catalogue.items.having(place.path)
        return OneOf((id,)) if id else place

    shelves = {
        shelf.name: Below(shelf.folder, known[shelf.root]) for shelf in collection.config.shelves if shelf.root in known
    }
    roots = [name for name in known if name]
    away = [name for name in roots if name not in here]
    return find.Places(path_of, thing_at, shelves, roots, away, with_custom(collection.config.fields.values()))


def path_in(collection: Collection, here: Mapping[str, str], word: str) -> str | None:
    """Return the whole path that a word names on a root, None where it names none: from here, or from the own root.

    `here` has the folders of the roots that are there, by their names. Raises UsageError for what lies elsewhere.
    """
    spelled = dict.fromkeys((word, read_back(word)))
    for candidate in (place(each) for each in spelled for place in (os.path.abspath, collection.root.joinpath)):
        candidate = str(candidate)
        if os.path.lexists(candidate) and ("/" in word or os.path.exists(candidate)):
            inside = collection.relative(candidate)
            if inside is not None:
                return join(str(collection.root), inside) if inside else str(collection.root)
            if any(is_below(candidate, top) for name, top in here.items() if name):
                return candidate
    if word.startswith(("/", "./", "../")):
        raise UsageError(f"“{word}” is not in the collection {collection.root}.")
    return None


def agreed(question: str) -> bool:
    """Ask on stderr, and say whether the answer was a whole yes."""
    print(f"{outgoing(question)} [yes/no] ", end="", file=sys.stderr, flush=True)
    return sys.stdin.readline().strip().lower() == "yes"


def told_of_crash(collection: Collection, terminal: Terminal) -> None:
    """Say that a crash has left a change unfinished: what a command that only reads does about it."""
    if not was_cut_off(collection):
        return
    from lazy_magpie.change import Filesystem, JournalStore, unfinished

    for found in unfinished(JournalStore(Filesystem(str(collection.root)))):
        terminal.note(
            f"Change {found.number} ({found.command}) is unfinished after a crash; the next command that writes "
            "puts it right."
        )
