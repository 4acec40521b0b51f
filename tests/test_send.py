"""Sending to targets: what fits, what goes, what comes off and comes back; nothing in the collection changes."""

from __future__ import annotations

import itertools
import json
import os
import random
import shutil
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lazy_magpie.change import Filesystem
from lazy_magpie.model import Item
from lazy_magpie.paths import target_path
from lazy_magpie.sending import Candidate, Names, Room, best, fit, short_name, taken_by
from tests.conftest import CONFIG, Collection, picture
from tests.lists import put_bytes, zip_bytes

Tree = Callable[..., Collection]
GAMES = tuple(f"Games/gb/Gull {letter} (Europe).gb" for letter in "ABCDE")


def _target(card: Path, more: str = "", items: str = "kind is game") -> str:
    return f'{CONFIG}[target.card]\nfolder = "{card}"\nitems = "{items}"\n{more}'


def _card(tmp_path: Path, name: str = "card") -> Path:
    card = tmp_path / name
    card.mkdir()
    return card


def _on(card: Path) -> set[str]:
    return {path for path, what in picture(card).items() if what[0] == "file"}


def _send(here: Collection, *words: str) -> None:
    here.ok("send", "card", *words, "--now")


@pytest.fixture
def games(tree: Tree, tmp_path: Path) -> tuple[Collection, Path]:
    card = _card(tmp_path)
    here = tree(GAMES, _target(card))
    here.ok("scan")
    return here, card


# --- what fits -------------------------------------------------------------------------------------------------------


def _brute(candidates: list[Candidate], space: int) -> float:
    """Return the most that fits, by looking at every choice (few things), or by all sums of sizes (many)."""
    if len(candidates) <= 12:
        sets = itertools.chain.from_iterable(
            itertools.combinations(candidates, count) for count in range(len(candidates) + 1)
        )
        return max(sum(one.value for one in some) for some in sets if sum(one.size for one in some) <= space)
    most = [0.0] * (space + 1)
    for one in candidates:
        for left in range(space, one.size - 1, -1):
            most[left] = max(most[left], most[left - one.size] + one.value)
    return most[space]


def test_what_fits_is_the_best_there_is() -> None:
    chosen = random.Random(11)
    for number in range(300):
        count = chosen.choice((3, 8, 12, 40, 200))
        alike = number % 3 == 0
        candidates = [
            Candidate(chosen.randint(0, 60), 1.0 if alike else float(chosen.randint(0, 5))) for _ in range(count)
        ]
        space = chosen.randint(0, sum(one.size for one in candidates) + 5)
        found, gap = best(candidates, Room(space))
        assert sum(candidates[at].size for at in found) <= space
        assert sum(candidates[at].value for at in found) == pytest.approx(_brute(candidates, space))
        assert gap <= 1e-3


def test_tiers_go_whole_and_the_first_that_does_not_is_the_last() -> None:
    tiers = [[(0, Candidate(3)), (1, Candidate(4))], [(2, Candidate(9)), (3, Candidate(2)), (4, Candidate(2))]]
    assert fit([*tiers, [(5, Candidate(1))]], Room(12)).chosen == {0, 1, 3, 4}
    assert fit([*tiers, [(5, Candidate(1))]], Room(21)).chosen == {0, 1, 2, 3, 4, 5}
    assert fit(tiers, Room(12), in_order=[False, True]).chosen == {0, 1, 3, 4}
    assert fit([tiers[1]], Room(12), in_order=[True]).chosen == {2, 3}


@given(
    st.lists(st.text(min_size=1, max_size=40).map(lambda text: text.replace("/", "-")), max_size=30),
    st.booleans(),
    st.integers(0, 4),
)
def test_names_on_a_target_are_unique_and_last(names: list[str], short: bool, split: int) -> None:
    wanted = {f"{number}": f"a/{name}.gb" for number, name in enumerate(names)}
    first = Names({}, short=short, split=split)
    given_ = {key: first.path(key, path) for key, path in wanted.items()}
    assert len({path.lower() for path in given_.values()}) == len(given_)
    again = Names(given_, short=short, split=split)
    assert {key: again.path(key, path) for key, path in reversed(wanted.items())} == given_
    for path in given_.values():
        *_, name = path.split("/")
        stem, _, ending = name.rpartition(".")
        assert not short or (len(stem) <= 8 and len(ending) <= 3)
        assert not split or sum(os.path.dirname(path) == os.path.dirname(other) for other in given_.values()) <= split


def test_short_names() -> None:
    assert short_name("The Salt Orchard (1987).mkv") == "THESALTO.MKV"
    assert short_name("Élan.jpeg") == "ELAN.JPE"


