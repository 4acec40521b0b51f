"""What players read beside things: pictures under their names, data files from templates and in open forms."""

from __future__ import annotations

import io
import json
import re
from collections.abc import Callable
from pathlib import Path
from xml.etree import ElementTree

import pytest
from mutagen.id3 import APIC, ID3
from PIL import Image

from tests.conftest import CONFIG, Collection, picture
from tests.lists import put_bytes

Tree = Callable[..., Collection]
PNG = b"\x89PNG\r\n\x1a\n"
ART = '[player.lounge]\nart = { cover = "{stem}-cover", folder = "images" }\n'


def _data(form: str) -> str:
    return f'{CONFIG}[player.lounge]\ndata = "{form}"\n'


def _pictures(folder: Path, *names: str) -> None:
    for name in names:
        put_bytes(folder / name, PNG + name.encode())


def test_pictures_from_elsewhere_are_matched_by_what_they_are_called(tree: Tree, tmp_path: Path) -> None:
    games = [
        "Games/gb/Gull Run (Europe).gb",
        "Games/gb/Kelp Race II, The (USA) (Rev 1).gb",
        "Games/gb/Fog & Salt (World).gb",
        "Games/gb/Tern (Europe).gb",
        "Games/gb/Tern (USA).gb",
        "Games/gb/Lamplighter (Europe).gb",
    ]
    here = tree(games, CONFIG + ART)
    _pictures(
        tmp_path / "art",
        "gull_run-cover.png",
        "The.Kelp.Race.2.jpg",
        "FOG AND SALT [front].png",
        "deep/Tern (USA).png",
        "Lamplihgter.png",
        "nobody.png",
    )
    here.ok("scan")
    before = picture(here.root)
    plan = here.ok("companions", "--from", str(tmp_path / "art"), "--json", code=1).json
    found = {Path(step["to"]).name: Path(step["from"]).name for step in plan["steps"] if step["do"] == "copy"}
    assert found == {
        "Gull Run (Europe)-cover.png": "gull_run-cover.png",
        "Kelp Race II, The (USA) (Rev 1)-cover.jpg": "The.Kelp.Race.2.jpg",
        "Fog & Salt (World)-cover.png": "FOG AND SALT [front].png",
        "Tern (USA)-cover.png": "Tern (USA).png",
    }
    asked = {left["path"]: left["why"] for left in plan["left"]}
    assert asked.keys() == {"Games/gb/Tern (Europe).gb", "Games/gb/Lamplighter (Europe).gb"}
    assert "Lamplihgter.png" in asked["Games/gb/Lamplighter (Europe).gb"]
    here.ok("apply")
    assert (here.root / "Games/gb/images/Tern (USA)-cover.png").read_bytes() == PNG + b"deep/Tern (USA).png"
    here.ok("scan")
    again = here.run("companions", "--from", str(tmp_path / "art"), "--json").json
    assert again["steps"] == []
    assert here.ok("tidy", "--json").json["steps"] == []
    here.ok("undo")
    assert picture(here.root) == before


def test_a_picture_beside_gets_the_name_that_is_looked_for(tree: Tree) -> None:
    here = tree(["Films/Kelp (2001)/Kelp (2001).mkv", "Films/Kelp (2001)/poster.jpg"], CONFIG + ART)
    here.ok("scan")
    here.ok("companions", "--now")
    assert "Films/Kelp (2001)/images/Kelp (2001)-cover.jpg" in here.files()
    assert "Films/Kelp (2001)/poster.jpg" not in here.files()
    here.ok("scan")
    assert here.ok("companions", "--json").json["steps"] == []


def test_pictures_may_lie_right_beside(tree: Tree, tmp_path: Path) -> None:
    here = tree(
        ["Games/gb/Gull Run (Europe).gb", "top.txt"], CONFIG + '[player.a]\nart = { cover = "{title} front" }\n'
    )
    _pictures(tmp_path / "art", "GULL RUN.jpg")
    here.ok("scan")
    plan = here.ok("companions", "--from", str(tmp_path / "art"), "--json").json
    assert [step["to"] for step in plan["steps"]] == ["Games/gb/Gull Run front.jpg"]
    here.ok("apply")
    assert "Games/gb/Gull Run front.jpg" in here.files()


