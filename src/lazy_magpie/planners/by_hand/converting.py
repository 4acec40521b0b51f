"""Plans turning files into another form by a declared outside program; the originals are held once it is proved."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from lazy_magpie.config import ConvertConfig
from lazy_magpie.model import Conflict, PathStamp, Plan, Step, Unmoved
from lazy_magpie.model.proofs import Converted
from lazy_magpie.model.steps import Convert, Hold, renumbered
from lazy_magpie.paths import name_of, parent, split_ending, written
from lazy_magpie.planners.by_hand.chosen import Chosen
from lazy_magpie.planners.by_hand.free_names import FreeNames
from lazy_magpie.planners.directory_index import Listing

_AT_ONCE = 16
"""So many are turned, then their originals held: a plan of many needs no room for all of them twice."""


def convert_by_hand(
    things: Sequence[Sequence[Chosen]], convert: ConvertConfig, listing: Listing, *, trust: bool
) -> Plan:
    """Plan turning each of `things` (the files of one thing) into one file; what it took is held once it is proved.

    Without a way to prove it, it is held only with `trust`. What the program does not take is passed over.
    """
    names = FreeNames(listing)
    found: list[Convert] = []
    conflicts: list[Conflict] = []
    unmoved: list[Unmoved] = []
    passed = 0
    is_proved = bool(convert.by.back or convert.by.check)
    for files in things:
        lead = next((one for one in files if split_ending(one.path)[1].lower()[1:] in convert.takes), None)
        if lead is None:
            passed += 1
            continue
        target = f"{split_ending(lead.path)[0]}.{convert.makes}"
        if conflict := names.claim(target, lead.path):
            if is_proved or trust:
                conflicts.append(conflict)
            else:  # nothing was held, so this is what the last run has made
                unmoved.append(Unmoved(lead.path, f"“{written(name_of(target))}” is there already"))
            continue
        inputs = [lead, *(one for one in files if one.path != lead.path)]
        bundle = len(found) + 1
        step = Convert(
            source=lead.path,
            target=target,
            why=f"by {convert.by.name}" + ("" if is_proved else ", which nothing proves"),
            group=parent(lead.path) or ".",
            bundle=bundle,
            stamp=lead.stamp,
            inputs=tuple(PathStamp(one.path, one.stamp) for one in inputs if one.stamp),
            by=convert.by,
        )
        found.append(step)
    steps: list[Step] = []
    for at in range(0, len(found), _AT_ONCE):
        together = found[at : at + _AT_ONCE]
        steps += together
        if is_proved or trust:
            steps += (hold for made in together for hold in _holds(made))
    counted = {f"of another ending than {', '.join(convert.takes)}": passed} if passed else {}
    return Plan("convert", renumbered(steps), tuple(conflicts), tuple(unmoved), counted)


def _holds(made: Convert) -> Iterator[Hold]:
    """Yield the steps that hold what a conversion took."""
    for file in made.inputs:
        yield Hold(
            source=file.path,
            why=f"turned into {name_of(made.target)}",
            group=made.group,
            bundle=made.bundle,
            stamp=file.stamp,
            proofs=(Converted(made.target),),
        )
