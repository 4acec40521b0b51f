"""Plans the removal of copies: what goes is held, or becomes a hard link; what belongs to it joins what stays."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from lazy_magpie.config import Config
from lazy_magpie.copies import OTHER_VERSION, SURE, Copies, Inside, Rule, Wrapped, top_of
from lazy_magpie.copies.keep_rules import RULES, copy_to_keep
from lazy_magpie.model import File, Item, Kind, Plan, State, Step, Unmoved
from lazy_magpie.model.proofs import Alike, Proof, Repacked, SameBytes, Unpacked
from lazy_magpie.model.steps import Hardlink, Hold, Move, renumbered
from lazy_magpie.paths import is_below, join, name_of, same_name, split_ending, written
from lazy_magpie.planners.directory_index import Listing, Names
from lazy_magpie.planners.step_order import ordered_steps
from lazy_magpie.planners.tagging import set_tags_step


class Choice(NamedTuple):
    """What a list says of one set of copies: the path that stays ("": nobody knows), the others', bytes freed, why.

    `inside` says how many things a folder stands for; without `sure` they are only perhaps alike.
    """

    match: str
    stays: str
    others: tuple[str, ...]
    freed: int
    why: str
    inside: int = 0
    sure: bool = True

    @property
    def is_alike(self) -> bool:
        """Whether these are only alike: then none goes without a person's word."""
        return self.match not in SURE

    @property
    def things(self) -> int:
        """How many things can go."""
        return self.inside or len(self.others)


def freed_where(choices: Iterable[Choice]) -> list[tuple[str, int]]:
    """Return how many bytes are freed in each of the outermost folders, the most first; in "" what lies in none."""
    sizes = Counter[str]()
    for one in choices:
        for path in one.others if one.stays and not one.is_alike else ():
            sizes[path.partition("/")[0] if "/" in path else ""] += one.freed // len(one.others)
    return sizes.most_common()


@dataclass(frozen=True)
class Verdict:
    """What becomes of one set of copies: the one that stays (None: nobody knows), the others, and why."""

    copies: Copies
    stays: Item | None
    others: tuple[Item, ...]
    why: str

    @property
    def freed(self) -> int:
        """Bytes that are free once the others are gone for good; of hard links to one file once."""
        files = (file for item in self.others for file in item.files if self.goes(file))
        return sum({(f.inode, f.size, f.mtime): max(f.size, 0) for f in files}.values())

    @property
    def choice(self) -> Choice:
        """What a list says of it."""
        stays = self.stays.path if self.stays else ""
        others = tuple(item.path for item in self.others)
        return Choice(self.copies.match, stays, others, self.freed, self.why, sure=self.copies.sure)

    def goes(self, file: File) -> bool:
        """Say whether a file of one of the others has its twin in what stays, or is alike what stays."""
        return self.twin(file) is not None or (self.is_alike and self.stays is not None and file.role == "main")

    @property
    def name(self) -> str:
        """What one of the others is."""
        if self.copies.match == OTHER_VERSION:
            return "another version"
        return "a copy" if not self.is_alike else "alike" if self.copies.sure else "perhaps alike"

    @property
    def is_alike(self) -> bool:
        """Whether these are only alike, and do not hold the same bytes."""
        return self.copies.match not in SURE

    def twin(self, file: File) -> File | None:
        """Return the file of what stays that holds the same as a file of another."""
        digest = self.copies.twins.get(file.path)
        if digest is None or self.stays is None:
            return None
        same = [own for own in self.stays.files if self.copies.twins.get(own.path) == digest]
        if any(own.inode == file.inode for own in same):  # a hard link to it: one file, no copy
            return None
        same.sort(key=lambda own: (own.role != file.role, name_of(own.path) != name_of(file.path)))
        return same[0] if same else None


def verdict(copies: Copies, rules: Sequence[Rule], config: Config, between: Sequence[str] = ()) -> Verdict | None:
    """Say which of some copies stays; None where there is nothing to choose from.

    Copies in folders that are left alone stay, and are no copies of anything. `between` are two folders: what lies in
    the first stays, and only what lies in the second can go.
    """
    items = [item for item in copies.items if between or not config.is_left(item.path)]
    merit = RULES["better"]
    if between:
        first = [item for item in items if is_below(item.path, between[0])]
        second = [item for item in items if is_below(item.path, between[1]) and item not in first]
        if not first or not second or (copies.part and first[0] is not copies.items[0]):
            return None
        if copies.match not in SURE and any(merit(one, "", config) > merit(first[0], "", config) for one in second):
            return Verdict(copies, None, tuple(second), "what is in the second folder is better")
        return Verdict(copies, first[0], tuple(second), f"in {between[0] or 'the first folder'}")
    if len(items) < 2:
        return None
    if not copies.sure:
        return Verdict(copies, None, tuple(items), copies.why or "only perhaps so: never removed, look at both")
    if copies.part:
        whole = copies.items[0]
        return Verdict(copies, whole, tuple(items[1:]), "it has all of it, and more") if items[0] is whole else None
    if copies.match not in SURE:  # of what is only alike the better one never goes, wherever it lies
        rules = [Rule("better", merit, ""), *rules]
    stays, why = copy_to_keep(items, rules, config)
    return Verdict(copies, stays, tuple(item for item in items if item is not stays), why)


