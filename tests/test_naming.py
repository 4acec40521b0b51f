"""Templates, words that change a value, safe names, and the laws of both; paths in their written form."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lazy_magpie.errors import TemplateError
from lazy_magpie.model import Kind
from lazy_magpie.naming import MissingField, UnusableName, conventions, path_for
from lazy_magpie.naming.letters import letter, range_of, sorted_title
from lazy_magpie.naming.safe import LONGEST, is_safe, safe_name, safe_part, safe_value, shortened
from lazy_magpie.naming.template import parse
from lazy_magpie.paths import above, is_below, join, name_of, parent, read_back, same_name, split_ending, written

FILM: dict[str, Any] = {"title": "The Salt Orchard", "year": 1987}
EPISODE: dict[str, Any] = {"show": "Tidewater Lane", "season": 2, "episode": 5}


@pytest.mark.parametrize(
    ("template", "values", "text"),
    [
        ("{title} ({year})", FILM, "The Salt Orchard (1987)"),
        ("{title, sorted} ({year})", FILM, "Salt Orchard, The (1987)"),
        ("{title, letter}/{title}", FILM, "S/The Salt Orchard"),
        ("{title, range A-L M-Z}/{title}", FILM, "M-Z/The Salt Orchard"),
        ("{title}< - {edition}>", FILM, "The Salt Orchard"),
        ("{title}< - {edition}>", {**FILM, "edition": "Extended"}, "The Salt Orchard - Extended"),
        ("{show} {season}x{episode:02}", EPISODE, "Tidewater Lane 2x05"),
        ("{show} S{season:02}E{episode:03}", EPISODE, "Tidewater Lane S02E005"),
        ("{show}< S{season:02}<E{last_episode:02}>>", EPISODE, "Tidewater Lane S02"),
        ("{show} {season}", {**EPISODE, "season": 0}, "Tidewater Lane 0"),
        ("{title, plain}", {"title": "Élan"}, "Elan"),
        ("{arrived, date}", {"arrived": "2019-03-21T10:00:00"}, "2019-03-21"),
        ("{languages}", {"languages": ["en", "fr"]}, "en, fr"),
        ("{{{title}}}", FILM, "{The Salt Orchard}"),
        ("{title}", {"title": "Either/Or"}, "Either-Or"),
    ],
)
def test_what_a_template_gives(template: str, values: dict[str, Any], text: str) -> None:
    assert parse(template).render(values) == text


@pytest.mark.parametrize("template", ["{title}", "{title} ({year})", "a/{edition}"])
def test_a_needed_field_that_is_missing_is_named(template: str) -> None:
    with pytest.raises(MissingField) as raised:
        parse(template).render({"title": ""})
    assert raised.value.field in ("title", "edition")


@pytest.mark.parametrize(
    ("template", "column"),
    [
        ("", 1), ("{title", 1), ("title}", 6), ("<{title}", 1), ("{title}>", 8), ("<x>", 1), ("{titel}", 2),
        ("{title, sortd}", 9), ("{title, range}", 9), ("{title, sorted A-L}", 9), ("{year:4}", 7), ("{year:02x}", 7),
        ("/{title}", 1), ("{title}/", 8), ("a//{title}", 2), ("../{title}", 1),
    ],
)  # fmt: skip
def test_a_mistake_points_at_its_column(template: str, column: int) -> None:
    with pytest.raises(TemplateError) as raised:
        parse(template)
    assert raised.value.column == column


@pytest.mark.parametrize(
    ("naming", "kind", "fields", "path"),
    [
        ("screen", Kind.MOVIE, FILM, "The Salt Orchard (1987)/The Salt Orchard (1987)"),
        ("plain", Kind.MOVIE, {**FILM, "part": 2}, "The Salt Orchard (1987) - part 2"),
        ("screen", Kind.EPISODE, EPISODE, "Tidewater Lane/Season 02/Tidewater Lane S02E05"),
        (
            "screen",
            Kind.EPISODE,
            {**EPISODE, "season": 0, "episode_title": "Behind the Nets"},
            "Tidewater Lane/Specials/Tidewater Lane S00E05 - Behind the Nets",
        ),
        (
            "screen",
            Kind.EPISODE,
            {**EPISODE, "show_year": 1991, "last_episode": 6},
            "Tidewater Lane (1991)/Season 02/Tidewater Lane (1991) S02E05-E06",
        ),
        (
            "screen",
            Kind.EPISODE,
            {"show": "The Harbour Report", "air_date": "2019-03-21"},
            "The Harbour Report/2019/The Harbour Report - 2019-03-21",
        ),
        ("plain", Kind.EPISODE, {"show": "Moon Trawlers", "running": 14}, "Moon Trawlers/Moon Trawlers - 014"),
        ("screen", Kind.MOVIE, {"title": "Sandpiper: The Return", "year": 1999},
         "Sandpiper - The Return (1999)/Sandpiper - The Return (1999)"),
    ],
)  # fmt: skip
def test_where_a_convention_puts_things(naming: str, kind: Kind, fields: dict[str, Any], path: str) -> None:
    assert path_for(conventions()[naming], kind, fields) == path


def test_a_name_that_would_be_empty_or_not_utf8_is_refused() -> None:
    with pytest.raises(MissingField):
        path_for(conventions()["screen"], Kind.EPISODE, {"show": "???", "season": 1, "episode": 2})
    with pytest.raises(UnusableName):
        path_for(conventions()["screen"], Kind.EPISODE, {"show": "..", "season": 1, "episode": 2})
    with pytest.raises(UnusableName):
        path_for(conventions()["screen"], Kind.MOVIE, {"title": "a\udcff", "year": 1999})


@pytest.mark.parametrize(
    ("title", "sorted_", "letter_"),
    [
        ("The Salt Orchard", "Salt Orchard, The", "S"),
        ("A Season of Fog", "Season of Fog, A", "S"),
        ("9 Minutes to Ebb", "9 Minutes to Ebb", "0-9"),
        ("Élan des Mouettes", "Élan des Mouettes", "E"),
        ("Anchor", "Anchor", "A"),
    ],
)
def test_sorted_titles_and_letters(title: str, sorted_: str, letter_: str) -> None:
    assert (sorted_title(title), letter(title)) == (sorted_, letter_)


def test_ranges_of_letters() -> None:
    assert [range_of(title, ["A-L", "M-Z"]) for title in ("Anchor", "The Salt Orchard", "lamp")] == [
        "A-L",
        "M-Z",
        "A-L",
    ]


@pytest.mark.parametrize(
    ("name", "everywhere"),
    [("CON", False), ("con.mkv", False), ("a:b", False), ("what?", False), ("dot.", False), ("space ", False),
     ("..", False), ("", False), ("x" * 256, False), ("fine (2001).mkv", True), ("灯台の夜", True), ("🪁", True)],
)  # fmt: skip
def test_names_that_every_disk_takes(name: str, everywhere: bool) -> None:
    assert is_safe(name, everywhere=True) is everywhere


@given(st.text(max_size=300))
def test_a_safe_part_is_safe_or_empty_and_stays_as_it_is(text: str) -> None:
    part = safe_part(safe_value(text.replace("\0", ""), everywhere=True), everywhere=True)
    lone = any("\ud800" <= character <= "\udfff" for character in part)
    assert (
        part == ""
        or lone
        or (is_safe(part, everywhere=True) and safe_part(safe_value(part, everywhere=True), everywhere=True) == part)
    )


@given(st.text(min_size=1, max_size=400), st.integers(20, LONGEST))
def test_shortening_keeps_the_beginning_and_the_limit(text: str, limit: int) -> None:
    short = shortened(text, limit)
    assert len(short.encode("utf-8", "surrogateescape")) <= max(limit, len(short.encode("utf-8", "replace")) and limit)
    assert text.startswith(short)


@given(st.binary(max_size=60))
def test_every_path_is_read_back_from_its_written_form(data: bytes) -> None:
    path = data.replace(b"\0", b"").decode("utf-8", "surrogateescape")
    text = written(path)
    assert read_back(text) == path
    assert text.isprintable() or not any(character < " " for character in text)
    text.encode("utf-8")


@pytest.mark.parametrize(
    ("name", "stem", "ending"),
    [("a.mkv", "a", ".mkv"), ("Vol. 2", "Vol. 2", ""), ("film.1987", "film.1987", ""), (".hidden", ".hidden", ""),
     ("a.tar.gz", "a.tar", ".gz"), ("README", "README", ""), ("x.7z", "x", ".7z"), ("a.", "a.", "")],
)  # fmt: skip
def test_endings(name: str, stem: str, ending: str) -> None:
    assert split_ending(name) == (stem, ending)


def test_paths_as_text() -> None:
    assert (parent("a/b/c"), name_of("a/b/c"), join("", "a"), join("a", "b")) == ("a/b", "c", "a", "a/b")
    assert list(above("a/b/c")) == ["a/b", "a"] and list(above("a")) == []
    assert is_below("a/b", "a") and is_below("a", "a") and is_below("x", "") and not is_below("ab", "a")
    assert same_name("CAFÉ") == same_name("cafe\u0301") and same_name("a") != same_name("b")


@given(st.text(min_size=1, max_size=300))
def test_a_safe_name_is_one_that_every_disk_takes(name: str) -> None:
    assert is_safe(safe_name(name.replace("/", "-"), everywhere=True), everywhere=True)
