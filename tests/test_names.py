"""Names and their right readings, the round trip of every naming, and what a reading says of its reasons."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lazy_magpie.identify import identify
from lazy_magpie.identify.titles import clean, folded, stands_for
from lazy_magpie.model import Kind, State
from lazy_magpie.naming import UnusableName, conventions, path_for
from lazy_magpie.naming.safe import safe_value

_NAMES = [json.loads(line) for line in (Path(__file__).parent / "data" / "names.jsonl").read_text().splitlines()]

_IDENTITY_FIELDS = (
    "title year edition part languages show show_year season episode last_episode episode_title air_date running "
    "extra of role"
)


@pytest.mark.parametrize("name", [pytest.param(n, id=n["path"]) for n in _NAMES])
def test_names_are_read_as_they_should_be(name: dict[str, Any]) -> None:
    identity = identify(name["path"])
    given_fields = {**identity.facts, **identity.fields}
    assert (identity.kind, identity.state) == (name["kind"], name["state"])
    assert {key: given_fields.get(key) for key in name["fields"]} == name["fields"]
    assert not (identity.fields.keys() & set(_IDENTITY_FIELDS.split())) - name["fields"].keys()


MORE = {
    "The Salt Orchard (1987)/The Salt Orchard - part 2.avi": {"title": "The Salt Orchard", "year": 1987, "part": 2},
    "The Salt Orchard Directors Cut (1987).mkv": {
        "title": "The Salt Orchard", "year": 1987, "edition": "Director's Cut",
    },
    "Salt_ The Return (1999).mkv": {"title": "Salt - The Return", "year": 1999},
    "S.T.O.R.M. (1999).mkv": {"title": "S.T.O.R.M.", "year": 1999},
    "2031.2019.1080p.mkv": {"title": "2031", "year": 2019},
    "Dockside/Season 1/01.mkv": {"show": "Dockside", "season": 1, "episode": 1},
    "Dockside/Season 1/Dockside S01E02 - 12 Buoys.mkv": {
        "show": "Dockside", "season": 1, "episode": 2, "episode_title": "12 Buoys",
    },
    "Dockside S01E01 1080p WEB-DL DD5.1 H.264-BRN.mkv": {"show": "Dockside", "season": 1, "episode": 1},
    "66/Season 1/66 S01E01.mkv": {"show": "66", "season": 1, "episode": 1},
    "Dockside/Season 1/Dockside - 1x01 - Fog - and - Rain [720p].mkv": {
        "show": "Dockside", "season": 1, "episode": 1, "episode_title": "Fog - and - Rain",
    },
}  # fmt: skip


@pytest.mark.parametrize("path", MORE)
def test_more_names(path: str) -> None:
    identity = identify(path)
    assert (identity.state, dict(identity.fields)) == (State.CLEAR, MORE[path])


@pytest.mark.parametrize(
    ("path", "kind"),
    [
        ("Films/Thumbs.db", Kind.JUNK),
        ("half-finished.mkv.part", Kind.UNFINISHED),
        ("Kelp (2001)/Kelp (2001).en.srt", Kind.COMPANION),
        ("x7f3.bin", Kind.UNKNOWN),
        ("\udcff\udcfe.mkv", Kind.MOVIE),
        ("a\nb S01E02.mkv", Kind.EPISODE),
        (".mkv", Kind.UNKNOWN),
        ("()[].mkv", Kind.MOVIE),
    ],
)
def test_kinds_of_odd_names(path: str, kind: Kind) -> None:
    assert identify(path).kind == kind


def test_the_shelf_speaks_for_its_kind() -> None:
    assert identify("Dockside 03.avi", Kind.EPISODE).kind == Kind.EPISODE
    assert identify("Dockside 03.avi", Kind.MOVIE).kind == Kind.MOVIE
    assert identify("Dockside S01E03.avi", Kind.MOVIE).kind == Kind.EPISODE


def test_evidence_names_its_source() -> None:
    why = identify("The Salt Orchard (1987)/movie.mkv").why
    assert ("year", 1987, "folder", "The Salt Orchard (1987)") in [tuple(evidence) for evidence in why]


def test_titles() -> None:
    assert clean("Salt_Orchard,_The") == "The Salt Orchard"
    assert clean("the.return.of.the.tern") == "The Return of the Tern"
    assert clean("LANTERNS II") == "Lanterns II"
    assert clean("eXile on kelp street") == "eXile on kelp street"
    assert folded("The Élan & Co.") == folded("elan and co")
    assert stands_for("brn-tso", "The Salt Orchard") and stands_for("slto-1080", "The Salt Orchard")
    assert not stands_for("Making the Orchard", "The Salt Orchard")


# --- the round trip: what a naming writes is read as what it was -----------------------------------------------------

_TRICKY = (
    "Salt Orchard Kelp The A of Tide 2 II 1962 Web French Extended Part Season Lamp Élan Маяк 灯台 Dr. Web-Line Cut "
    "Sample 9 Proper & Gull's Ferry, Episode Disc S 101 Specials Harbour (UK) HD - x"
)
_WORDS = st.sampled_from(_TRICKY.split())
_TITLES = st.lists(_WORDS, min_size=1, max_size=4).map(" ".join)
_FILM = st.fixed_dictionaries(
    {"title": _TITLES, "year": st.integers(1888, 2026)},
    optional={"edition": st.sampled_from(["Director's Cut", "Extended", "Uncut"]), "part": st.integers(1, 9)},
)
_EPISODE = st.fixed_dictionaries(
    {"show": _TITLES, "season": st.integers(0, 30), "episode": st.integers(1, 120)},
    optional={"episode_title": _TITLES, "show_year": st.integers(1930, 2026), "part": st.integers(1, 4)},
)


def _written_and_read(kind: Kind, fields: dict[str, Any], naming: str) -> tuple[dict[str, Any], dict[str, Any]] | None:
    """Return what was meant and what is read, or None where tidy would refuse to write the name."""
    shelf = "Films" if kind is Kind.MOVIE else "Series"
    try:
        below = path_for(conventions()[naming], kind, fields)
    except UnusableName:
        return None
    read = identify(f"{shelf}/{below}.mkv", kind)
    again = dict(read.fields)
    if read.kind is not kind or read.state is not State.CLEAR:
        return None
    meant = {key: safe_value(value, True) if isinstance(value, str) else value for key, value in fields.items()}
    return meant, again


@given(_FILM, st.sampled_from(["screen", "plain"]))
def test_what_is_written_for_a_known_name_is_read_back(fields: dict[str, Any], naming: str) -> None:
    """A name that was read once is written, and reads the same again: fixed point from the first reading on."""
    first = _written_and_read(Kind.MOVIE, fields, naming)
    if first is None:
        return
    known = first[1]
    second = _written_and_read(Kind.MOVIE, known, naming)
    assert second is not None and second[1] == known


@given(_EPISODE, st.sampled_from(["screen", "plain"]))
def test_what_is_written_for_a_known_episode_is_read_back(fields: dict[str, Any], naming: str) -> None:
    first = _written_and_read(Kind.EPISODE, fields, naming)
    if first is None:
        return
    known = first[1]
    second = _written_and_read(Kind.EPISODE, known, naming)
    assert second is not None and second[1] == known


_PLAIN_WORDS = st.sampled_from(["Salt", "Orchard", "Kelp", "Tide", "Ferry", "Gull", "Élan", "Маяк", "Wintering"])
_PLAIN = st.lists(_PLAIN_WORDS, min_size=1, max_size=4).map(" ".join)


@given(
    _PLAIN,
    st.integers(1888, 2026),
    st.integers(0, 40),
    st.integers(1, 200),
    _PLAIN,
    st.sampled_from(["screen", "plain"]),
)
def test_plain_titles_always_make_the_round_trip(
    title: str, year: int, season: int, episode: int, episode_title: str, naming: str
) -> None:
    film = {"title": title, "year": year}
    assert _written_and_read(Kind.MOVIE, film, naming) == (film, film)
    part = {"show": title, "season": season, "episode": episode, "episode_title": episode_title}
    assert _written_and_read(Kind.EPISODE, part, naming) == (part, part)
