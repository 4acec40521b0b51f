"""Every habit of naming in `tests/habits` is read as a careful person would."""

from __future__ import annotations

from typing import Any

import pytest

from lazy_magpie.identify import identify
from tests.habits.episodes import EPISODES
from tests.habits.films import FILMS
from tests.habits.others import OTHERS


@pytest.mark.parametrize(("path", "what", "fields"), [*FILMS, *EPISODES, *OTHERS])
def test_a_habit_is_read(path: str, what: str, fields: dict[str, Any]) -> None:
    found = identify(path)
    assert (f"{found.kind} {found.state}", dict(found.fields)) == (what, fields)
    assert bool(found.doubts) is (found.state.value == "doubtful")


@pytest.mark.parametrize(("path", "what", "fields"), [*FILMS, *EPISODES, *OTHERS])
def test_every_field_has_its_evidence(path: str, what: str, fields: dict[str, Any]) -> None:
    assert fields.keys() <= {evidence.field for evidence in identify(path).why}