def test_the_space_is_never_exceeded(tree: Tree, tmp_path: Path) -> None:
    chosen = random.Random(3)
    for number in range(12):
        card = _card(tmp_path, f"card{number}")
        space = chosen.choice((24, 60, 100, 300)) << 10
        here = tree([], _target(card, f'space = "{space >> 10}K"\nunit = "{chosen.choice((512, 2048, 4096))}"\n'))
        for name in range(chosen.randint(1, 40)):
            folder = chosen.choice(("gb", "nes", "chip8", f"own {name}"))
            put_bytes(here.root / f"Games/{folder}/Gull {name} (World).gb", b"x" * chosen.randint(0, 20_000))
        put_bytes(card / "of the device/save.dat", b"s" * chosen.randint(0, 9000))
        here.ok("scan")
        for _ in range(2):
            here.run("send", "card", "--now")
            assert taken_by(str(card), 512) * 512 <= max(space, 40_000)
        shutil.rmtree(here.root)
        here.root.mkdir()


# --- what goes, and comes off ----------------------------------------------------------------------------------------


def test_the_second_time_only_what_is_new_goes_and_what_is_not_wanted_comes_off(games: tuple[Collection, Path]) -> None:
    here, card = games
    before = picture(here.root)
    _send(here)
    assert _on(card) == set(GAMES)
    assert here.ok("send", "card", "--json").json["steps"] == []
    (card / "saves").mkdir()
    (card / "saves/Gull A.sav").write_text("level 3")
    here.ok("tag", "put", "finished", GAMES[0])
    here.put("Games/gb/Gull F (Europe).gb")
    here.ok("scan")
    config = here.root / "magpie.toml"
    config.write_text(config.read_text().replace("kind is game", "kind is game not tag is finished"))
    plan = here.ok("send", "card", "--json").json
    assert sorted(step["do"] for step in plan["steps"]) == ["retract", "send"]
    here.ok("apply")
    assert _on(card) == {*GAMES[1:], "Games/gb/Gull F (Europe).gb", "saves/Gull A.sav"}
    here.ok("undo")
    assert _on(card) == {*GAMES, "saves/Gull A.sav"}
    here.ok("undo")
    here.ok("undo")
    assert _on(card) == {"saves/Gull A.sav"}
    now = picture(here.root)
    ours = before.keys() - {"magpie.toml", "Games/gb"}
    assert {path: now[path] for path in ours} == {path: before[path] for path in ours}


def test_what_was_changed_there_and_what_others_put_there_stays(games: tuple[Collection, Path]) -> None:
    here, card = games
    put_bytes(card / GAMES[1], b"of another hand")
    shutil.copyfile(here.root / GAMES[2], card / GAMES[2])
    plan = here.ok("send", "card", "--json").json
    assert len([step for step in plan["steps"] if step["do"] == "send"]) == 3
    assert any("another file is at" in one["why"] for one in plan["left"])
    here.ok("apply")
    (card / GAMES[0]).write_text("changed on the device")
    config = here.root / "magpie.toml"
    config.write_text(config.read_text().replace("kind is game", "kind is movie"))
    _send(here)
    assert _on(card) == {GAMES[0], GAMES[1]}
    assert (card / GAMES[1]).read_bytes() == b"of another hand"
    assert (card / GAMES[0]).read_text() == "changed on the device"


def test_names_that_changed_here_or_there_are_renames(games: tuple[Collection, Path]) -> None:
    here, card = games
    _send(here)
    (card / GAMES[0]).rename(card / "Games/other.gb")
    here.ok("rename", GAMES[1], "--prepend", "The ", "--now")
    plan = here.ok("send", "card", "--json").json
    assert sorted(step["do"] for step in plan["steps"]) == ["move", "move"]
    here.ok("apply")
    assert _on(card) == {*(GAMES[:1]), "Games/gb/The Gull B (Europe).gb", *GAMES[2:]}
    assert here.ok("send", "card", "--json").json["steps"] == []


def test_a_newer_file_takes_the_place_of_the_older_which_is_held(games: tuple[Collection, Path]) -> None:
    here, card = games
    _send(here)
    here.put(GAMES[0], text="a newer dump, and longer")
    here.ok("scan")
    _send(here)
    assert (card / GAMES[0]).read_text() == "a newer dump, and longer"
    assert any("Gull A" in path for path in os.listdir(card / ".magpie/held/000002/1/Games/gb"))
    here.ok("undo")
    assert (card / GAMES[0]).read_text() == GAMES[0]


