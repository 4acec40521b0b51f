"""Plans what a player reads beside things: pictures under the names that it looks for, data files; nothing twice."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from lazy_magpie.companion_files import DataForm, FoundPicture
from lazy_magpie.config import Config, Player
from lazy_magpie.identify.file_types import PICTURES
from lazy_magpie.inner_tags import Inside
from lazy_magpie.model import File, FileStamp, Item, Kind, Plan, State, Step, Unmoved
from lazy_magpie.model.steps import Copy, Move, RewriteText, Write, renumbered
from lazy_magpie.naming import MissingField
from lazy_magpie.naming.safe import safe_part
from lazy_magpie.paths import join, name_of, parent, same_name, split_ending, written
from lazy_magpie.planners.directory_index import Listing, Names
from lazy_magpie.planners.directory_steps import make_missing
from lazy_magpie.planners.disk_view import DiskView
from lazy_magpie.planners.inside import inside_steps

KINDS = (Kind.MOVIE, Kind.EPISODE, Kind.TRACK, Kind.GAME, Kind.DESIGN, Kind.FONT)
"""Kinds of things beside which a player reads something."""
_LARGEST = 1 << 20
_MADE = ("cover", "thumbnail")
"""The roles in which a picture made from a thing will do."""


@dataclass(frozen=True)
class CompanionSources:
    """What the planner looks at: the disk, the names in folders, what makes data files, pictures that lie elsewhere.

    `picture` finds a picture for an item among those, with how it looks and whether it lies outside the root. `made`
    gives the path of a picture made from an item that has no other, for a path without ending, if there is one.
    `inside` is what is inside main files, by their paths, where fields and covers are to be written there; else None.
    """

    disk: DiskView
    listing: Listing
    data: Mapping[str, DataForm]
    picture: Callable[[Item], FoundPicture | None] = lambda item: None
    made: Callable[[Item, str], str | None] = lambda item, stem: None
    stamp: Callable[[str], FileStamp | None] = lambda path: None
    inside: Mapping[str, Inside] | None = None
    again: bool = False


@dataclass
class _Draft:
    """A plan in the making."""

    steps: list[Step] = field(default_factory=list)
    unmoved: list[Unmoved] = field(default_factory=list)
    claimed: set[str] = field(default_factory=set)
    pictured: set[str] = field(default_factory=set)
    passed: Counter[str] = field(default_factory=Counter)


def companion_files(
    items: Iterable[Item], players: Callable[[Item], Sequence[Player]], config: Config, sources: CompanionSources
) -> Plan:
    """Plan the pictures and data files of items, for the players that each is asked about."""
    draft, names = _Draft(), Names(sources.listing)
    for item in items:
        if item.kind not in KINDS or item.root or config.is_left(item.path):
            continue
        if item.state not in (State.CLEAR, State.SETTLED):
            draft.passed["in doubt"] += 1
            continue
        planned = len(draft.steps)
        for player in players(item):
            _pictures(item, player, config, sources, names, draft)
            if player.data:
                _data(item, player, sources, names, draft)
        if sources.inside is not None:
            cover = next((step.target for step in draft.steps[planned:] if _is_picture(step.target)), "")
            draft.steps += inside_steps(item, sources.inside, cover or _cover_of(item, names), sources.stamp)
    targets = [step.target for step in draft.steps]
    made = make_missing(sources.disk, targets)
    return Plan(
        "companions", renumbered([*made, *draft.steps]), unmoved=tuple(draft.unmoved), passed=dict(draft.passed)
    )


def _pictures(
    item: Item, player: Player, config: Config, sources: CompanionSources, names: Names, draft: _Draft
) -> None:
    """Plan the pictures of an item: what lies beside it gets the name that is looked for, else one from elsewhere."""
    home, stem = parent(item.path), split_ending(name_of(item.path))[0]
    home = join(home, player.art_folder) if player.art_folder else home
    for role, template in player.art.items():
        try:
            said = template.render({**item.fields, "stem": stem})
        except MissingField as missing:
            why = f"the name of its {role} needs {missing.field.replace('_', ' ')}, which is not known"
            draft.unmoved.append(Unmoved(item.path, why, asks=True))
            continue
        wanted = join(home, safe_part(said, everywhere=config.everywhere))
        if _is_there(wanted, names):
            continue
        planned = len(draft.steps)
        if own := _own(item, role):
            _move(item, own, wanted, role, names, draft)
        elif same_name(wanted) in draft.pictured:
            continue  # songs of one album may share its cover
        elif role == "cover" and (found := sources.picture(item)):
            _bring(item, found, wanted, sources, names, draft)
        elif role in _MADE and (made := sources.made(item, wanted)):
            target = wanted + split_ending(made)[1]
            if _claim(target, names, draft, item.path):
                stamp = sources.stamp(made)
                draft.steps.append(
                    Move(source=made, target=target, why=f"a {role} made from it", group=_group(item), stamp=stamp)
                )
        if len(draft.steps) > planned:
            draft.pictured.add(same_name(wanted))


def _is_picture(path: str) -> bool:
    return split_ending(path)[1].lower() in PICTURES


def _cover_of(item: Item, names: Names) -> str:
    """Return the cover that lies beside an item, its own or (a song's) that of its album; "" for none."""
    if own := _own(item, "cover"):
        return own.path
    shared = names.with_stem(parent(item.path), "cover") if item.kind is Kind.TRACK else ()
    return next((join(parent(item.path), name) for name in shared if _is_picture(name)), "")


def _is_there(stem: str, names: Names) -> bool:
    """Say whether a picture of this name is there, with any ending."""
    found = names.with_stem(parent(stem), name_of(stem))
    return any(map(_is_picture, found))


def _own(item: Item, role: str) -> File | None:
    """Return the picture that an item has in a role, beside it and for itself alone; None for none."""
    pictures = (file for file in item.files if file.role == role and split_ending(file.path)[1].lower() in PICTURES)
    return next(pictures, None)


def _move(item: Item, own: File, stem: str, role: str, names: Names, draft: _Draft) -> None:
    target = stem + split_ending(own.path)[1].lower()
    if _claim(target, names, draft, own.path):
        why = f"its {role}, as the player looks for it"
        draft.steps.append(
            Move(source=own.path, target=target, why=why, group=_group(item), item=item.id, stamp=own.stamp)
        )


def _bring(item: Item, found: FoundPicture, stem: str, sources: CompanionSources, names: Names, draft: _Draft) -> None:
    if not found.is_sure:
        why = f"its picture may be {written(found.path)}: copy it by hand if it is"
        draft.unmoved.append(Unmoved(item.path, why, asks=True))
        return
    target = stem + split_ending(found.path)[1].lower()
    if _claim(target, names, draft, item.path):
        draft.steps.append(
            Copy(
                source=found.path,
                target=target,
                why=f"called as it is: {written(name_of(found.path))}",
                group=_group(item),
                stamp=sources.stamp(found.path),
                outside=found.path.startswith(".."),
            )
        )


def _data(item: Item, player: Player, sources: CompanionSources, names: Names, draft: _Draft) -> None:
    """Plan an item's data file; one that is there stays, unless it is to be written again."""
    form = sources.data[player.data]
    target = split_ending(item.path)[0] + form.ending
    text = form.text(item)
    there = names.existing(target)
    if not there:
        if _claim(target, names, draft, item.path):
            draft.steps.append(Write(target=target, why=f"data for {player.name}", group=_group(item), text=text))
        return
    with sources.disk.open_old(there) as file:
        same = file.read(_LARGEST) == text.encode("utf-8", "surrogateescape")
    if same:
        return
    if sources.again:
        why = f"data for {player.name}, as it is now"
        draft.steps.append(RewriteText(target=there, why=why, group=_group(item), text=text))
    else:
        draft.unmoved.append(Unmoved(there, "a data file is there already (--again writes it anew)"))


def _claim(target: str, names: Names, draft: _Draft, source: str) -> bool:
    key = same_name(target)
    if key in draft.claimed or names.existing(target):
        draft.unmoved.append(Unmoved(source, f"there is another file for the name “{written(target)}”", asks=True))
        return False
    draft.claimed.add(key)
    return True


def _group(item: Item) -> str:
    return str(item.fields.get("show") or item.fields.get("artist") or name_of(parent(item.path)) or ".")