def test_pictures_are_made_from_what_has_none(tree: Tree, demo: Collection) -> None:
    here = tree(["Fonts/Own/own-poster.jpg"], CONFIG + ART)
    made = {
        "Films/Kelp (2001)/Kelp (2001).mkv": _one(demo.root, ".mkv"),
        "Designs/Needle Jetty/Tern/Tern.dst": _one(demo.root, ".dst"),
        "Films/Gull (1999)/Gull (1999).mkv": b"\x1aE\xdf\xa3 cut off",
    }
    for path, data in made.items():
        put_bytes(here.root / path, data)
    here.ok("scan")
    before = picture(here.root)
    assert here.ok("companions", "--json").json["steps"] == []
    plan = here.ok("companions", "--make", "--json").json
    covers = ["Designs/Needle Jetty/Tern/images/Tern-cover.jpg", "Films/Kelp (2001)/images/Kelp (2001)-cover.jpg"]
    assert sorted(step["to"] for step in plan["steps"] if step["do"] == "move") == covers
    here.ok("apply")
    for cover in covers:
        with Image.open(here.root / cover) as image:
            assert image.format == "JPEG"
            assert len(image.getcolors(image.width * image.height) or []) > 1  # something is to be seen
    assert here.ok("companions", "--make", "--json").json["steps"] == []
    after = here.files()
    here.ok("undo")
    assert picture(here.root) == before
    assert ".magpie" not in here.ok("find", "--json").out  # what waits in magpie's own folder is no item
    assert here.ok("scan", "--json").json["missing"] == 0
    here.ok("redo")
    assert here.files() == after
    here.ok("undo")
    assert here.ok("companions", "--make", "--now").code == 0
    assert here.files() == after


