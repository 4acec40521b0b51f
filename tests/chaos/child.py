"""The process that is killed: `python -m tests.chaos.child ROOT apply|recover SEED DRIVE…`."""

from __future__ import annotations

import random
import sys

from lazy_magpie.change import Area, Disk, apply, recover
from tests.chaos.plans import Planner


def main(root: str, what: str, seed: str, *drives: str) -> None:
    """Make the plan that the seed gives for the tree as it lies, or recover; say so before the first change."""
    disk = Disk(root)
    if what == "recover":
        print("go", flush=True)
        recover(Area(disk))
        return
    chance = random.Random(int(seed))
    steps = Planner(disk, chance, drives).plan(chance.randrange(3, 25))
    print("go", flush=True)
    apply(Area(disk), steps, "chaos")


if __name__ == "__main__":
    main(*sys.argv[1:])
