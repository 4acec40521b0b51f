"""The process killed in the middle of a change, at every named point and at random instants."""

from __future__ import annotations

from pathlib import Path

import pytest

from lazy_magpie.change.failpoints import POINTS
from tests.chaos.crash import one_run


@pytest.mark.parametrize("point", [name for name in POINTS if not name.startswith("recovery")])
def test_nothing_is_lost_at_a_named_point(tmp_path: Path, point: str) -> None:
    wrong = [fault for seed in (1, 2, 3) for fault in one_run(tmp_path / str(seed), seed, point)]
    assert wrong == []


@pytest.mark.parametrize("seed", range(100, 112))
def test_nothing_is_lost_at_a_random_instant(tmp_path: Path, seed: int) -> None:
    assert one_run(tmp_path / "run", seed) == []
