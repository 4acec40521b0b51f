"""What is on disk into the catalogue: walking, noticing moves, grouping files into items.

What stands here is loaded when it is asked for: to say why one item is what it is takes no walk.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from lazy_magpie.on_demand import on_demand

if TYPE_CHECKING:
    from lazy_magpie.scan.pipeline import identity_of
    from lazy_magpie.scan.scanning import ScanResult, Unread, identify_again, scan

__all__ = ["ScanResult", "Unread", "identify_again", "identity_of", "scan"]

__getattr__ = on_demand(__name__, {"pipeline": "identity_of", "scanning": "ScanResult Unread identify_again scan"})
