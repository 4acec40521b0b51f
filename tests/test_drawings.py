"""Drawn pictures: one drawing in several sizes is alike, a mark makes another one; classes are no chains; nothing that
is only perhaps alike is ever offered to go; and looking locks nobody out."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from benchmarks.corpus.crafted import write_font
from fontTools.subset import Options, Subsetter
from fontTools.ttLib import TTFont
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image, ImageDraw

from lazy_magpie import picture_files
from lazy_magpie.catalogue.fingerprints import Fingerprints
from lazy_magpie.copies import AlikeSearch
from lazy_magpie.copies.similar import _Classes
from lazy_magpie.copies.similarity import METHODS, drawings, fonts, pictures
from lazy_magpie.copies.similarity.likeness import Likeness
from tests.conftest import Collection, program
from tests.samples import vast_png

Tree = Callable[..., Collection]
_FINE = 768
Draw = Callable[[ImageDraw.ImageDraw], None]


def _sail(draw: ImageDraw.ImageDraw) -> None:
    draw.polygon([(384, 60), (384, 560), (120, 560)], fill=(40, 110, 140, 255), outline=(20, 50, 70, 255))
    draw.polygon([(420, 120), (420, 560), (640, 560)], fill=(220, 120, 40, 255), outline=(20, 50, 70, 255))
    draw.polygon([(80, 600), (690, 600), (600, 710), (170, 710)], fill=(90, 60, 50, 255))


def _marked(draw: ImageDraw.ImageDraw) -> None:
    _sail(draw)
    draw.ellipse([520, 40, 740, 260], fill=(190, 30, 30, 255))


def _letter(draw: ImageDraw.ImageDraw) -> None:
    draw.rectangle([60, 160, 708, 608], fill=(245, 245, 240, 255), outline=(90, 90, 90, 255), width=24)
    draw.line([(60, 160), (384, 420), (708, 160)], fill=(90, 90, 90, 255), width=24)


def _lines(starts: list[int]) -> Draw:
    def drawn(draw: ImageDraw.ImageDraw) -> None:
        for row, start in enumerate(starts):
            draw.rectangle([start, 90 + row * 120, start + 420, 150 + row * 120], fill=(50, 50, 50, 255))

    return drawn


def _level(share: float) -> Draw:
    def drawn(draw: ImageDraw.ImageDraw) -> None:
        draw.rectangle([230, 90, 538, 700], outline=(60, 60, 60, 255), width=30)
        draw.rectangle([270, 660 - int(530 * share), 498, 660], fill=(60, 160, 80, 255))

    return drawn


def _icon(draw: Draw, side: int) -> Image.Image:
    """Return a drawing in a size, as a program renders it: many points into one."""
    whole = Image.new("RGBA", (_FINE, _FINE), (0, 0, 0, 0))
    draw(ImageDraw.Draw(whole))
    return whole.resize((side, side), Image.Resampling.LANCZOS)


def _like(one: Image.Image, other: Image.Image) -> Likeness:
    return drawings.sameness(*(drawings.Drawing(drawings.points_of(it), it.size) for it in (one, other)))


_DRAWINGS: dict[str, Draw] = {
    "sail": _sail,
    "sail with a mark": _marked,
    "letter": _letter,
    "left": _lines([60] * 5),
    "centre": _lines([60, 170, 60, 170, 60]),
    **{f"level {number}": _level(number / 7) for number in range(8)},
}


@pytest.mark.parametrize("sides", [(96, 48), (64, 32), (128, 64), (48, 24), (48, 16), (300, 100)])
def test_a_drawing_in_two_sizes_is_the_same_and_others_are_not(sides: tuple[int, int]) -> None:
    for name, draw in _DRAWINGS.items():
        found = _like(_icon(draw, sides[0]), _icon(draw, sides[1]))
        assert found is Likeness.SURELY or (found is Likeness.PERHAPS and sides[1] < 32), name
        for other, another in _DRAWINGS.items():
            if other != name:
                assert _like(_icon(draw, sides[0]), _icon(another, sides[1])) is not Likeness.SURELY, (name, other)


def test_what_is_clear_and_what_is_too_small_is_never_certain() -> None:
    small = [_icon(_sail, side) for side in (8, 12)]
    assert _like(small[0], small[1]) is not Likeness.SURELY
    flat = Image.new("RGBA", (64, 64), "white")
    flat.alpha_composite(_icon(_sail, 64))
    assert _like(flat, _icon(_sail, 64)) is not Likeness.SURELY
    assert _like(_icon(_sail, 64), _icon(_sail, 64).resize((64, 40))) is Likeness.NOT


def test_candidates_are_few_and_have_what_is_alike(tmp_path: Path) -> None:
    made = [(name, side) for name in _DRAWINGS for side in (32, 48, 64, 96)]
    paths = [tmp_path / f"{name} {side}.png" for name, side in made]
    for path, (name, side) in zip(paths, made, strict=True):
        _icon(_DRAWINGS[name], side).save(path)
    prints = [pictures.fingerprint(str(path)) for path in paths]
    found = pictures.candidates(prints).tolist()
    order = sorted(range(len(paths)), key=lambda at: -pictures.rank(prints[at]))
    classes, looks = _Classes(order, found), 0
    while asked := classes.next_pairs():
        for one, other in asked:
            classes.tell(one, pictures.confirm(str(paths[one]), str(paths[other])))
        looks += len(asked)
    assert looks <= len(paths)
    joined = {(made[at][0], made[leader][0]) for at, leader in classes.leaders().items()}
    assert joined == {(name, name) for name in _DRAWINGS}


def test_a_crowd_of_one_drawing_hides_no_larger_one(tmp_path: Path) -> None:
    paths = [tmp_path / f"{number}.png" for number in range(40)]
    for number, path in enumerate(paths):
        _icon(_sail, 64 if number == 17 else 32).save(path, compress_level=number % 10)
    found = pictures.candidates([pictures.fingerprint(str(path)) for path in paths]).tolist()
    with_it = {other for pair in found for other in pair if 17 in pair} - {17}
    assert with_it and len({at for pair in found for at in pair}) == 40
    classes = _Classes([17, *(at for at in range(40) if at != 17)], found)
    while asked := classes.next_pairs():
        for one, other in asked:
            classes.tell(one, pictures.confirm(str(paths[one]), str(paths[other])))
    assert set(classes.leaders().values()) == {17} and len(classes.leaders()) == 40


@given(
    st.integers(2, 12).flatmap(
        lambda count: st.tuples(
            st.just(count),
            st.dictionaries(
                st.tuples(st.integers(0, count - 1), st.integers(0, count - 1)).filter(lambda p: p[0] < p[1]),
                st.sampled_from([1, 2]),
            ),
        )
    )
)
def test_each_of_a_class_is_alike_to_the_one_that_leads_it(given: tuple[int, dict[tuple[int, int], int]]) -> None:
    count, alike = given
    classes = _Classes(range(count), [(worse, better) for (better, worse) in alike])
    for _ in range(count * 4):
        if not (asked := classes.next_pairs()):
            break
        for worse, better in asked:
            classes.tell(worse, alike.get((better, worse), 0))
    else:
        pytest.fail("it never ends")
    leaders = classes.leaders()
    assert all(one == leader or alike[leader, one] == 2 for one, leader in leaders.items())
    assert all(alike[leader, one] == 1 for leader, one in classes.perhaps)


@pytest.fixture
def icons(tree: Tree) -> Collection:
    """Return a collection of the drawings in three sizes, and of one that is perhaps another."""
    collection = tree([])
    for side in (32, 48, 96):
        folder = collection.root / f"Pictures/{side}"
        folder.mkdir(parents=True)
        for name, draw in _DRAWINGS.items():
            _icon(draw, side).save(folder / f"{name}.png")
    faint = _icon(_letter, 96)
    ImageDraw.Draw(faint).ellipse([40, 60, 52, 70], fill=(224, 224, 219, 255))
    faint.save(collection.root / "Pictures/faint.png")
    collection.ok("scan")
    return collection


def test_sizes_of_one_drawing_are_one_set_and_levels_are_no_chain(icons: Collection) -> None:
    found = icons.ok("copies", "--alike", "--json", code=0).lines
    sets = [{Path(path).stem for path in (one["keep"], *one["others"])} for one in found if one["keep"]]
    assert sorted(map(sorted, sets)) == sorted([name] for name in _DRAWINGS)
    assert all(len(one["others"]) == 2 and "/96/" in one["keep"] for one in found if one["keep"])


def test_what_is_perhaps_alike_is_said_and_never_offered(icons: Collection) -> None:
    (one,) = [one for one in icons.ok("copies", "--alike", "--json").lines if not one["keep"]]
    assert {Path(path).name for path in one["others"]} == {"faint.png", "letter.png"}
    assert "never removed" in one["why"] and "perhaps" in icons.ok("copies", "--alike").out
    for words in (("--keep", "better,alike"), ("--keep", "better", *one["others"])):
        plan = icons.ok("copies", "--alike", "--hold", *words, "--json").json
        assert not [step for step in plan["steps"] if Path(step["from"]).name == "faint.png"]


def _counted(name: str, real: Callable[..., Any], read: list[str]) -> Callable[..., Any]:
    def counted(table: Fingerprints, *more: Any) -> Any:
        read.append(name)
        return real(table, *more)

    return counted


def test_what_is_known_is_read_once_however_many_sets_there_are(
    icons: Collection, monkeypatch: pytest.MonkeyPatch
) -> None:
    read: list[str] = []
    for name in ("looks", "of_kinds"):
        monkeypatch.setattr(Fingerprints, name, _counted(name, getattr(Fingerprints, name), read))
    found = icons.ok("copies", "--alike", "--json").lines
    assert len(found) > 10 and read.count("looks") == 1 and read.count("of_kinds") <= len(METHODS)


def test_looking_locks_nobody_out(icons: Collection, monkeypatch: pytest.MonkeyPatch) -> None:
    sets, codes = AlikeSearch.sets, []

    def slowly(*given: Any, **named: Any) -> Any:
        for command in ("tidy", "find", "show"):
            words = ["Pictures/faint.png"] if command == "show" else []
            codes.append((command, program("-C", str(icons.root), command, *words).code))
        return sets(*given, **named)

    monkeypatch.setattr(AlikeSearch, "sets", slowly)
    icons.ok("copies", "--alike", "--json")
    assert len(codes) == 3 and all(code in (0, 1) for _, code in codes), codes


# --- fonts -----------------------------------------------------------------------------------------------------------


def _font(path: Path, change: Callable[[TTFont], None]) -> str:
    write_font(path, 7)
    with TTFont(path) as font:
        change(font)
        font.save(path)
    return str(path)


def _without_a_character(font: TTFont) -> None:
    for table in font["cmap"].tables:
        table.cmap.pop(ord("a"), None)


def _smaller(font: TTFont) -> None:
    subsetter = Subsetter(Options(notdef_outline=True, glyph_names=True))
    subsetter.populate(text="abcdefgh")
    subsetter.subset(font)


def _bent(font: TTFont) -> None:
    glyph = font["glyf"]["letter5"]
    glyph.coordinates.translate((0, 40))
    glyph.recalcBounds(font["glyf"])


def _called_otherwise(font: TTFont) -> None:
    for name in (1, 4, 16):
        font["name"].setName("Another Hand", name, 3, 1, 0x409)


@pytest.mark.parametrize(
    ("change", "alike"),
    [
        (lambda font: None, Likeness.SURELY),
        (_without_a_character, Likeness.NOT),
        (_smaller, Likeness.NOT),
        (_bent, Likeness.NOT),
        (_called_otherwise, Likeness.PERHAPS),
    ],
)
def test_a_font_with_other_glyphs_is_no_copy(tmp_path: Path, change: Callable[[TTFont], None], alike: Likeness) -> None:
    one, other = _font(tmp_path / "one.ttf", lambda font: None), _font(tmp_path / "other.ttf", change)
    assert fonts.confirm(one, other) is alike


@pytest.mark.parametrize("mode", ["RGBA", "RGB", "L", "P", "LA"])
def test_a_picture_of_many_points_is_looked_at_in_little_memory(tmp_path: Path, mode: str) -> None:
    """Twenty million points are read a strip at a time, and look as those that Pillow makes smaller."""
    fine = Image.new("RGBA", (_FINE, _FINE), (0, 0, 0, 0) if "A" in mode else (255, 255, 255, 255))
    _sail(ImageDraw.Draw(fine))
    names = {side: str(tmp_path / f"{side}.png") for side in (4_608, 512)}
    for side, name in names.items():
        sized = fine.resize((side, side), Image.Resampling.LANCZOS)
        sized = sized.convert("RGB").quantize(64, dither=Image.Dither.NONE) if mode == "P" else sized.convert(mode)
        sized.save(name)
    with Image.open(names[4_608]) as opened:
        small = picture_files.bounded(opened, names[4_608], 1_600)
        assert small.size == (2_304, 2_304)
    prints = [pictures.fingerprint(name) for name in names.values()]
    assert pictures.candidates(prints).tolist() == [[0, 1]]
    assert pictures.confirm(*names.values()) == Likeness.SURELY
    other = Image.new("RGBA", (512, 512), (0, 0, 0, 0) if "A" in mode else (255, 255, 255, 255))
    _marked(ImageDraw.Draw(other))
    other.convert(mode).save(tmp_path / "other.png")
    assert pictures.confirm(names[4_608], str(tmp_path / "other.png")) == Likeness.NOT


def test_a_picture_of_too_many_points_is_named_and_left(tree: Tree) -> None:
    collection = tree([])
    for name in ("a.png", "b.png"):
        (collection.root / name).write_bytes(vast_png(40_000, 30_000 if name == "a.png" else 31_000))
    collection.ok("scan")
    assert "it has too many points to be looked at" in collection.ok("copies", "--alike").err