@dataclass(frozen=True)
class ArchiveVerdict:
    """What becomes of the same contents in several wrappings: what stays ("": nobody knows), the archives that go.

    `proof` is what the others are held against in the moment in which they go, None where nothing stays.
    """

    stays: str
    others: tuple[File, ...]
    why: str
    proof: Proof | None = None

    @property
    def freed(self) -> int:
        """Bytes that are free once the others are gone for good."""
        return sum(file.size for file in self.others) if self.stays else 0

    @property
    def choice(self) -> Choice:
        """What a list says of it."""
        return Choice("contents", self.stays, tuple(file.path for file in self.others), self.freed, self.why)


def repacked(
    found: Wrapped, rules: Sequence[Rule], config: Config, between: Sequence[str] = ()
) -> ArchiveVerdict | None:
    """Say which of several wrappings stays; None where there is nothing to choose from."""
    archives = [one.file for one in found.archives if between or not config.is_left(one.file.path)]
    if found.folder is not None:
        if found.more or not archives:
            return None
        stays = join(found.folder, top_of(found.archives[0]))
        if between:
            fits = is_below(stays, between[0]) and is_below(archives[0].path, between[1])
            return ArchiveVerdict(stays, tuple(archives), f"in {between[0]}", Unpacked(found.folder)) if fits else None
        if "unpacked" in (rule.text for rule in rules):
            return ArchiveVerdict(stays, tuple(archives), "unpacked", Unpacked(found.folder))
        if found.is_known:
            return None
        return ArchiveVerdict("", tuple(archives), f"all of it is in “{written(stays)}”; no rule chooses one")
    if between:
        first = [file for file in archives if is_below(file.path, between[0])]
        second = [file for file in archives if is_below(file.path, between[1]) and file not in first]
        if not first or not second:
            return None
        return ArchiveVerdict(first[0].path, tuple(second), f"in {between[0]}", Repacked(first[0].path))
    if len(archives) < 2:
        return None
    items = [Item(at, f.path, Kind.ARCHIVE, State.CLEAR, 1.0, {}, {}, (), (f,)) for at, f in enumerate(archives)]
    stays_item, why = copy_to_keep(items, rules, config)
    if stays_item is None:
        return ArchiveVerdict("", tuple(archives), why)
    others = tuple(file for file in archives if file.path != stays_item.path)
    return ArchiveVerdict(stays_item.path, others, why, Repacked(stays_item.path))


def also_inside(one: Inside) -> ArchiveVerdict:
    """Say of a file that also lies inside an archive that nothing is chosen: either may be the one in use."""
    why = f"also lies inside “{written(one.archive)}”; no rule chooses one"
    return ArchiveVerdict("", (File(one.file, 0, 0, 0),), why)


def plan_copies(
    verdicts: Sequence[Verdict],
    wrapped: Sequence[ArchiveVerdict],
    config: Config,
    listing: Listing,
    *,
    link: bool,
    may_go: Callable[[Verdict], bool] = lambda one: False,
) -> Plan:
    """Plan holding the others of each verdict, or, with `link`, putting a hard link to what stays in their place.

    Archives can only be held: a link to a folder or to another archive is not what they were. So is what is only alike,
    and that only where a person said that it `may_go`.
    """
    steps: list[Step] = []
    left: list[Unmoved] = []
    names = Names(listing)
    for packing in wrapped:
        for file in packing.others:
            if packing.proof is None or link or config.is_left(file.path):
                why = f"the same contents: {packing.why}" if not packing.stays else "an archive, which is only held"
                left.append(Unmoved(file.path, why, asks=not packing.stays))
                continue
            why = f"{written(packing.stays)} holds the same ({packing.why})"
            proofs = (packing.proof,)
            steps.append(Hold(source=file.path, why=why, group=packing.stays, stamp=file.stamp, proofs=proofs))
    for one in verdicts:
        if one.stays is None:
            left += [Unmoved(item.path, f"{one.name}, and {one.why}", asks=one.copies.sure) for item in one.others]
            continue
        if one.is_alike and (link or not may_go(one)):
            why = "a look-alike, which is never linked" if link else "a look-alike: name both files, or the rule alike"
            left += [Unmoved(item.path, why, asks=not link) for item in one.others]
            continue
        for item in one.others:
            if config.is_left(item.path):
                left.append(Unmoved(item.path, "in a folder left alone"))
            else:
                _take_away(one, item, names, steps, left, link=link)
    if not link:
        steps = list(ordered_steps(steps, listing, [shelf.folder for shelf in config.shelves]))
        steps += _joined_tags(verdicts, {step.item for step in steps})
    return Plan("copies", renumbered(steps), unmoved=tuple(left))