def test_what_the_collection_has_no_more_stays_there(games: tuple[Collection, Path]) -> None:
    here, card = games
    _send(here)
    (here.root / GAMES[0]).unlink()
    here.ok("scan")
    plan = here.ok("send", "card", "--json").json
    assert plan["steps"] == []
    assert [one["why"] for one in plan["left"]] == ["the collection has it no more: it stays"]
    assert _on(card) == set(GAMES)


def test_items_that_are_named_are_added_and_nothing_comes_off(games: tuple[Collection, Path]) -> None:
    here, card = games
    config = here.root / "magpie.toml"
    config.write_text(config.read_text().replace('"kind is game"', '"gull a"'))
    _send(here)
    _send(here, GAMES[1])
    assert _on(card) == {GAMES[0], GAMES[1]}


def test_a_target_is_known_wherever_it_is_mounted_and_what_is_on_it_while_it_is_away(
    games: tuple[Collection, Path], tmp_path: Path
) -> None:
    here, card = games
    _send(here)
    (tmp_path / "elsewhere").mkdir()
    card.rename(tmp_path / "elsewhere/card2")
    assert "is away" in here.ok("send", "card", code=2).err
    assert {one["path"] for one in here.ok("send", "card", "--sent", "--json").lines} == set(GAMES)
    (tmp_path / "elsewhere/card2").rename(tmp_path / "card3")
    (here.root / ".magpie/catalogue.db").unlink()
    here.ok("scan")
    assert here.ok("send", "card", "--json").json["steps"] == []
    assert "what is known" not in here.ok("undo").err
    assert _on(tmp_path / "card3") == set()


def test_the_wrong_card_in_its_place_is_not_touched(games: tuple[Collection, Path], tmp_path: Path) -> None:
    here, card = games
    _send(here)
    here.put("Games/gb/Gull Z (Europe).gb")
    here.ok("scan")
    here.ok("send", "card")
    card.rename(tmp_path / "put away")
    card.mkdir()
    (card / "photo.jpg").write_text("somebody's")
    here.run("apply")
    assert _on(card) == {"photo.jpg"}  # the right one is found beside it
    assert "Games/gb/Gull Z (Europe).gb" in _on(tmp_path / "put away")


# --- forms -----------------------------------------------------------------------------------------------------------


def test_archives_are_unpacked_and_files_packed_where_that_is_wanted(tree: Tree, tmp_path: Path) -> None:
    card, other = _card(tmp_path), _card(tmp_path, "other")
    config = _target(card, 'archives = "unpack"\n') + f'[target.other]\nfolder = "{other}"\narchives = "pack"\n'
    here = tree(["Games/gb/Gull A (Europe).gb"], config)
    put_bytes(here.root / "Games/gb/Gull B (Europe).zip", zip_bytes({"Gull B (Europe).gb": b"one"}))
    put_bytes(here.root / "Games/gb/Gull C (Europe).zip", zip_bytes({"c.gb": b"three", "deep/c.txt": b"four"}))
    here.ok("scan")
    _send(here)
    here.ok("send", "other", "--now")
    assert _on(card) == {
        "Games/gb/Gull A (Europe).gb", "Games/gb/Gull B (Europe).gb", "Games/gb/Gull C (Europe)/c.gb",
        "Games/gb/Gull C (Europe)/deep/c.txt",
    }  # fmt: skip
    assert (card / "Games/gb/Gull B (Europe).gb").read_bytes() == b"one"
    assert _on(other) == {f"Games/gb/Gull {letter} (Europe).zip" for letter in "ABC"}
    for name in ("card", "other"):
        assert here.ok("send", name, "--json").json["steps"] == []
    text = (here.root / "magpie.toml").read_text().replace('items = "kind is game"', 'items = "kind is movie"')
    (here.root / "magpie.toml").write_text(text)
    _send(here)
    assert _on(card) == set()
    here.ok("undo")
    assert (card / "Games/gb/Gull B (Europe).gb").read_bytes() == b"one"


def test_folders_firmware_and_play_lists_are_as_the_player_wants_them(demo: Collection, tmp_path: Path) -> None:
    card = _card(tmp_path)
    demo.ok("start")
    player = 'folders = { chip8 = "C8", default = "R-{system}" }\nplay_lists = ["lantern"]\ndiscs = ".discs"\n'
    with (demo.root / "magpie.toml").open("a") as file:
        file.write(f'\n[player.corner]\nfirmware = "bios"\n{player}[target.card]\nfolder = "{card}"\n')
        file.write('player = "corner"\nitems = "kind is game"\n')
    demo.ok("scan")
    _send(demo)
    on = _on(card)
    assert "C8/Kite Run (World) (Unl).ch8" in on
    assert "bios/reef4boot.rom" in on
    assert {f"R-lantern/.discs/Trawler Saga (Europe) (Disc {number}).bin" for number in (1, 2, 3)} < on
    lines = (card / "R-lantern/Trawler Saga (Europe).m3u").read_text().splitlines()
    assert lines == [f".discs/Trawler Saga (Europe) (Disc {number}).cue" for number in (1, 2, 3)]
    assert all((card / "R-lantern" / line).exists() for line in lines)
    assert demo.ok("send", "card", "--json").json["steps"] == []


