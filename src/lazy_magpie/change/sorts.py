"""Every sort of step that can be done."""

from __future__ import annotations

from collections.abc import Mapping

from lazy_magpie.change import sort_folder, sort_move, sort_place, sort_restore, sort_take
from lazy_magpie.change.sort import Sort
from lazy_magpie.model import Do

SORTS: Mapping[Do, Sort] = {
    **sort_move.SORTS,
    **sort_place.SORTS,
    **sort_folder.SORTS,
    **sort_take.SORTS,
    **sort_restore.SORTS,
}
"""How steps of each sort are done, mended and taken back."""
