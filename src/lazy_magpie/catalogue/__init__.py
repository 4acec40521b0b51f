"""The catalogue: SQLite in WAL mode, and all SQL there is.

`opened` hands out a `Catalogue` with one table object each for files, items and plans. Paths and names stand in it
in their written form (see `paths`); everything that comes out of it is in the program's inner form.

What stands here is loaded when it is asked for, so that a glance at a catalogue costs no more than it needs.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from lazy_magpie.on_demand import on_demand

if TYPE_CHECKING:
    from lazy_magpie.catalogue.digests import Sized
    from lazy_magpie.catalogue.external_tags import ATTRIBUTE, INSIDE, SIDECAR, CarriedTags
    from lazy_magpie.catalogue.files import NewFile
    from lazy_magpie.catalogue.fingerprints import FingerprintedFile
    from lazy_magpie.catalogue.item_writer import ItemRecord, ItemWriter, MemberRecord
    from lazy_magpie.catalogue.items import Items
    from lazy_magpie.catalogue.known_files import KnownFile, alone_text
    from lazy_magpie.catalogue.opening import Catalogue, Followed, in_memory, opened
    from lazy_magpie.catalogue.placements import InPlace, Placement
    from lazy_magpie.catalogue.plans import SavedPlan
    from lazy_magpie.catalogue.query import (
        All,
        AnyOf,
        Below,
        Between,
        Condition,
        Contains,
        Has,
        Is,
        Known,
        Not,
        OneOf,
        OnRoot,
        asks_for,
    )
    from lazy_magpie.catalogue.reference_lists import KnownList
    from lazy_magpie.catalogue.relocation import FollowedMoves
    from lazy_magpie.catalogue.roots import MAIN_ROOT, KnownRoot
    from lazy_magpie.catalogue.titles import NewTitle, Title, TitleList, Titles
    from lazy_magpie.catalogue.views import View, read_view

__all__ = [
    "ATTRIBUTE",
    "INSIDE",
    "MAIN_ROOT",
    "SIDECAR",
    "All",
    "AnyOf",
    "Below",
    "Between",
    "CarriedTags",
    "Catalogue",
    "Condition",
    "Contains",
    "FingerprintedFile",
    "Followed",
    "FollowedMoves",
    "Has",
    "InPlace",
    "Is",
    "ItemRecord",
    "ItemWriter",
    "Items",
    "Known",
    "KnownFile",
    "KnownList",
    "KnownRoot",
    "MemberRecord",
    "NewFile",
    "NewTitle",
    "Not",
    "OnRoot",
    "OneOf",
    "Placement",
    "SavedPlan",
    "Sized",
    "Title",
    "TitleList",
    "Titles",
    "View",
    "alone_text",
    "asks_for",
    "in_memory",
    "opened",
    "read_view",
]

__getattr__ = on_demand(
    __name__,
    {
        "digests": "Sized",
        "external_tags": "ATTRIBUTE CarriedTags INSIDE SIDECAR",
        "files": "NewFile",
        "fingerprints": "FingerprintedFile",
        "item_writer": "ItemRecord ItemWriter MemberRecord",
        "items": "Items",
        "known_files": "KnownFile alone_text",
        "opening": "Catalogue Followed in_memory opened",
        "placements": "InPlace Placement",
        "plans": "SavedPlan",
        "query": "All AnyOf Below Between Condition Contains Has Is Known Not OnRoot OneOf asks_for",
        "reference_lists": "KnownList",
        "relocation": "FollowedMoves",
        "roots": "KnownRoot MAIN_ROOT",
        "titles": "NewTitle Title TitleList Titles",
        "views": "View read_view",
    },
)
