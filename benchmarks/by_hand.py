"""How long names by hand take: `python -m benchmarks.by_hand [COUNT]`.

Compares planning the renames of COUNT files (a template, a swap and a number) with a bare loop that builds the same
names, in the same process: a ratio, since what a machine takes says little. The parts of the plan are timed apart.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable, Iterator
from functools import partial

from lazy_magpie.config import Config
from lazy_magpie.model import File, Item, Kind, State
from lazy_magpie.naming import template_of
from lazy_magpie.paths import name_of
from lazy_magpie.planners.by_hand import operations
from lazy_magpie.planners.by_hand.chosen import Chosen, chosen_of
from lazy_magpie.planners.by_hand.rename import rename


def _items(count: int) -> list[Item]:
    found = []
    for number in range(count):
        fields = {"artist": f"Choir {number // 400}", "title": f"Slack Water {number}", "track": number % 40 + 1}
        path = f"Music/{fields['artist']}/Tide {number // 40}/{number % 40:02} song_{number}.flac"
        file = File(path, 1_000_000 + number, 1_700_000_000_000_000_000 + number, number + 1)
        found.append(Item(number + 1, path, Kind.TRACK, State.CLEAR, 0.99, fields, {"bitrate": 192000}, files=(file,)))
    return found


def _best(work: Callable[[], object]) -> float:
    times = []
    for _ in range(5):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return min(times)


def main(count: int) -> None:
    """Print the seconds of both, and their ratio."""
    items = _items(count)
    names: dict[str, set[str]] = {}
    for item in items:
        folder, _, name = item.path.rpartition("/")
        names.setdefault(folder, set()).add(name)
    listed = {folder: frozenset(inside) for folder, inside in names.items()}
    template = template_of("{artist} - {title} {number}")
    chosen = [one for item in items for one in chosen_of(item)]

    def planned() -> object:
        steps = [operations.to(template, everywhere=True), operations.swap("Water", "Tide")]
        return rename(chosen, steps, operations.counter("1"), Config(), lambda folder: listed.get(folder, frozenset()))

    def bare() -> object:
        width = len(str(count))
        found = []
        for number, item in enumerate(items, start=1):
            folder, _, name = item.path.rpartition("/")
            ending = name[name.rfind(".") :]
            values = item.fields
            new = f"{values['artist']} - {values['title']} {number:0{width}}".replace("Water", "Tide")
            found.append((item.path, f"{folder}/{new}{ending}"))
        return found

    def named() -> object:
        steps = [operations.to(template, everywhere=True), operations.swap("Water", "Tide")]
        about = [operations.Renamed(partial(one.values, Config()), number) for one, number in _numbered(chosen)]
        old = [operations.name_from(name_of(one.path), is_folder=False) for one in chosen]
        return [operations.renamed(*pair, steps) for pair in zip(old, about, strict=True)]

    ours, same, loop = _best(planned), _best(named), _best(bare)
    print(f"{count:,} renames planned: {ours:.3f} s")
    print(f"  against a loop that only works the names out, by the same operations: {ours / same:.1f}")
    print(f"  against a bare loop that writes the same names with an f-string: {ours / loop:.1f}")


def _numbered(chosen: list[Chosen]) -> Iterator[tuple[Chosen, str]]:
    return zip(chosen, operations.Counter().texts(len(chosen)), strict=True)


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 20_000)