def plan_elsewhere(
    items: Iterable[Item], twins: Mapping[str, tuple[str, str]], drive: str, config: Config, listing: Listing
) -> Plan:
    """Plan holding what lies on another root as well, where that one's copies stay.

    `twins` are for paths of the own root how the copy is called there, and its path from the own root. A thing goes
    only if each of its files lies there.
    """
    steps: list[Step] = []
    left: list[Unmoved] = []
    for item in items:
        lacks = [file.path for file in item.files if file.path not in twins]
        if config.is_left(item.path):
            left.append(Unmoved(item.path, "in a folder left alone"))
        elif lacks:
            left.append(Unmoved(item.path, f"“{written(name_of(lacks[0]))}”, which belongs to it, is not on {drive}"))
        else:
            for file in item.files:
                name, path = twins[file.path]
                why = f"a copy of {written(name)} (drive:{drive})"
                steps.append(_held(file, why, name, item, SameBytes(path)))
    steps = list(ordered_steps(steps, listing, [shelf.folder for shelf in config.shelves]))
    return Plan("copies", renumbered(steps), unmoved=tuple(left))


def _joined_tags(verdicts: Sequence[Verdict], going: Collection[int]) -> Iterator[Step]:
    """Yield one step for each item that stays and lacks tags of what goes."""
    stays = {one.stays.id: one.stays for one in verdicts if one.stays}
    joined: dict[int, set[str]] = defaultdict(set)
    for one in verdicts:
        if one.stays:
            joined[one.stays.id].update(tag for item in one.others if item.id in going for tag in item.tags)
    for id, tags in joined.items():
        if not tags <= set(stays[id].tags):
            yield set_tags_step(stays[id], tags | set(stays[id].tags))


def _take_away(one: Verdict, item: Item, names: Names, steps: list[Step], left: list[Unmoved], *, link: bool) -> None:
    """Hold or link the files of a copy that have their twin; let the rest join what stays."""
    assert one.stays is not None
    group = one.stays.path
    mains = [file for file in one.stays.files if file.role == "main"]
    own = []
    for file in item.files:
        if one.is_alike and file.role == "main":
            why = f"alike {written(one.stays.path)} ({one.why})"
            alike = tuple(Alike(keeper.path, keeper.stamp) for keeper in mains)
            steps.append(_held(file, why, group, item, *alike))
            continue
        twin = one.twin(file)
        if twin is None:
            if file.role != "main":
                own.append(file)
            continue
        why = f"a copy of {written(twin.path)} ({one.why})"
        if link:
            steps.append(
                Hardlink(
                    source=twin.path,
                    target=file.path,
                    why=why,
                    group=group,
                    item=item.id,
                    stamp=twin.stamp,
                    replaces=file.stamp,
                )
            )
        else:
            steps.append(_held(file, why, group, item, SameBytes(twin.path)))
    if own and not link:
        _join(one.stays, item, own, names, steps, left)


def _held(file: File, why: str, group: str, item: Item, *proofs: Proof) -> Hold:
    return Hold(source=file.path, why=why, group=group, item=item.id, stamp=file.stamp, proofs=proofs)


def _join(stays: Item, item: Item, own: Sequence[File], names: Names, steps: list[Step], left: list[Unmoved]) -> None:
    """Move the companions that only a copy has to what stays, under its name."""
    from lazy_magpie.planners.filing.companions import companion_targets  # it knows names, which takes long to load

    stem = split_ending(stays.path)[0]
    for file, target in companion_targets(item.path, stem, own, own_folder=True):
        if names.existing(target) or any(same_name(step.target) == same_name(target) for step in steps):
            left.append(Unmoved(file.path, f"what stays has a “{name_of(target)}” of its own"))
            continue
        why = "belongs to what goes, and joins what stays"
        steps.append(Move(source=file.path, target=target, why=why, group=stays.path, item=item.id, stamp=file.stamp))