def test_pictures_in_question_are_asked_about_and_shown_side_by_side(
    tree: Tree, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    here = tree([f"Games/gb/Tern ({region}).gb" for region in ("Europe", "Japan", "World")], CONFIG + ART)
    for name in ("Tern (USA)", "Tern [b&<i>]", "Kelp"):
        _picture(tmp_path / f"art/{name}.png")
    here.ok("scan")
    page = tmp_path / "pictures.html"
    art = ("--from", str(tmp_path / "art"))
    plan = here.ok("companions", *art, "--page", str(page), "--json", code=1).json
    assert plan["steps"] == []
    text = page.read_text()
    assert text.count('<figure class="open">') == 6
    assert "<i>" not in text
    assert text.count("data:image/webp") == 6
    assert re.search(r"<html lang=", text) and not re.search(r"(?:src|href)=[\"']?(?:https?:)?//", text)
    monkeypatch.setattr("sys.stdin", io.StringIO("7\n2\nn\nq\n"))
    plan = here.ok("companions", *art, "--ask", "--json", code=1).json
    assert [Path(step["from"]).name for step in plan["steps"] if step["do"] == "copy"] == ["Tern [b&<i>].png"]
    assert len(plan["left"]) == 1
    assert "name a folder of them" in here.ok("companions", "--ask", code=2).err


def _picture(path: Path) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    Image.new("RGB", (60, 40), "teal").save(path, "png")


SIZES = {"A": ("png", (60, 40)), "B": ("jpeg", (60, 40)), "C": ("jpeg", (20, 40)), "D": ("webp", (9, 9))}


def test_pictures_get_the_form_and_size_that_a_player_takes(tree: Tree, tmp_path: Path) -> None:
    art = 'art = { cover = "{stem}-cover", form = "jpg", width = "30" }'
    here = tree([f"Games/gb/{name} (World).gb" for name in "ABCDE"], f"{CONFIG}[player.lounge]\n{art}\n")
    put_bytes(tmp_path / "art/E (World).png", PNG + b"damaged")
    for name, (form, size) in SIZES.items():
        Image.new("RGB", size, "teal").save(tmp_path / f"art/{name} (World).{form}", form)
    here.ok("scan")
    before = picture(here.root)
    here.ok("companions", "--from", str(tmp_path / "art"), "--now")
    sizes = {}
    for path in (here.root / "Games/gb").glob("[ABCD]*cover*"):
        with Image.open(path) as image:
            sizes[path.name] = (image.format, image.size)
    assert sizes == {
        "A (World)-cover.jpg": ("JPEG", (30, 20)),
        "B (World)-cover.jpg": ("JPEG", (30, 20)),
        "C (World)-cover.jpeg": ("JPEG", (20, 40)),
        "D (World)-cover.jpg": ("JPEG", (9, 9)),
    }
    assert (here.root / "Games/gb/E (World)-cover.png").read_bytes() == PNG + b"damaged"
    here.ok("undo")
    assert picture(here.root) == before


def test_kits_get_a_sheet_of_their_papers_or_their_preview(demo: Collection) -> None:
    demo.ok("start")
    with (demo.root / "magpie.toml").open("a") as file:
        file.write('\n[player.shelf]\nart = { cover = "{stem}-cover" }\n')
    demo.ok("scan")
    before = picture(demo.root)
    demo.run("companions", "kind", "is", "kit", "--make", "--now")
    made = picture(demo.root).keys() - before.keys()
    assert {"Kits/Fennick Paper Co/Kite Day/Kite Day-cover.jpg"} < made
    for path in made:
        with Image.open(demo.root / path) as image:
            assert image.format == "JPEG"
            assert max(image.size) <= 800
    demo.ok("scan")
    assert not {one["path"] for one in demo.run("check", "--rule", "no-preview", "--json").lines} & made
    demo.ok("undo")
    assert picture(demo.root) == before


def test_songs_of_an_album_share_the_cover_inside_them(tree: Tree, demo: Collection) -> None:
    here = tree([], CONFIG + '[player.lounge]\nart = { cover = "cover" }\n')
    song = min(demo.root.rglob("01 Kite Day.mp3"))
    album = here.root / "Music/Ida Marrow/Low Tide"
    for number, title in enumerate(("Kelp", "Tern", "Fog"), start=1):
        path = album / f"{number:02} - {title}.mp3"
        put_bytes(path, song.read_bytes())
        if number > 1:
            tags = ID3()  # type: ignore[no-untyped-call]
            tags.add(APIC(mime="image/png", type=3, data=_png()))  # type: ignore[no-untyped-call]
            tags.save(path)
    here.ok("scan")
    plan = here.ok("companions", "--make", "--json").json
    assert [step["to"] for step in plan["steps"]] == ["Music/Ida Marrow/Low Tide/cover.jpg"]
    assert plan["left"] == []
    here.ok("apply")
    with Image.open(album / "cover.jpg") as image:
        assert image.size == (60, 40)
    here.ok("scan")
    assert here.ok("companions", "--make", "--json").json["steps"] == []


def _png() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (60, 40), "teal").save(out, "png")
    return out.getvalue()


def _one(demo: Path, ending: str) -> bytes:
    return min(path for path in demo.rglob("*" + ending) if path.stat().st_size > 1000).read_bytes()


def test_data_files_come_from_a_template_of_ones_own(tree: Tree) -> None:
    here = tree(["Films/Kelp & Sons (2001)/Kelp & Sons (2001).mkv", "Heap/no year.mkv"], _data("lounge.xml.j2"))
    (here.root / "lounge.xml.j2").write_text("<film><name>{{ title }}</name><year>{{ year }}</year></film>\n")
    here.ok("scan")
    here.ok("companions", "--now")
    path = here.root / "Films/Kelp & Sons (2001)/Kelp & Sons (2001).xml"
    assert ElementTree.fromstring(path.read_text()).findtext("name") == "Kelp & Sons"
    assert not list((here.root / "Heap").glob("*.xml"))
    path.write_text("mine")
    here.ok("scan")
    assert here.ok("companions", "--json").json["steps"] == []
    here.ok("companions", "--again", "--now")
    assert "Kelp &amp; Sons" in path.read_text()
    here.ok("undo")
    assert path.read_text() == "mine"


