"""How likely a reading is right: signs of a reading, weighed by weights that were fitted on trees it had not seen.

What a file is taken for comes from many places: patterns of its kind, the slots of its words, the roles of its folders,
what lies beside it. None of these knows how often it errs; here all that is known of one reading is put together into
one probability, and what is below `SURE_FROM` is a doubt.
"""

from __future__ import annotations

import json
import math
from collections import Counter
from collections.abc import Iterator, Mapping
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Any

from lazy_magpie.identify.roles.features import group_of, matter_of
from lazy_magpie.identify.roles.place import FolderReading, RoledPlace
from lazy_magpie.identify.slots.kinds import SlotReading
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Identity, Kind, State, reason_of
from lazy_magpie.paths import name_of, split_ending
from lazy_magpie.words import inside, meaning, remembered

SURE_FROM = 0.9
"""So likely right is at the least what is called clear."""
_SURE_FROM_OF = dict.fromkeys((Kind.DESIGN, Kind.TRACK, Kind.PICTURE, Kind.DOCUMENT), 0.85)
"""Less will do where readings are better than their signs say: left out of the fit, those from there on are right as
often as the others that are clear. A picture or paper by itself is filed nowhere besides.
"""
_BESIDE = frozenset([Kind.COMPANION, Kind.PICTURE, Kind.DOCUMENT])
_EDGE = 0.005

Evidence = dict[str, float]
Weights = Mapping[str, Mapping[str, float]]
"""For each kind the weight of each sign."""


def evidence_for(
    path: str,
    identity: Identity,
    place: RoledPlace,
    endings: Counter[str],
    slots: SlotReading | None = None,
    *,
    agree: bool = False,
) -> Evidence:
    """Return the signs for and against a reading, by name; `endings` counts those of the folder's files."""
    found: Evidence = {"always": 1.0}
    found.update((sign, 1.0) for sign in _of_reading(identity))
    found.update((sign, 1.0) for sign in _of_place(path, identity, place))
    found.update((sign, 1.0) for sign in _of_owners(identity, place))
    name = name_of(path)
    found.update((sign, 1.0) for sign in ending_among(name, endings))
    if identity.kind in _BESIDE:
        found.update(_of_word(name, identity))
    if slots:
        chance = min(max(slots.chance, _EDGE), 1 - _EDGE)
        odds = math.log(chance / (1 - chance))
        clear = identity.state is State.CLEAR
        found.update(
            {"odds": odds, "agree": float(agree), "agree, clear": float(agree and clear), "odds, agree": odds * agree}
        )
    return found


def ending_among(name: str, endings: Counter[str]) -> tuple[str, str]:
    """Return how a file's ending stands among those of its folder, as signs."""
    count, files = endings[split_ending(name)[1].lower()], sum(endings.values())
    size = "1" if files == 1 else "few" if files < 6 else "many"
    return (
        f"ending {'alone' if count == 1 else 'few' if count < 4 else 'many'}",
        f"ending {'all' if count == files else 'most' if 2 * count > files else 'some'} of {size}",
    )


def _of_reading(identity: Identity) -> Iterator[str]:
    yield "clear" if identity.state is State.CLEAR else "not clear"
    yield f"confidence {int(identity.confidence * 10)}"
    for doubt in identity.doubts:
        yield f"doubt {reason_of(doubt)}"
    for field, value in identity.fields.items():
        yield f"has {field}"
        if isinstance(value, str) and field not in ("role", "language"):
            yield from (f"{field} {said}" for said in _of_text(value))
    for source in {one.source for one in identity.why}:
        yield f"from {source}"


@remembered(8192)
def _of_text(text: str) -> tuple[str, ...]:
    """Return what a text looks like, and what its words mean."""
    said = [f"of {min(len(text.split()), 5)} words"]
    shapes = {
        "with digits": any(sign.isdecimal() for sign in text),
        "with signs": any(sign in text for sign in "()[]_"),
        "with a dash": " - " in text,
    }
    said += [shape for shape, is_so in shapes.items() if is_so]
    said += [f"says {group}" for group in sorted(_groups(meaning(text)))]
    words = {group for some, _ in inside(text) for group in _groups(some)}
    return (*said, *(f"has a word for {group}" for group in sorted(words)))


