"""Filing what makers sell, songs and games: by namings, folders and marks of one's own; what lacks a field waits."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from tests.conftest import CRAFTS, SHELVES, Collection, picture

Tree = Callable[..., Collection]
CONFIG = (
    SHELVES
    + CRAFTS
    + """
[field.theme]
allowed = ["harbour", "kites: small & large", "weather"]
[field.mark]
from_tags = { new = "!", lent = "lent -" }
[naming.mine]
kit = "{maker}/{theme}/<{mark} >{title}"
[shelf.kits]
kind = "kit"
folder = "Craft/Bought"
naming = "mine"
"""
)
KIT = "Heap/Kits/Fennick Paper Co/Harbour Lamps"
KIT_FILES = [f"{KIT}/{name}" for name in ("elements/buoy.png", "elements/rope.png", "papers/p1.jpg", "preview.jpg")]


@pytest.fixture
def crafts(tree: Tree) -> Collection:
    """Return a heap of what makers sell, with songs and games."""
    collection = tree(KIT_FILES, CONFIG)
    collection.put(f"{KIT}/licence.txt", text="own use")
    collection.put(
        "Heap/Designs/Needle Jetty/Kite Emblem/kite-emblem.PES",
        "Heap/Designs/Needle Jetty/Kite Emblem/kite-emblem.dst",
        "Heap/Designs/Needle Jetty/Kite Emblem/Kite Emblem colour chart.pdf",
        "Heap/Designs/Needle Jetty/nj0142-tern.dst",
        "Heap/Stitch fonts/Needle Jetty/Rope Capitals/A.dst",
        "Heap/Stitch fonts/Needle Jetty/Rope Capitals/B.dst",
        "Heap/GullwickSans-Bold.ttf",
        "Heap/Ida Marrow/Low Lights (2009)/03 Slack Water.mp3",
        "Heap/Various Artists/Harbour Sessions/07 - Ida Marrow - Slack Water.ogg",
        "Heap/chip8/Buoy Bandit (Europe).ch8",
    )
    collection.run("scan")
    collection.ok("settle", "Heap/GullwickSans-Bold.ttf", "--set", "family=Gullwick Sans")
    return collection


def _filed(collection: Collection, *words: str, code: int = 0) -> set[str]:
    collection.ok("tidy", *words, "--now", code=code)
    return collection.files()


def _fields(collection: Collection) -> list[tuple[str, str, str]]:
    items = collection.ok("find", "--json").lines
    return sorted((item["kind"], str(sorted(item["fields"].items())), item["state"]) for item in items)


def test_everything_goes_to_its_shelf_and_reads_as_before(crafts: Collection) -> None:
    before = picture(crafts.root)
    crafts.ok("settle", KIT, "--set", "theme=harbour")
    fields = _fields(crafts)
    assert _filed(crafts) == {
        "Craft/Bought/Fennick Paper Co/harbour/Harbour Lamps/elements/buoy.png",
        "Craft/Bought/Fennick Paper Co/harbour/Harbour Lamps/elements/rope.png",
        "Craft/Bought/Fennick Paper Co/harbour/Harbour Lamps/papers/p1.jpg",
        "Craft/Bought/Fennick Paper Co/harbour/Harbour Lamps/preview.jpg",
        "Craft/Bought/Fennick Paper Co/harbour/Harbour Lamps/licence.txt",
        "Designs/Needle Jetty/Kite Emblem/Kite Emblem.pes",
        "Designs/Needle Jetty/Kite Emblem/Kite Emblem.dst",
        "Designs/Needle Jetty/Kite Emblem/Kite Emblem colour chart.pdf",
        "Designs/Needle Jetty/Tern/nj0142 Tern.dst",
        "Fonts/Needle Jetty/Rope Capitals/A.dst",
        "Fonts/Needle Jetty/Rope Capitals/B.dst",
        "Fonts/Gullwick Sans/GullwickSans-Bold.ttf",
        "Music/Ida Marrow/Low Lights (2009)/03 - Slack Water.mp3",
        "Music/Various Artists/Harbour Sessions/07 - Ida Marrow - Slack Water.ogg",
        "Games/chip8/Buoy Bandit (Europe).ch8",
    }
    crafts.run("scan", "--full")
    assert _fields(crafts) == fields
    assert not crafts.ok("tidy", "--json").json["steps"]
    crafts.ok("undo")
    crafts.ok("undo")
    assert picture(crafts.root) == before


def test_a_mark_stands_in_front_as_long_as_its_tag_does(crafts: Collection) -> None:
    crafts.ok("settle", KIT, "--set", "theme=kites: small & large")
    crafts.ok("tag", "put", "new", KIT)
    home = "Craft/Bought/Fennick Paper Co/kites - small & large"
    assert f"{home}/! Harbour Lamps/papers/p1.jpg" in _filed(crafts, "kind", "is", "kit")
    for more in ("", "-wal", "-shm"):
        (crafts.root / f".magpie/catalogue.db{more}").unlink(missing_ok=True)
    crafts.run("scan")
    (kit,) = crafts.ok("find", "kind", "is", "kit", "--json").lines
    assert kit["fields"]["title"] == "Harbour Lamps" and kit["tags"] == ["new"] and kit["own"]
    crafts.ok("tag", "drop", "new", "kind", "is", "kit")
    assert f"{home}/Harbour Lamps/papers/p1.jpg" in _filed(crafts, "kind", "is", "kit")
    assert "comes from a tag" in crafts.ok("settle", "kind", "is", "kit", "--set", "mark=!", code=2).err


@pytest.mark.parametrize(("without", "code"), [("stay", 1), ("inbox", 0)])
def test_what_lacks_a_needed_field_stays_or_waits_in_the_inbox(crafts: Collection, without: str, code: int) -> None:
    config = CONFIG.replace('naming = "mine"', f'naming = "mine"\nwithout = "{without}"')
    (crafts.root / "magpie.toml").write_text(config.replace('name = "Test"', 'name = "Test"\ninbox = "Waiting"'))
    files = _filed(crafts, "kind", "is", "kit", code=code)
    assert {f"Waiting/{path}" for path in KIT_FILES} <= files or without == "stay"
    if without == "inbox":
        crafts.run("scan", "--full")
        assert not crafts.ok("tidy", "kind", "is", "kit", "--json").json["steps"]
        crafts.ok("settle", "Waiting", "--set", "theme=weather")
        files = _filed(crafts, "kind", "is", "kit")
        assert "Craft/Bought/Fennick Paper Co/weather/Harbour Lamps/licence.txt" in files
        assert not [path for path in files if path.startswith("Waiting")]
    else:
        assert "needs theme" in crafts.ok("tidy", "kind", "is", "kit", code=1).out


def test_a_kit_is_not_torn_apart_where_one_of_its_names_is_taken(crafts: Collection) -> None:
    crafts.ok("settle", KIT, "--set", "theme=harbour")
    crafts.put("Craft/Bought/Fennick Paper Co/harbour/Harbour Lamps/elements/rope.png", text="another")
    plan = crafts.ok("tidy", KIT, "--json", code=1).json
    assert not plan["steps"] and len(plan["conflicts"]) == 1
    crafts.put("Craft/Bought/Fennick Paper Co/harbour/other/x.png")
    assert crafts.files() >= set(KIT_FILES)


def test_a_word_of_ones_own_is_taken_out_of_a_path_only_where_the_naming_puts_it(crafts: Collection) -> None:
    paths = {
        "Craft/Bought/Fennick Paper Co/weather/Fog/a.png": "Fog",
        "Craft/Bought/Fennick Paper Co/weather/b.png": "Weather",
        "Craft/Bought/Fennick Paper Co/Weather Station/Fog/c.png": "Weather Station",
        "Craft/Bought/Fennick Paper Co/! Gale/d.png": "Gale",
    }
    crafts.put(*paths)
    crafts.run("scan")
    items = crafts.ok("find", "Craft/Bought", "--json").lines
    titles = {file["path"]: item["fields"]["title"] for item in items for file in item["files"]}
    assert titles == paths
