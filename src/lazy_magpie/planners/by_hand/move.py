"""Plans places by hand: into a folder, into the attic and back, into the inbox."""

from __future__ import annotations

from collections.abc import Sequence

from lazy_magpie.config import Config
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Plan, Unmoved
from lazy_magpie.model.steps import FilingRule
from lazy_magpie.paths import is_below, join, name_of, parent, same_name, written
from lazy_magpie.planners.by_hand.chosen import Chosen, HandDraft
from lazy_magpie.planners.directory_index import Listing, Names, is_mounted
from lazy_magpie.planners.disk_view import DiskView
from lazy_magpie.planners.filing.placement_rules import BY_HAND, IN_INBOX


def move_into(chosen: Sequence[Chosen], folder: str, config: Config, disk: DiskView, listing: Listing) -> Plan:
    """Plan moving what was chosen into a folder ("" is the root); it is kept there. Raises UsageError."""
    draft = _draft("moved by hand", config, listing)
    for one in chosen:
        if is_below(folder, one.path):
            raise UsageError(f"“{written(one.path)}” can't go into itself; name another folder.")
        target = join(folder, name_of(one.path))
        if one.is_folder and is_mounted(listing, one.path):
            _want_merged(draft, one, target, disk, BY_HAND)
        else:
            _want(draft, one, target, BY_HAND)
    return draft.plan()


def move_to_attic(chosen: Sequence[Chosen], config: Config, disk: DiskView, listing: Listing) -> Plan:
    """Plan putting things away: each keeps its whole path in the attic, from which it is brought back."""
    draft = _draft("put away in the attic", config, listing)
    for one in chosen:
        if is_below(one.path, config.attic):
            draft.unmoved.append(Unmoved(one.path, "in the attic already"))
        else:
            _want_merged(draft, one, join(config.attic, one.path), disk)
    return draft.plan()


def move_back(chosen: Sequence[Chosen], config: Config, disk: DiskView, listing: Listing) -> Plan:
    """Plan bringing things back from the attic to where they came from."""
    draft = _draft("back from the attic", config, listing)
    for one in chosen:
        if is_below(one.path, config.attic):
            _want_merged(draft, one, one.path[len(config.attic) + 1 :], disk)
        else:
            draft.unmoved.append(Unmoved(one.path, "not in the attic", asks=True))
    return draft.plan()


def move_to_inbox(chosen: Sequence[Chosen], config: Config, disk: DiskView, listing: Listing) -> Plan:
    """Plan moving things into the inbox, where they wait for an answer; each keeps its path there, to be read from."""
    draft = _draft("into the inbox", config, listing)
    for one in chosen:
        if is_below(one.path, config.inbox):
            draft.unmoved.append(Unmoved(one.path, "in the inbox already"))
        else:
            _want_merged(draft, one, join(config.inbox, one.path), disk, IN_INBOX)
    return draft.plan()


def _draft(why: str, config: Config, listing: Listing) -> HandDraft:
    draft = HandDraft("move", why, listing, [shelf.folder for shelf in config.shelves])
    draft.conflict_why = lambda paths: "each would have this name there; rename them first"
    draft.spelled = Names(listing).as_spelled
    return draft


def _want_merged(draft: HandDraft, one: Chosen, target: str, disk: DiskView, filing: FilingRule | None = None) -> None:
    """Wish that something goes to a path; what is in a folder goes name by name where there is one already, or where a
    drive is mounted at it."""
    there = disk.status(target) if target else None
    is_new = bool(target) and (there is None or not there.is_folder or there.is_link)
    if not one.is_folder or (is_new and not is_mounted(draft.listing, one.path)):
        _want(draft, one, target, filing)
        return
    for name in sorted(disk.names(one.path)):
        path = join(one.path, name)
        status = disk.status(path)
        if status is not None:
            inner = Chosen(path, status.stamp, is_folder=status.is_folder and not status.is_link)
            _want_merged(draft, inner, join(target, name), disk, filing)


def _want(draft: HandDraft, one: Chosen, target: str, filing: FilingRule | None = None) -> None:
    """Wish that a file goes to a path with all that is its own, or a folder."""
    item = one.item.id if one.item and not one.is_folder else 0
    target = draft.spelled(target)
    draft.want(one.path, target, one.stamp, filing=filing, item=item)
    for file in one.beside:
        if parent(file.path) == parent(one.path):
            goal = join(parent(target), name_of(file.path))
        elif is_below(file.path, parent(one.path)):  # in a folder beside: Subs/film.srt
            goal = join(parent(target), file.path[len(parent(one.path)) + 1 :].lstrip("/"))
        else:
            continue
        if same_name(goal) != same_name(file.path):
            draft.want(file.path, goal, file.stamp, item=item)