def _groups(some: Mapping[str, int]) -> set[str]:
    return {group_of(concept) for concept, strength in some.items() if strength} - {""}


def _of_owners(identity: Identity, place: RoledPlace) -> Iterator[str]:
    """Yield whether what the roles of the folders say of owner and work is what the reading says."""
    for fields, names in (
        ("artist maker", place.owners),
        ("album title family show", [place.work] if place.work else []),
    ):
        for field in fields.split():
            value = identity.fields.get(field)
            if value is None:
                yield f"no {field}, {'though there is one' if names else 'nor a folder'}"
            elif names:
                same = match_key(str(value)) in map(match_key, names)
                within = any(match_key(str(value)) in match_key(name) for name in names)
                yield f"{field} is {'the folder' if same else 'in the folder' if within else 'another'}"
    for one in identity.why:
        yield f"{one.field} from {one.source}"


def _of_place(path: str, identity: Identity, place: RoledPlace) -> Iterator[str]:
    matter = matter_of(name_of(path))
    shelf = place.shelf_of(name_of(path))
    yield f"shelf {'none' if shelf is None else 'same' if shelf is identity.kind else 'other'}"
    yield f"unsure {min(len(place.unsure), 3)}"
    yield f"owners {min(len(place.owners), 2)}"
    yield f"folders {min(path.count('/'), 4)}"
    holder, thing = place.holder, place.thing
    yield f"in {holder.role if holder else 'nothing'}"
    if holder:
        yield f"in {holder.role} {_sureness(holder)}"
        yield f"in {'same' if holder.matter == matter else holder.matter}"
    yield f"thing {thing.role if thing else 'none'} {thing.matter if thing else ''}"
    if thing:
        yield f"thing {_sureness(thing)}"
    if place.beside:
        yield "beside"


def _sureness(reading: FolderReading) -> str:
    """Return how sure a role is; a person's word says nothing of the other folders, from which it would be certain."""
    return "sure" if reading.told else reading.sureness


def _of_word(name: str, identity: Identity) -> Iterator[tuple[str, float]]:
    """Yield what the name of a thing beside others says, with its role."""
    stem, ending = split_ending(name)
    role = str(identity.fields.get("role", identity.kind.value))
    yield f"role {role}", 1.0
    yield f"{role} {ending.lower()}", 1.0
    known = 0.0
    for some, share in inside(stem):
        known += share
        for concept, strength in some.items():
            front = concept if concept.startswith(("role.", "picture.", "document.")) else concept.partition(".")[0]
            yield f"{role} says {front} {'all' if share == 1 else 'in part'}", 1.0 if strength else 0.5
    yield f"{role} known", known


def is_sure(kind: Kind, chance: float) -> bool:
    """Say whether a reading of a kind is likely enough to be called clear."""
    return chance >= _SURE_FROM_OF.get(kind, SURE_FROM)


def chance_of(kind: Kind, evidence: Mapping[str, float]) -> float:
    """Return how likely a reading of a kind is right."""
    weights = fitted().get(kind.value, {})
    total = sum(weights.get(sign, 0.0) * value for sign, value in evidence.items())
    return 1 / (1 + math.exp(-max(-30.0, min(30.0, total)))) if weights else 1.0


_GIVEN: list[Weights] = []


def use(weights: Weights) -> None:
    """Use other weights than those that are stored, in this process."""
    _GIVEN[:] = [weights]


def fitted() -> Weights:
    """Return the weights in use."""
    return _GIVEN[0] if _GIVEN else _stored()


@cache
def _stored() -> Weights:
    weights: Weights = json.loads(resources.files(__name__).joinpath("weights.json").read_text())["weights"]
    return weights


def write(weights: Weights, record: Mapping[str, Any]) -> None:
    """Write weights beside this module, with the record of the fit."""
    rounded = {kind: {sign: round(weight, 3) for sign, weight in some.items() if abs(weight) > 0.0005}
               for kind, some in weights.items()}  # fmt: skip
    data = {"record": dict(record), "weights": rounded}
    Path(__file__).with_name("weights.json").write_text(json.dumps(data, separators=(",", ":"), sort_keys=True) + "\n")
