"""Names and their right readings, the round trip of every naming, and what a reading says of its reasons."""

from __future__ import annotations

from typing import Any

import pytest
from benchmarks.corpus import names
from hypothesis import given
from hypothesis import strategies as st

from lazy_magpie.identify import Context, identify, siblings_of
from lazy_magpie.identify.title_text import is_abbreviation_of, match_key, normalize_title
from lazy_magpie.model import Kind, State, Value
from lazy_magpie.naming import UnusableName, conventions, path_for
from lazy_magpie.naming.safe import safe_value
from tests.names import known_names

_NAMES = known_names()


@pytest.mark.parametrize("name", [pytest.param(n, id=n["path"]) for n in _NAMES])
def test_names_are_read_as_they_should_be(name: dict[str, Any]) -> None:
    identity = identify(name["path"])
    given_fields = {**identity.facts, **identity.fields}
    assert (identity.kind, identity.state) == (name["kind"], name["state"])
    assert {key: given_fields.get(key) for key in name["fields"]} == name["fields"]
    assert identity.fields.keys() <= name["fields"].keys()


@pytest.mark.parametrize("naming", ["screen", "plain"])
def test_what_names_are_filed_under_is_read_as_the_same(naming: str) -> None:
    for name in _NAMES:
        kind = Kind(name["kind"])
        if name["state"] != "clear" or kind not in (Kind.MOVIE, Kind.EPISODE):
            continue
        fields = identify(name["path"]).fields
        made = _written_and_read(kind, dict(fields), naming)
        assert made is not None, name["path"]
        kept = {key: value for key, value in made[0].items() if key != "languages"}
        assert {key: value for key, value in made[1].items() if key != "languages"} == kept, name["path"]


def test_no_clear_name_of_a_random_corpus_has_a_wrong_value() -> None:
    fields = right = clear = called = 0
    for truth in names(4000, seed=11):
        found = identify(truth.path)
        is_clear = found.state is State.CLEAR
        if truth.fields and is_clear:
            assert (found.kind, dict(found.fields)) == (truth.kind, truth.fields), truth.path
        fields += len(truth.fields)
        right += sum(found.fields.get(key) == value for key, value in truth.fields.items())
        clear += truth.clear
        called += truth.clear and is_clear
    assert right / fields >= 0.995 and called / clear >= 0.97


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
    assert normalize_title("Salt_Orchard,_The") == "The Salt Orchard"
    assert normalize_title("the.return.of.the.tern") == "The Return of the Tern"
    assert normalize_title("LANTERNS II") == "Lanterns II"
    assert normalize_title("eXile on kelp street") == "eXile on kelp street"
    assert match_key("The Élan & Co.") == match_key("elan and co")
    assert is_abbreviation_of("brn-tso", "The Salt Orchard") and is_abbreviation_of("slto-1080", "The Salt Orchard")
    assert not is_abbreviation_of("Making the Orchard", "The Salt Orchard")


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
    meant = {
        key: safe_value(value, everywhere=True) if isinstance(value, str) else value for key, value in fields.items()
    }
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


# --- what lies around a name -----------------------------------------------------------------------------------------


def _in_folder(folder: str, stems: list[str], at: int) -> Any:
    files = [f"{stem}.avi" for stem in stems]
    return identify(f"{folder}/{files[at]}".lstrip("/"), None, Context(siblings_of(files)))


@pytest.mark.parametrize(
    ("folder", "stems", "fields"),
    [
        ("Dockside", [f"{n:02}" for n in range(1, 13)], {"show": "Dockside", "season": 1, "episode": 3}),
        ("Heap", [f"Dockside {n:02} Fog" for n in range(1, 13)], {"show": "Dockside", "season": 1, "episode": 3}),
        ("Heap", [f"Dockside 2{n:02}" for n in range(1, 9)], {"show": "Dockside", "season": 2, "episode": 3}),
        ("Dockside", [f"Dockside - {n:03}" for n in range(40, 60)], {"show": "Dockside", "running": 42}),
    ],
)
def test_files_that_count_on_are_a_season(folder: str, stems: list[str], fields: dict[str, Any]) -> None:
    found = _in_folder(folder, stems, 2)
    assert found.state is State.CLEAR
    assert {key: value for key, value in found.fields.items() if key != "episode_title"} == fields
    assert any(evidence.source == "siblings" for evidence in found.why) or "running" in fields


def test_films_of_one_habit_bear_each_others_years_out() -> None:
    stems = ["Kelp Ballad 1993", "The Tern Watchers 1985", "Gull 1971", "Summer of 1962"]
    assert _in_folder("Heap", stems, 1).fields == {"title": "The Tern Watchers", "year": 1985}
    assert _in_folder("Heap", stems, 1).state is State.CLEAR
    assert _in_folder("Heap", stems, 3).state is State.DOUBTFUL  # its year belongs to the title
    yearly = ["Harbour Race 1998", "Harbour Race 1999", "Harbour Race 2000"]
    assert _in_folder("Heap", yearly, 1).state is State.DOUBTFUL


def test_tags_fill_what_a_songs_name_leaves_open() -> None:
    tags: dict[str, Value] = {"artist": "Ida Marrow", "title": "Slack Water", "album": "Low Lights", "track": 3}
    found = identify("03 - Slack Water.mp3", None, Context(tags=tags))
    assert found.state is State.CLEAR and dict(found.fields) == tags
    assert identify("Slack Water - Ida Marrow.mp3", None, Context(tags=tags)).fields["artist"] == "Ida Marrow"
    other: dict[str, Value] = {"artist": "The Pierheads", "title": "Kite Day"}
    found = identify("Ida Marrow/Low Lights/03 Slack Water.flac", None, Context(tags=other))
    assert found.state is State.DOUBTFUL and found.doubts[0].startswith("tags disagree: they say artist")


def test_a_known_maker_settles_the_order_of_names() -> None:
    known = Context(makers=frozenset(["idamarrow", "fennickpaperco"]))
    assert identify("Ida Marrow - Slack Water.mp3", None, known).state is State.CLEAR
    assert identify("Slack Water - Ida Marrow.mp3", None, known).fields["artist"] == "Ida Marrow"
    various = identify("Various Artists/Harbour Sessions/07 - Ida Marrow - Slack Water.ogg", None, known)
    assert various.fields["artist"] == "Ida Marrow" and various.state is State.CLEAR
    assert identify("FennickPaperCo_HarbourLamps_Elements.zip", None, known).state is State.CLEAR


def test_a_subtitle_beside_a_film_tells_its_year() -> None:
    around = Context(siblings_of(["Kelp Ballad.mkv", "Kelp.Ballad.1993.720p.en.srt"]))
    found = identify("Heap/Kelp Ballad.mkv", None, around)
    assert (found.state, found.fields) == (State.CLEAR, {"title": "Kelp Ballad", "year": 1993})
    assert any(evidence.source == "companions" for evidence in found.why)
    around = Context(siblings_of(["Kelp Ballad.mkv", "Kelp.Ballad.1993.720p.srt", "Kelp Ballad (2011).srt"]))
    assert identify("Heap/Kelp Ballad.mkv", None, around).state is State.DOUBTFUL
