"""Fonts that are alike: outlines as they are read from each container, collections, other versions of one font."""

from __future__ import annotations

import random
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pathops
import pytest
from fontTools import subset
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTCollection, TTFont
from hypothesis import given, settings
from hypothesis import strategies as st

from lazy_magpie.copies.similarity import fonts
from lazy_magpie.copies.similarity.likeness import Likeness
from lazy_magpie.copies.similarity.outlines import TransformedOutlines, faces_of
from lazy_magpie.model import Identity, Kind, State
from lazy_magpie.scan.font_families import joined
from lazy_magpie.scan.identified_file import IdentifiedFile
from tests.conftest import Collection


def _glyph(chance: random.Random, built: dict[str, Any]) -> Any:
    """Draw a glyph of curves, or put one together of others, moved and scaled."""
    pen = TTGlyphPen(built)
    if built and chance.random() < 0.3:
        for _ in range(chance.randint(1, 3)):
            scale = chance.choice([1, 0.5, 1.25])
            laid = (scale, 0, 0, scale) if chance.random() < 0.7 else (scale, 0.25, -0.25, scale)
            pen.addComponent(chance.choice(list(built)), (*laid, chance.randint(-300, 300), chance.randint(-99, 99)))
        return pen.glyph()
    for _ in range(chance.randint(0, 3)):
        reach = chance.choice([5, 80, 1_500, 6_000])
        pen.moveTo((chance.randint(-reach, reach), chance.randint(-reach, reach)))
        for _ in range(chance.randint(2, 9)):
            points = [
                (chance.randint(-reach, reach), chance.randint(-reach, reach)) for _ in range(chance.randint(1, 3))
            ]
            pen.lineTo(points[0]) if len(points) == 1 else pen.qCurveTo(*points)
        pen.closePath()
    return pen.glyph()


def _font(
    path: Path, seed: int, *, count: int = 30, family: str = "Gullwick Sans", version: str = "Version 1.0"
) -> Path:
    """Build a font of random glyphs; its ending says which container it is."""
    chance = random.Random(seed)
    names = [".notdef", *(f"g{number}" for number in range(count))]
    built: dict[str, Any] = {}
    for name in names:
        built[name] = _glyph(chance, {one: glyph for one, glyph in built.items() if not glyph.isComposite()})
    builder = FontBuilder(1000, isTTF=True)
    builder.setupGlyphOrder(names)
    builder.setupCharacterMap({0x41 + number: name for number, name in enumerate(names[1:])})
    builder.setupGlyf(built)
    left = {name: getattr(glyph, "xMin", 0) for name, glyph in builder.font["glyf"].glyphs.items()}
    builder.setupHorizontalMetrics({name: (chance.randint(200, 900), left[name]) for name in names})
    builder.setupHorizontalHeader()
    builder.setupNameTable({"familyName": family, "styleName": "Regular", "version": version})
    builder.setupOS2()
    builder.setupPost()
    builder.font.flavor = {".woff": "woff", ".woff2": "woff2"}.get(path.suffix)
    path.parent.mkdir(parents=True, exist_ok=True)
    builder.save(path)
    return path


def _as_fonttools(path: Path) -> list[tuple[float, ...]]:
    """Return advance, bounds and area of each glyph, as fontTools reads a font that it takes apart wholly."""
    with TTFont(path) as font:
        glyphs = font.getGlyphSet()
        found = []
        for name in font.getGlyphOrder():
            outline = pathops.Path()
            glyphs[name].draw(outline.getPen(glyphSet=glyphs))
            found.append((glyphs[name].width, *outline.bounds, abs(outline.area)))
        return found


@settings(deadline=None, max_examples=40)
@given(seed=st.integers(0, 1 << 30))
def test_outlines_are_those_of_another_reader(tmp_path_factory: pytest.TempPathFactory, seed: int) -> None:
    folder = tmp_path_factory.mktemp("fonts")
    for ending in (".ttf", ".woff", ".woff2"):
        path = _font(folder / f"a{ending}", seed)
        ((_, outlines),) = faces_of(str(path))
        assert isinstance(outlines, TransformedOutlines) == (ending == ".woff2")
        wanted = np.array(_as_fonttools(path))
        paths = [outlines.path(glyph) for glyph in range(len(wanted))]
        found = np.array([(outlines.width(at), *one.bounds, abs(one.area)) for at, one in enumerate(paths)])
        assert np.abs(found[:, :5] - wanted[:, :5]).max() <= 1.5  # parts are laid to whole units, or are not
        assert np.allclose(found[:, 5], wanted[:, 5], rtol=2e-3, atol=5e4)