HOSTILE = "x](y) <b>{{ 7 }} &amp; \"q' ]]> %>"


@pytest.mark.parametrize("form", ["json-ld", "dublin-core", "xmp", "own.xml.j2", "own.html.j2"])
def test_hostile_titles_stay_text(tree: Tree, form: str) -> None:
    here = tree(["Films/Kelp (2001)/Kelp (2001).mkv"], _data(form))
    (here.root / "own.xml.j2").write_text("<a b='{{ title }}'>{{ title }}</a>")
    (here.root / "own.html.j2").write_text("<a b='{{ title }}'>{{ title }}</a>")
    here.ok("scan")
    here.ok("settle", "Films", "--set", f"title={HOSTILE}")
    title = here.ok("find", "kind", "is", "movie", "--json").lines[0]["fields"]["title"]
    assert title == HOSTILE
    here.ok("companions", "--now")
    text = next(
        path for path in (here.root / "Films").rglob("*") if path.is_file() and path.suffix != ".mkv"
    ).read_text()
    if form == "json-ld":
        assert json.loads(text)["name"] == title
    elif form == "dublin-core":
        assert ElementTree.fromstring(text)[0].text == title
    elif form == "xmp":
        assert next(ElementTree.fromstring(text).iter("{http://www.w3.org/1999/02/22-rdf-syntax-ns#}li")).text == title
    else:
        assert ElementTree.fromstring(text).text == title
        assert ElementTree.fromstring(text).get("b") == title


@pytest.mark.parametrize(
    ("template", "said"),
    [
        ("{% if %}", "line 1"),
        ("a\n{{ title", "line 2"),
        ("{% include '/etc/hostname' %}", "can't be filled in"),
        ("{{ ''.__class__.__mro__ }}", "can't be filled in"),
        ("{{ title.__init__.__globals__ }}", "can't be filled in"),
        ("{% for a in range(10000000) %}x{% endfor %}", "can't be filled in"),
        ("{% for a in range(90000) %}{{ title }}{{ title }}{{ title }}{% endfor %}", "more than a megabyte"),
    ],
)
def test_a_template_can_reach_nothing(tree: Tree, template: str, said: str) -> None:
    here = tree(["Films/Kelp Harvest (2001)/Kelp Harvest (2001).mkv"], _data("own.xml.j2"))
    (here.root / "own.xml.j2").write_text(template)
    here.ok("scan")
    answer = here.ok("companions", code=2)
    assert said in answer.err
    assert "Traceback" not in answer.err


@pytest.mark.parametrize(
    ("section", "said"),
    [
        ('[player.a]\nart = { poster = "x" }\n', "there are no pictures called “poster”"),
        ('[player.a]\nart = { cover = "{oops}" }\n', "oops"),
        ('[player.a]\nart = { cover = "x", folder = "a/b" }\n', "no name of a folder"),
        ('[player.a]\ndata = { series = "xmp" }\n', "there is no data about “series”"),
        ("[player.a]\ndata = 7\n", "a text, or texts by words"),
        ('[player.a]\ndata = "none.xml.j2"\n', "none.xml.j2 of [player.a] can't be read"),
        ('[player.a]\ndata = "magpie.toml"\n', "called by what it makes"),
        ('[player.a]\nreads = ["mkv"]\n', "No player wants anything"),
    ],
)
def test_what_is_wrong_is_said(tree: Tree, section: str, said: str) -> None:
    here = tree(["Films/Kelp (2001)/Kelp (2001).mkv"], CONFIG + section)
    here.run("scan")
    assert said in here.ok("companions", code=2).err