def test_a_machine_gets_forms_that_it_reads_and_designs_that_fit_its_hoop(demo: Collection, tmp_path: Path) -> None:
    card = _card(tmp_path)
    demo.ok("start")
    with (demo.root / "magpie.toml").open("a") as file:
        file.write(f'\n[target.card]\nfolder = "{card}"\nitems = "kind is design"\n')
        file.write('formats = ["jef", "make"]\nshort = true\nhoop = "100x100"\n')
    demo.ok("scan")
    sent = demo.ok("send", "card", "--json").json
    demo.ok("apply")
    names = {Path(path).name for path in _on(card)}
    assert names and all(name.endswith(".JEF") and len(name) <= 12 and name == name.upper() for name in names)
    designs = demo.ok("find", "Designs", "kind", "is", "design", "--json").lines
    assert len(names) + len(sent["left_out"]) == len(designs)
    assert demo.ok("send", "card", "--json").json["steps"] == []
    text = (demo.root / "magpie.toml").read_text().replace('hoop = "100x100"', 'hoop = "10x10"')
    (demo.root / "magpie.toml").write_text(text)
    plan = demo.ok("send", "card", "--json").json
    assert {one["why"].partition(" mm ")[2] for one in plan["left_out"]} == {"does not fit the hoop of 10 × 10"}
    demo.ok("apply")
    assert _on(card) == set()


def test_what_lies_on_another_drive_is_named(tree: Tree, tmp_path: Path) -> None:
    card, attic = _card(tmp_path), tmp_path / "attic"
    attic.mkdir()
    (attic / "Tern (Europe).gb").write_bytes(b"t" * 700)
    here = tree(GAMES, f'{_target(card)}[root.attic]\nfolder = "{attic}"\n')
    here.ok("scan")
    (left,) = here.ok("send", "card", "--json").json["left_out"]
    assert (left["path"], left["size"]) == ("Tern (Europe).gb", 700) and "lies on attic" in left["why"]
    here.ok("apply")
    assert _on(card) == set(GAMES)


def test_what_no_player_reads_is_converted_or_left_out(tree: Tree, tmp_path: Path) -> None:
    card = _card(tmp_path)
    copy = '["cp", "{source}", "{result}"]'
    config = (
        _target(card, 'player = "stick"\n', "kind is track")
        + '[player.stick]\nreads = ["mp3"]\nbeside = ["none"]\n'
        + f'[convert.songs]\ntakes = ["flac"]\nmakes = "mp3"\ncommand = {copy}\n'
    )
    here = tree(["Music/Ida/Low/01 - Ebb.flac", "Music/Ida/Low/02 - Fog.mp3", "Music/Ida/Low/03 - Tow.wav"], config)
    here.put("Music/Ida/Low/cover.jpg")
    here.ok("scan")
    left = here.ok("send", "card", "--json").json["left_out"]
    assert [(one["name"], one["why"]) for one in left] == [("Ida - Tow", "stick does not read it: its ending is wav")]
    here.ok("apply")
    assert _on(card) == {"Music/Ida/Low/01 - Ebb.mp3", "Music/Ida/Low/02 - Fog.mp3"}
    assert here.ok("send", "card", "--json").json["steps"] == []


def test_order_says_what_goes_first_and_by_what_counts(tree: Tree, tmp_path: Path) -> None:
    card = _card(tmp_path)
    more = 'space = "40K"\nunit = "1K"\norder = ["title is \\"Gull E\\"", "newest"]\n'
    here = tree([], _target(card, more))
    for number, path in enumerate(GAMES):
        put_bytes(here.root / path, b"x" * 10_000)
        os.utime(here.root / path, (1_000_000 + number, 1_000_000 + number))
    here.ok("scan")
    left = here.ok("send", "card", "--json").json["left_out"]
    assert [Path(one["path"]).name[5] for one in left] == ["C", "B", "A"]
    assert len(here.ok("send", "card", "--what-if", "128K", "--json").json["left_out"]) == 0
    with (here.root / "magpie.toml").open("a") as file:
        file.write('by = "rating"\n[field.rating]\ntype = "number"\n')
    text = (here.root / "magpie.toml").read_text().replace("order = ", "#")
    (here.root / "magpie.toml").write_text(text)
    here.ok("scan")
    for letter, rating in (("A", 5), ("B", 4), ("C", 3), ("D", 1)):
        here.ok("settle", f"Games/gb/Gull {letter} (Europe).gb", "--set", f"rating={rating}")
    left = here.ok("send", "card", "--json").json["left_out"]
    assert sorted(Path(one["path"]).name[5] for one in left) == ["C", "D", "E"]


