"""Titles looked up: lists from files, services over the network, and the match between a name and a title.

`files` reads a list, `keys` turns titles into what their spellings share, `match` weighs candidates, `service` asks
a title service by the Reconciliation Service API, `serve` is such a service.
"""

from __future__ import annotations

from lazy_magpie.titles.match import TitleMatch, candidates, containing, ranked

__all__ = ["TitleMatch", "candidates", "containing", "ranked"]