PLAYED = """[collection]
unplayable = "file"
[player.lounge]
naming = "mine"
art = { cover = "{stem}-cover", folder = "images" }
data = "json-ld"
play_lists = ["lantern"]
discs = ".discs"
[naming.mine]
movie = "{title} ({year})/{title} [{year}]"
[shelf.films]
kind = "movie"
folder = "Films"
player = "lounge"
[shelf.games]
kind = "game"
folder = "Games"
player = "lounge"
[shelf.series]
kind = "episode"
folder = "Series"
player = "lounge"
"""


def test_tidy_gives_a_player_names_pictures_data_and_play_lists_in_one_plan(tree: Tree) -> None:
    paths = [
        "Heap/kelp.2001.720p/kelp.2001.720p.mkv",
        "Heap/kelp.2001.720p/poster.jpg",
        "Films/Tern (1999).mkv",
        "Series/Quay/Season 01/Quay S01E01.mkv",
        *(f"Games/lantern/Tide (Europe) (Disc {number}).bin" for number in (1, 2)),
    ]
    here = tree(paths, PLAYED)
    here.ok("scan")
    before = picture(here.root)
    here.ok("tidy", "--now")
    assert here.files() == {
        "Films/Kelp (2001)/Kelp [2001].mkv",
        "Films/Kelp (2001)/Kelp [2001].jsonld",
        "Films/Kelp (2001)/images/Kelp [2001]-cover.jpg",
        "Films/Tern (1999)/Tern [1999].mkv",
        "Films/Tern (1999)/Tern [1999].jsonld",
        "Series/Quay/Season 01/Quay S01E01.mkv",
        "Series/Quay/Season 01/Quay S01E01.jsonld",
        *(f"Games/lantern/.discs/Tide (Europe) (Disc {number}).bin" for number in (1, 2)),
        "Games/lantern/Tide (Europe).m3u",
        "Games/lantern/.discs/Tide (Europe) (Disc 1).jsonld",
    }
    here.ok("scan")
    assert here.ok("tidy", "--json").json["steps"] == []
    here.ok("undo")
    assert picture(here.root) == before


WORKS = """[collection]
unplayable = "file"
[player.lounge]
data = {{ show = "{form}", album = "{form}" }}
[shelf.series]
kind = "episode"
folder = "Series"
player = "lounge"
[shelf.music]
kind = "track"
folder = "Music"
player = "lounge"
"""


@pytest.mark.parametrize(
    ("form", "show", "album"),
    [
        ("json-ld", "Quay & Co.jsonld", "Low (2001).jsonld"), ("dublin-core", "Quay & Co.xml", "Low (2001).xml"),
        ("xmp", "Quay & Co.xmp", "Low (2001).xmp"), ("whole.xml.j2", "whole.xml", "whole.xml"),
    ],
)  # fmt: skip
def test_shows_and_albums_get_data_of_their_own(tree: Tree, form: str, show: str, album: str) -> None:
    paths = [
        *(f"Heap/Quay & Co/Season {one}/Quay & Co S0{one}E0{number}.mkv" for one in (1, 2) for number in (1, 2)),
        *(f"Music/Ida/Low (2001)/Disc {disc}/0{track} - Fog {track}.mp3" for disc in (1, 2) for track in (1, 2)),
        "Music/Ida/Low (2001)/folder.jpg", "Heap/Quay & Co/Season 2/Quay & Co S02E03-E04.mkv",
    ]  # fmt: skip
    here = tree(paths, WORKS.format(form=form))
    text = "<a k='{{ kind }}'><t>{{ title }}</t>{% for one in things %}<n>{{ one.stem }}</n>{% endfor %}</a>"
    (here.root / "whole.xml.j2").write_text(text)
    here.ok("scan")
    before = picture(here.root)
    here.ok("tidy", "--now")
    of_show, of_album = here.root / "Series/Quay & Co" / show, here.root / "Music/Ida/Low (2001)" / album
    if form == "json-ld":
        said = json.loads(of_show.read_text())
        assert (said["@type"], said["name"]) == ("TVSeries", "Quay & Co")
        assert [one["numberOfEpisodes"] for one in said["containsSeason"]] == [2, 4]
        said = json.loads(of_album.read_text())
        assert (said["@type"], said["byArtist"]["name"], said["datePublished"]) == ("MusicAlbum", "Ida", 2001)
        assert [one["name"] for one in said["track"]] == ["Fog 1", "Fog 2", "Fog 1", "Fog 2"]
    elif form == "whole.xml.j2":
        root = ElementTree.fromstring(of_show.read_text())
        assert (root.get("k"), root.findtext("t"), len(root.findall("n"))) == ("show", "Quay & Co", 5)
        assert ElementTree.fromstring(of_album.read_text()).get("k") == "album"
    else:
        assert "Quay &amp; Co" in of_show.read_text() and "Low" in of_album.read_text()
    here.ok("scan")
    assert here.ok("tidy", "--json").json["steps"] == [] and not here.ok("settle", "--json").lines
    assert not [one for one in here.ok("check", "--json", code=1).lines if one["rule"] in ("beside", "lone-companion")]
    here.ok("undo")
    assert picture(here.root) == before