# --- back, and setting up --------------------------------------------------------------------------------------------


def test_what_the_device_wrote_comes_into_the_inbox_once(games: tuple[Collection, Path]) -> None:
    here, card = games
    _send(here)
    put_bytes(card / "saves/Gull A.sav", b"level 3")
    plan = here.ok("send", "card", "--back", "--json").json
    (step,) = [step for step in plan["steps"] if step["do"] == "copy"]
    assert step["to"].startswith("Inbox/card ") and step["to"].endswith("/saves/Gull A.sav")
    here.ok("apply")
    here.ok("scan")
    assert (here.root / step["to"]).read_bytes() == b"level 3"
    assert (card / "saves/Gull A.sav").exists()
    assert here.ok("send", "card", "--back", "--json").json["steps"] == []
    here.ok("undo")
    assert not (here.root / step["to"]).exists()


def test_a_target_is_set_up_by_a_command(tree: Tree, tmp_path: Path) -> None:
    card = _card(tmp_path)
    here = tree(GAMES)
    here.ok("scan")
    here.ok("send", "--new", "stick", str(card), "kind", "is", "game")
    assert "[target.stick]" in (here.root / "magpie.toml").read_text()
    here.ok("send", "stick", "--now")
    assert _on(card) == set(GAMES)
    assert json.loads(here.ok("send", "--json").out)["there"]
    assert "already" in here.ok("send", "--new", "stick", str(card), code=2).err
    assert "no folder" in here.ok("send", "--new", "b", str(tmp_path / "none"), code=2).err
    assert "There is no target" in here.ok("send", "stik", code=2).err
    assert "is no size" in here.ok("send", "stick", "--what-if", "big", code=2).err


@pytest.mark.parametrize(
    ("section", "said"),
    [
        ("[target.a]\nplayer = \"x\"\n", "has no “folder”"),
        ('[target.a]\nfolder = "/x"\nplayer = "none"\n', "there is no player"),
        ('[target.a]\nfolder = "/x"\narchives = "zip"\n', "“archives” is"),
        ('[target.a]\nfolder = "/x"\nhoop = "round"\n', "“hoop” is like"),
        ('[target.a]\nfolder = "/x"\nspace = "much"\n', "is a size like"),
        ("[target.a]\nfolder = \"/x\"\nitems = 'tag is \"x'\n", "a quotation mark is missing"),
    ],
)  # fmt: skip
def test_a_wrong_section_is_named_with_its_line(tree: Tree, section: str, said: str) -> None:
    answer = tree([], CONFIG + section).ok("send", code=2)
    assert said in answer.err
    assert ", line " in answer.err


def test_a_target_that_is_pulled_while_it_is_sent_to_is_not_made_anew(
    games: tuple[Collection, Path], tmp_path: Path
) -> None:
    here, card = games
    here.ok("send", "card")
    away = tmp_path / "other place" / "card"
    away.parent.mkdir()
    disk = Filesystem(str(here.root), {"card": str(card)})
    card.rename(away)
    with pytest.raises(FileNotFoundError):
        disk.make_folder(target_path("card"))
    outcome = here.run("apply", "--json")
    assert outcome.code != 0
    assert not card.exists()
    away.rename(card)
    here.ok("send", "card", "--now")
    assert _on(card) == set(GAMES)


def test_tiers_are_made_in_proportion(tree: Tree, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "card").mkdir()
    section = (
        f'[target.card]\nfolder = "{tmp_path / "card"}"\nitems = "kind is game"\norder = ["title known", "newest"]\n'
    )
    here = tree([f"Games/gb/Gull {number} (World).gb" for number in range(20)], CONFIG + section)
    here.ok("scan")

    def compared(one: Item, other: object) -> bool:
        raise AssertionError("things are told apart by their ids: comparing each with each is no work in proportion")

    monkeypatch.setattr(Item, "__eq__", compared)
    assert here.ok("send", "card", "--what-if", "1M", "--json").json["fit"]["things"] == 20
