"""The process that is killed: `python -m tests.chaos.child ROOT apply|recover|undo|redo|empty SEED DRIVE…`."""

from __future__ import annotations

import random
import sys

from lazy_magpie.change import Filesystem, JournalStore, apply, delete_held, held_things, recover, redo, undo
from tests.chaos.plans import Planner


def main(root: str, what: str, seed: str, *drives: str) -> None:
    """Make the plan that the seed gives for the tree, or do what is named; say so before the first change."""
    store = JournalStore(Filesystem(root))
    if what.startswith("apply"):
        chance = random.Random(int(seed))
        ignores_case = what == "apply casefold"
        steps = Planner(store.disk, chance, drives, ignores_case=ignores_case).plan(chance.randrange(3, 25))
        print("go", flush=True)
        apply(store, steps, "chaos")
        return
    print("go", flush=True)
    if what == "recover":
        recover(store)
    elif what == "empty":
        for one in held_things(store):
            delete_held(store.disk, one)
    else:
        (undo if what == "undo" else redo)(store, store.changes()[0])


if __name__ == "__main__":
    main(*sys.argv[1:])