def test_one_face_in_three_containers_is_alike_and_another_is_not(tmp_path: Path) -> None:
    plain, web, web2 = (_font(tmp_path / f"a{ending}", 7) for ending in (".ttf", ".woff", ".woff2"))
    other = _font(tmp_path / "b.woff2", 8)
    assert fonts.confirm(str(plain), str(web)) == fonts.confirm(str(web), str(web2)) == Likeness.SURELY
    assert fonts.confirm(str(plain), str(other)) == Likeness.NOT
    prints = [fonts.fingerprint(str(path)) for path in (plain, web, web2, other)]
    assert fonts.candidates(prints).tolist() == [[0, 1], [0, 2], [1, 2]]
    renamed = _font(tmp_path / "c.ttf", 7, family="Tern")
    assert fonts.confirm(str(plain), str(renamed)) == Likeness.PERHAPS


def test_collections_are_compared_face_by_face(tmp_path: Path) -> None:
    def collection(name: str, *seeds: int) -> str:
        path = tmp_path / name
        whole = TTCollection()
        whole.fonts = [TTFont(_font(tmp_path / f"{name}{seed}.ttf", seed)) for seed in seeds]
        whole.save(path)
        return str(path)

    one, same = collection("a.ttc", 1, 2), collection("b.ttc", 1, 2)
    fewer, other = collection("c.ttc", 1), collection("d.ttc", 1, 3)
    assert fonts.confirm(one, same) == Likeness.SURELY
    assert fonts.confirm(one, fewer) == fonts.confirm(one, other) == Likeness.NOT
    prints = [fonts.fingerprint(path) for path in (one, same, fewer)]
    assert fonts.candidates(prints).tolist() == [[0, 1]]


@pytest.mark.parametrize("cut", [20, 300, 900])
def test_damaged_web_fonts_are_refused(tmp_path: Path, cut: int) -> None:
    path = _font(tmp_path / "a.woff2", 5)
    path.write_bytes(path.read_bytes()[:-cut])
    with pytest.raises(Exception, match=r".+"):
        fonts.fingerprint(str(path))


def test_a_larger_and_a_newer_version_are_said_to_be_one_and_never_go(tree: Callable[..., Collection]) -> None:
    collection = tree([])
    whole = _font(collection.root / "Fonts/a/GullwickSans.ttf", 3, version="Version 1.0")
    web = collection.root / "Fonts/b/GullwickSans.woff2"
    web.parent.mkdir()
    options = subset.Options(flavor="woff2", name_IDs=["*"])
    part = subset.load_font(str(whole), options)
    cutter = subset.Subsetter(options)
    cutter.populate(unicodes=range(0x41, 0x4A))
    cutter.subset(part)
    subset.save_font(part, str(web), options)
    _font(collection.root / "Fonts/c/GullwickSans.ttf", 3, count=34, version="Version 2.1")
    collection.ok("scan")
    answer = collection.run("copies", "--alike", "--json")
    sets = {tuple(one["others"]): one for one in answer.lines}
    newest = "Fonts/c/GullwickSans.ttf"
    assert sets.keys() == {(newest, "Fonts/a/GullwickSans.ttf"), (newest, "Fonts/b/GullwickSans.woff2")}
    assert all(one["match"] == "version" and not one["sure"] and one["keep"] is None for one in sets.values())
    assert sets[newest, "Fonts/a/GullwickSans.ttf"]["why"].startswith("2.1, 35 glyphs, ")
    assert "2 fonts of which another version is there; they are no copies." in collection.ok("copies", "--alike").out
    collection.run("copies", "--alike", "--hold", "--keep", "newer,alike", "--now")
    assert len(list((collection.root / "Fonts").rglob("Gullwick*"))) == 3


@pytest.mark.parametrize(
    ("family", "style", "whole"),
    [
        ("Butter Lane Bold", "Bold", "Bold"),
        ("Butter Lane Semibold", "Italic", "Semibold Italic"),
        ("Butter Lane Light", "Regular", "Light"),
        ("Butter Lane Bold Italic", "Bold Italic", "Bold Italic"),
    ],
)
def test_a_face_says_each_word_of_its_style_once(family: str, style: str, whole: str) -> None:
    faces = [{"family": "Butter Lane"}, {"family": family, "style": style}]
    files = [
        IdentifiedFile(at, f"{at}.ttf", 1, 1, Identity(Kind.FONT, State.CLEAR, 0.9, fields), 0)
        for at, fields in enumerate(faces)
    ]
    assert joined(files)[1].identity.fields == {"family": "Butter Lane", "style": whole}