def test_data_of_a_show_goes_where_the_show_goes(tree: Tree) -> None:
    paths = [f"Heap/Quay/Season 1/Quay S01E0{number}.mkv" for number in (1, 2)]
    here = tree(paths, WORKS.format(form="json-ld"))
    here.ok("scan")
    here.ok("companions", "--now")
    assert "Heap/Quay/Quay.jsonld" in here.files()
    here.ok("scan")
    here.ok("tidy", "--now")
    assert here.files() == {"Series/Quay/Quay.jsonld", *(f"Series/Quay/Season 01/Quay S01E0{n}.mkv" for n in (1, 2))}


def test_data_of_a_show_that_is_spelled_in_two_ways_is_written_once_each(tree: Tree) -> None:
    paths = ["Heap/Quay/Season 1/Quay S01E01.mkv", "Old/Quây/Season 1/Quây S01E02.mkv"]
    here = tree(paths, WORKS.format(form="json-ld"))
    here.ok("scan")
    answer = here.ok("companions", "--json").json
    targets = sorted(step["to"] for step in answer["steps"] if step["do"] == "write")
    assert targets == ["Heap/Quay/Quay.jsonld", "Old/Quây/Quây.jsonld"] and not answer["left"]


def test_data_of_a_film_that_is_called_otherwise_now_goes_with_it(tree: Tree) -> None:
    here = tree(["Heap/Kelp (2001).mkv"], PLAYED)
    here.ok("scan")
    here.ok("tidy", "--now")
    here.ok("settle", "Films", "--set", "title=Tern")
    told = here.ok("tidy", "--now").out
    assert here.files() == {"Films/Tern (2001)/Tern [2001].mkv", "Films/Tern (2001)/Tern [2001].jsonld"}
    assert "a data file is there already (--again writes it anew)" in told
    here.ok("companions", "--again", "--now")
    assert json.loads((here.root / "Films/Tern (2001)/Tern [2001].jsonld").read_text())["name"] == "Tern"


def test_open_forms_say_what_a_thing_is(tree: Tree) -> None:
    paths = ["Series/Quay/Season 01/Quay S01E02 - Fog.mkv", "Music/Ida/Low (2001)/01 - Undertow.mp3"]
    here = tree(paths, _data("json-ld"))
    here.ok("scan")
    here.run("companions", "--now")
    said = json.loads((here.root / "Series/Quay/Season 01/Quay S01E02 - Fog.jsonld").read_text())
    assert (said["@type"], said["name"], said["episodeNumber"]) == ("TVEpisode", "Fog", 2)
    assert said["partOfSeries"] == {"@type": "TVSeries", "name": "Quay"}
