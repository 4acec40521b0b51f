"""Names and places by hand: rename, move, the attic, hold, new; what they give is kept."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import pytest
from benchmarks.trees import TREES, read_trees
from hypothesis import given, settings
from hypothesis import strategies as st

from lazy_magpie.cli.commands.rename import _OPTIONS
from lazy_magpie.cli.parser import _TAKING_TEXT
from tests.conftest import CONFIG, KITS, SHELVES, Collection, picture, program

Tree = Callable[..., Collection]
PICTURES = '[shelf.pictures]\nkind = "picture"\nfolder = "Pictures"\n'


def _renamed(collection: Collection, *words: str, code: int = 0) -> dict[str, str]:
    """Return what a rename plans: the new path by the old one."""
    steps = collection.ok("rename", *words, "--json", code=code).json["steps"]
    return {step["from"]: step["to"] for step in steps if step["do"] == "move" and ".aside-" not in step["to"]}


@pytest.fixture
def club(tree: Tree) -> Collection:
    """Three pictures, and a film with what is its own."""
    film = "Films/Kelp (2001)/Kelp (2001)"
    beside = [f"{film}.mkv", f"{film}.en.srt", f"{film}.nfo", "Films/Kelp (2001)/poster.jpg"]
    collection = tree(["Club/Harbour Wall.JPG", "Club/kite table.jpg", "Club/tea.jpg", *beside], SHELVES)
    collection.ok("scan")
    return collection


@pytest.mark.parametrize(
    ("words", "new"),
    [
        (["--append", "-cover"], "Harbour Wall-cover.JPG"),
        (["--prepend", "--old "], "--old Harbour Wall.JPG"),
        (["--swap", "Wall", "Gate"], "Harbour Gate.JPG"),
        (["--swap", "a", ""], "Hrbour Wll.JPG"),
        (["--swap-pattern", r"(\w+) (\w+)", r"\2, \1"], "Wall, Harbour.JPG"),
        (["--ending", "jpeg"], "Harbour Wall.jpeg"),
        (["--ending", ".jpg"], "Harbour Wall.jpg"),
        (["--case", "lower"], "harbour wall.jpg"),
        (["--case", "upper"], "HARBOUR WALL.JPG"),
        (["--case", "sentence"], "Harbour wall.JPG"),
        (["--number", "7"], "7 Harbour Wall.JPG"),
        (["--number", "7:3", "--to", "{number} {name}"], "007 Harbour Wall.JPG"),
        (["--to", "{folder} - {name}"], "Club - Harbour Wall.JPG"),
        (["--to", "{name}.{ending}.old"], "Harbour Wall.JPG.old"),
        (["--to", "{kind} {size}<- {resolution}>"], "picture 21.JPG"),
        (["--append", " x", "--case", "upper"], "HARBOUR WALL X.JPG"),
        (["--case", "upper", "--append", " x"], "HARBOUR WALL x.JPG"),
    ],
)
def test_what_each_operation_does(club: Collection, words: list[str], new: str) -> None:
    assert _renamed(club, "Club/Harbour Wall.JPG", *words) == {"Club/Harbour Wall.JPG": f"Club/{new}"}


def test_what_is_a_films_own_follows_it(club: Collection) -> None:
    assert _renamed(club, "Films", "--append", " seen") == {
        "Films/Kelp (2001)/Kelp (2001).mkv": "Films/Kelp (2001)/Kelp (2001) seen.mkv",
        "Films/Kelp (2001)/Kelp (2001).en.srt": "Films/Kelp (2001)/Kelp (2001) seen.en.srt",
        "Films/Kelp (2001)/Kelp (2001).nfo": "Films/Kelp (2001)/Kelp (2001) seen.nfo",
    }


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["--append", "?"], "Harbour Wall?.JPG"),
        (["--swap", "Harbour Wall", ""], "would be empty"),
        (["--to", "<{edition}>"], "would be empty"),
        (["--append", "x" * 250], "longer than 255 bytes"),
        (["--prepend", "../"], "no name"),
        (["--to", "con"], "a name that not every disk takes"),
        (["--to", "nul", "--ending", "txt"], "a name that not every disk takes"),
        (["--append", " ", "--ending", ""], "a name that not every disk takes"),
        (["--swap-pattern", "(", "x"], "no regular expression"),
        (["--swap-pattern", "a", r"\9"], "--swap-pattern"),
        (["--swap", "", "x"], "--prepend and --append"),
        (["--case", "camel"], "--case is lower"),
        (["--number", "x"], "START:WIDTH"),
        (["--to", "{titel}"], "no field “titel”"),
        (["--free", "--append", "x"], "--free goes alone"),
        ([], "Say what changes"),
    ],
)
def test_a_pattern_that_cant_work_is_refused(club: Collection, words: list[str], said: str) -> None:
    before = picture(club.root)
    answer = club.ok("rename", "Club/Harbour Wall.JPG", *words, code=2)
    assert said in answer.err and picture(club.root) == before
    assert club.ok("plans", "--json").lines == []


def test_every_text_of_rename_is_taken_as_it_stands() -> None:
    taking = {option: count for option, count, names, _ in _OPTIONS if names[0] not in ("CASE", "START[:WIDTH]")}
    assert taking == _TAKING_TEXT


def test_numbers_count_in_the_order_that_find_shows(tree: Tree) -> None:
    collection = tree(["Films/b (2001).mkv", "Films/a.nfo", "Films/c (1999).mkv", "Thumbs.db"], SHELVES)
    collection.ok("scan")
    for words in ([], ["--reverse"], ["--sort", "year"], ["--sort", "year", "--reverse"]):
        shown = collection.ok("find", *words, "--csv", "--columns", "path").out.splitlines()[1:]
        plan = _renamed(collection, "state", "known", *words, "--to", "n{number}")
        numbers = {old: Path(new).stem for old, new in plan.items() if old in shown}
        assert [numbers[path] for path in shown if path in numbers] == sorted(numbers.values())
    assert "to sort by" in collection.ok("rename", "Films", "--append", "x", "--sort", "nonsense", code=2).err


def test_two_that_would_have_one_name_are_a_conflict(club: Collection) -> None:
    answer = club.ok("rename", "Club", "--to", "same", "--json", code=1).json
    (conflict,) = answer["conflicts"]
    assert conflict["to"].lower() == "club/same.jpg" and len(conflict["items"]) == 3


@pytest.mark.parametrize("words", [["rename", "Heap", "--to", "same"], ["move", "Heap/a", "Heap/b", "Seen"]])
def test_what_belongs_to_a_thing_in_a_conflict_stays_with_it(tree: Tree, words: list[str]) -> None:
    collection = tree(["Heap/a/Kelp (2001).mkv", "Heap/a/Kelp (2001).en.srt", "Heap/b/Kelp (2001).mkv"], SHELVES)
    collection.put("Heap/a/same.mkv", "Heap/b/same.mkv", "Seen/a/there", "Seen/b/there")
    collection.ok("scan")
    plan = collection.run(*words, "--json").json
    assert plan["conflicts"] and plan["steps"] == []


def test_many_folders_are_planned_in_proportion(tree: Tree) -> None:
    collection = tree([f"Kits/Needle Jetty/Kit {number}/a.png" for number in range(3000)], KITS)
    collection.ok("scan")
    home = [f"Kits/Needle Jetty/Kit {number}" for number in range(3000)]
    start = time.process_time()
    assert len(_renamed(collection, "--folders", *home[:300], "--ending", "done")) == 300
    few = time.process_time() - start
    start = time.process_time()
    assert len(_renamed(collection, "--folders", *home, "--ending", "done")) == 3000
    assert time.process_time() - start < 25 * few + 1


def test_names_change_places_and_case(club: Collection) -> None:
    club.put("Club/a.txt", text="one")
    club.put("Club/b.txt", text="two")
    club.ok("scan")
    club.ok("rename", "Club/a.txt", "Club/b.txt", "--swap-pattern", "^(a)$|^(b)$", r"x\1\2", "--now")
    club.ok("rename", "Club/xa.txt", "Club/xb.txt", "--to", "{number}", "--number", "1", "--now")
    swapped = club.ok("rename", "Club/2.txt", "Club/1.txt", "--to", "{number}", "--number", "1", "--now")
    assert swapped.code == 0
    assert (club.root / "Club/1.txt").read_text() == "two" and (club.root / "Club/2.txt").read_text() == "one"
    club.ok("rename", "Club/Harbour Wall.JPG", "--case", "lower", "--now")
    assert "Club/harbour wall.jpg" in club.files()


def test_a_folder_gets_an_ending_and_another_one(tree: Tree) -> None:
    collection = tree([f"Kits/Needle Jetty/{kit}/a.png" for kit in ("Tern", "Mr.Fox", "Vol.2")], KITS)
    collection.ok("scan")
    kits = [f"Kits/Needle Jetty/{kit}" for kit in ("Tern", "Mr.Fox", "Vol.2")]
    collection.ok("rename", "--folders", *kits, "--ending", "done", "--now")
    names = {path.name for path in (collection.root / "Kits/Needle Jetty").iterdir()}
    assert names == {"Tern.done", "Mr.Fox.done", "Vol.2.done"}
    found = [f"{kit}.done" for kit in kits]
    collection.ok("rename", "--folders", *found, "--ending", "seen", "--now")
    assert (collection.root / "Kits/Needle Jetty/Mr.Fox.seen/a.png").exists()
    assert collection.ok("tidy", "--json").json["steps"] == []


def test_texts_that_name_a_file_follow_it(tree: Tree) -> None:
    collection = tree([], CONFIG)
    home = "Games/discs"
    collection.put(f"{home}/Gull.bin", text="data")
    texts = {
        "Gull.cue": 'FILE "Gull.bin" BINARY\n  TRACK 01 MODE1/2352\n    INDEX 01 00:00:00\n',
        "list.m3u": "# games\nGull.cue\n",
        "sums.md5": "8d777f385d3dfec8815d20f7496026dc *Gull.bin\n",
        "SHA256SUMS": "SHA256 (Gull.bin) = 3a6eb0790f39ac87c94f3856b2dd2c5d110e6811602261a9a923d3bb23adc8b7\n",
        "old.sfv": "; made by hand\nGull.bin ADF3F363\n",
    }
    for name, text in texts.items():
        collection.put(f"{home}/{name}", text=text)
    collection.ok("scan")
    before = picture(collection.root)
    collection.ok("rename", f"{home}/Gull.bin", f"{home}/Gull.cue", "--append", " (Europe)", "--now")
    for name, text in texts.items():
        now = "Gull (Europe).cue" if name == "Gull.cue" else name
        assert (collection.root / home / now).read_text() == text.replace("Gull.", "Gull (Europe).")
    collection.ok("undo")
    assert picture(collection.root) == before


def test_a_name_given_by_hand_is_kept_until_it_is_freed(club: Collection) -> None:
    film = "Films/Kelp (2001)/Kelp (2001).mkv"
    club.ok("rename", film, "--to", "my kelp", "--now")
    kept = "Films/Kelp (2001)/my kelp.mkv"
    for again in (["scan", "--full"], ["scan"]):
        club.ok(*again)
        plan = club.ok("tidy", "--json").json
        assert plan["steps"] == [] and any("as you named" in what for what in plan["passed"])
    for file in (club.root / ".magpie").glob("catalogue*"):
        file.unlink()
    club.ok("scan")
    assert club.ok("tidy", "--json").json["steps"] == []
    club.ok("rename", "--free", kept)
    club.ok("scan")
    club.ok("undo")  # the freeing: it is kept again
    assert club.ok("tidy", "--json").json["steps"] == []
    club.ok("redo")
    assert kept in club.files()


def test_what_is_kept_goes_along_with_its_folder_and_comes_back(tree: Tree) -> None:
    collection = tree(["Films/Old/Kelp 2001.mkv", "Films/Old/Tern (1999).mkv"], SHELVES)
    collection.ok("scan")
    collection.ok("rename", "Films/Old/Kelp 2001.mkv", "--to", "The kelp one", "--now")
    collection.ok("move", "Films/Old/The kelp one.mkv", "Films/Best", "--now")
    assert "Films/Best/The kelp one.mkv" in collection.files()
    collection.put("Films/Old/The kelp one.mkv")  # another file of that name is no one's choice
    collection.ok("scan")
    steps = collection.run("tidy", "--json").json["steps"]
    assert "Films/Best/The kelp one.mkv" not in {step["from"] for step in steps}


def test_a_corrected_plan_is_kept(tree: Tree) -> None:
    collection = tree(["Heap/Kelp (2001).mkv"], SHELVES)
    collection.ok("scan")
    file = collection.root / "plan.csv"
    collection.ok("tidy", "--save", str(file))
    file.write_text(file.read_text("utf-8-sig").replace("Films/Kelp (2001)/Kelp (2001).mkv", "Films/My kelp.mkv"))
    collection.ok("apply", str(file))
    collection.ok("scan")
    assert collection.ok("tidy", "--json").json["steps"] == []


@pytest.mark.parametrize(
    ("third", "whole"),
    [("c.jpg", {"a.jpg", "in/b.jpg", "c.jpg"}), ("in/c.jpg", {"a.jpg", "in/b.jpg", "in/c.jpg"}),
     ("in/deep/c.jpg", {"a.jpg", "in/b.jpg", "in/deep/c.jpg"}),
     ("In/B.jpg", None), ("in", None), ("A.JPG/x.png", None)],
)  # fmt: skip
def test_folders_given_one_name_in_a_plan_become_one(tree: Tree, third: str, whole: set[str] | None) -> None:
    collection = tree(["Heap/one/a.jpg", "Heap/one/in/b.jpg", f"Heap/two/{third}"], SHELVES)
    collection.ok("scan")
    before = picture(collection.root)
    file = collection.root.parent / "plan.csv"
    collection.ok("rename", "Heap/one", "Heap/two", "--folders", "--append", " x", "--save", str(file))
    file.write_text(file.read_text("utf-8-sig").replace("Heap/one x", "Heap/all").replace("Heap/two x", "Heap/all"))
    if whole is None:
        assert "row 3: “Heap/all” is wanted by row 2 too" in collection.ok("apply", str(file), code=2).err
        assert picture(collection.root) == before
        return
    collection.ok("apply", str(file))
    assert {path for path in picture(collection.root) if path.startswith("Heap/")} == {
        f"Heap/all/{path}" for name in whole for path in (name, *map(str, Path(name).parents)) if path != "."
    } | {"Heap/all"}
    collection.ok("undo")
    assert picture(collection.root) == before


def test_things_are_moved_whole(tree: Tree) -> None:
    kit = ["Kits/Needle Jetty/Tern/a.png", "Kits/Needle Jetty/Tern/papers/b.png", "Kits/Needle Jetty/Tern/list.txt"]
    collection = tree([*kit, "Kits/Needle Jetty/Gull/c.png"], KITS)
    collection.ok("scan")
    collection.ok("move", "title", "is", "Tern", "Finished", "--now")
    assert collection.files() == {
        "Finished/Tern/a.png", "Finished/Tern/papers/b.png", "Finished/Tern/list.txt", "Kits/Needle Jetty/Gull/c.png",
    }  # fmt: skip
    collection.ok("scan")
    assert collection.ok("tidy", "--json").json["steps"] == []


def test_the_attic_knows_where_things_came_from(club: Collection) -> None:
    before = picture(club.root)
    club.ok("move", "--attic", "Films/Kelp (2001)", "Club/tea.jpg", "--now")
    assert "Attic/Films/Kelp (2001)/Kelp (2001).mkv" in club.files() and "Attic/Club/tea.jpg" in club.files()
    for file in (club.root / ".magpie").glob("catalogue*"):
        file.unlink()
    club.ok("scan")
    assert club.ok("tidy", "--json").json["steps"] == []
    club.put("Club/new.jpg")
    club.ok("scan")
    club.ok("move", "--back", "Attic", "--now")
    (club.root / "Club/new.jpg").unlink()
    after = picture(club.root)
    assert {path: what[:2] for path, what in after.items()} == {path: what[:2] for path, what in before.items()}


def test_the_inbox_keeps_a_thing_until_it_is_settled(club: Collection) -> None:
    club.ok("move", "--inbox", "Films/Kelp (2001)/Kelp (2001).mkv", "--now")
    inside = "Inbox/Films/Kelp (2001)/Kelp (2001).mkv"
    assert inside in club.files()
    club.ok("scan")
    assert inside not in {step["from"] for step in club.run("tidy", "--json").json["steps"]}
    club.ok("settle", inside, "--set", "title=Kelp Harvest")
    assert inside in {step["from"] for step in club.run("tidy", "--json").json["steps"]}


def test_what_cant_be_moved_is_refused(club: Collection) -> None:
    before = picture(club.root)
    for words, said in (
        (["Club/tea.jpg"], "Name what to move"),
        (["Club", "Club/inner"], "can't go into itself"),
        (["Films", "Elsewhere"], "has the shelf"),
        (["Club/tea.jpg", "Club/kite table.jpg"], "is a file"),
        (["Club/tea.jpg", "/tmp"], "not in the collection"),
        (["Club/tea.jpg", ".magpie"], "magpie's own"),
        (["Club/tea.jpg", "a?b"], "not every disk"),
    ):
        assert said in club.ok("move", *words, "--now", code=2).err
    assert picture(club.root) == before


def test_anything_can_be_held_and_comes_back(club: Collection) -> None:
    before = picture(club.root)
    club.ok("hold", "Films/Kelp (2001)", "Club/tea.jpg", "--why", "seen too often", "--now")
    assert club.files() == {"Club/Harbour Wall.JPG", "Club/kite table.jpg"}
    assert not (club.root / "Films/Kelp (2001)").exists()
    assert "seen too often" in club.ok("held").out
    club.ok("undo")
    assert picture(club.root) == before


def test_a_new_folder_has_date_number_and_folders(tree: Tree) -> None:
    new = '[new.work]\npath = "{number:03} {title}< - {client}>"\nfolders = ["Ideas", "Done/Photos"]\nin = "Projects"\n'
    collection = tree([], new + '[field.client]\ntype = "text"\n')
    (collection.root / "Projects/007 Reel").mkdir(parents=True)
    (collection.root / "Projects/12 not one").mkdir()
    collection.ok("new", "Kite", "for", "the", "fair", "--set", "client=Club", "--now")
    made = collection.root / "Projects/013 Kite for the fair - Club"
    assert made.is_dir() and (made / "Done/Photos").is_dir()
    answer = program("-C", str(collection.root), "new", "--open", "Tea: towel?")
    assert answer.out == f"{collection.root}/Projects/014 Tea - towel\n" and Path(answer.out.strip()).is_dir()
    collection.ok("undo")
    assert not Path(answer.out.strip()).exists()
    assert "There is no [new.wrok]" in collection.ok("new", "x", "--as", "wrok", code=2).err


def test_a_new_folder_that_is_there_is_opened_again(tree: Tree) -> None:
    collection = tree([], "")
    first, second = (collection.ok("new", "--open", "Kite").out for _ in range(2))
    assert first == second and len(list(collection.root.glob("* Kite"))) == 1


def test_pictures_and_papers_are_filed_by_day(tree: Tree) -> None:
    papers = '[shelf.papers]\nkind = "document"\nfolder = "Papers"\n'
    names = ["IMG_20190321_140500.jpg", "2019-03-21.jpg", "harbour.jpg"]
    collection = tree([f"Phone/{name}" for name in names] + ["Desk/Minutes 21.03.2019.txt"], PICTURES + papers)
    collection.ok("scan")
    collection.ok("tidy", "--now")
    assert collection.files() == {
        "Pictures/2019/2019-03-21 IMG 140500.jpg",
        "Pictures/2019/2019-03-21.jpg",
        "Phone/harbour.jpg",
        "Papers/2019/2019-03-21 Minutes.txt",
    }
    collection.ok("scan")
    plan = collection.run("tidy", "--json").json
    assert plan["steps"] == [] and "needs date" in plan["left"][0]["why"]


def test_measured_facts_stand_in_templates(demo: Collection) -> None:
    demo.ok("start")
    demo.run("scan")
    tracks = demo.ok("find", "kind", "is", "track", "track", "known", "--json").lines
    plan = _renamed(demo, "kind", "is", "track", "track", "known", "--to", "{track:02} {title} {bitrate}")
    assert len(plan) == len(tracks) and all(to.rsplit(".", 1)[0].endswith("k") for to in plan.values())


def test_two_versions_of_a_film_stay_side_by_side(tree: Tree) -> None:
    collection = tree(["Heap/Kelp.2001.1080p.BluRay.mkv", "Heap/Kelp (2001) 720p.mkv"], SHELVES)
    collection.ok("scan")
    refused = collection.ok("tidy", code=1)
    assert "--keep-both" in refused.err
    collection.ok("tidy", "--keep-both", "--now")
    home = "Films/Kelp (2001)/Kelp (2001)"
    assert collection.files() == {f"{home} - 1080p.mkv", f"{home} - 720p.mkv"}
    collection.ok("scan")
    assert collection.ok("tidy", "--json").json["steps"] == []
    found = collection.ok("find", "kind", "is", "film", "--json").lines
    assert {(one["fields"]["title"], one["state"]) for one in found} == {("Kelp", "clear")}


# --- laws ------------------------------------------------------------------------------------------------------------

STEM = st.text(st.sampled_from("abc xyz.-_é🪁"), min_size=1, max_size=12).map(lambda text: f"k{text.strip('. ')}k")
STEMS = st.sets(STEM, min_size=1, max_size=8)


def _heap(folder: str, stems: set[str]) -> Collection:
    collection = Collection(Path(folder))
    (collection.root / "magpie.toml").write_text("")
    collection.put(*(f"Heap/{stem}.txt" for stem in stems))
    collection.ok("scan")
    return collection


@settings(max_examples=25)
@given(STEMS, st.text(st.sampled_from("abc"), min_size=1, max_size=2))
def test_a_swap_there_and_back_is_nothing(stems: set[str], old: str) -> None:
    with tempfile.TemporaryDirectory() as folder:
        collection = _heap(folder, stems)
        before = {path: what[:2] for path, what in picture(collection.root).items()}
        collection.run("rename", "Heap", "--swap", old, "QQQ", "--now")
        collection.run("rename", "Heap", "--swap", "QQQ", old, "--now")
        assert {path: what[:2] for path, what in picture(collection.root).items()} == before


@settings(max_examples=25)
@given(STEMS, st.integers(0, 200), st.sampled_from(["", ":1", ":4"]))
def test_numbering_gives_each_its_own_name_and_undo_takes_it_back(stems: set[str], start: int, width: str) -> None:
    with tempfile.TemporaryDirectory() as folder:
        collection = _heap(folder, stems)
        before = picture(collection.root)
        collection.ok("rename", "Heap", "--to", "{number}", "--number", f"{start}{width}", "--now")
        texts = {(collection.root / path).read_text() for path in collection.files()}
        numbers = sorted(int(Path(path).stem) for path in collection.files())
        assert numbers == list(range(start, start + len(stems))) and len(texts) == len(stems)
        collection.ok("undo")
        assert picture(collection.root) == before


def test_a_text_follows_only_what_has_gone(tree: Tree) -> None:
    collection = tree(["Games/a.bin", "Games/b.bin"], "")
    collection.put("Games/all.m3u", text="a.bin\nb.bin\n")
    collection.ok("scan")
    collection.ok("rename", "Games/a.bin", "Games/b.bin", "--append", " new")
    (collection.root / "Games/b.bin").write_text("changed since the plan")
    collection.ok("apply", code=1)
    assert (collection.root / "Games/all.m3u").read_text() == "a new.bin\nb.bin\n"
    collection.ok("undo")
    assert (collection.root / "Games/all.m3u").read_text() == "a.bin\nb.bin\n"
    collection.ok("scan")
    collection.ok("rename", "Games/a.bin", "--append", " new")
    (collection.root / "Games/a.bin").write_text("changed, too")
    collection.ok("apply", code=1)
    assert (collection.root / "Games/all.m3u").read_text() == "a.bin\nb.bin\n"


def test_a_thing_stays_what_it_is_where_its_new_name_no_longer_says_it(tree: Tree) -> None:
    collection = tree(["Heap/Kelp (2001).mkv", "Heap/Tern (1999).mkv"], SHELVES)
    collection.ok("scan")
    collection.ok("rename", "Heap/Kelp (2001).mkv", "--to", "my favourite", "--now")
    collection.ok("rename", "Heap/Tern (1999).mkv", "--swap", "1999", "1989", "--now")  # which puts it right
    for again in (["scan"], ["scan", "--full"]):
        collection.ok(*again)
        found = {one["path"]: one for one in collection.ok("find", "--json").lines}
        assert found["Heap/my favourite.mkv"]["fields"] == {"title": "Kelp", "year": 2001}
        assert found["Heap/Tern (1989).mkv"]["fields"]["year"] == 1989
        assert {one["state"] for one in found.values()} == {"settled", "clear"}
    collection.ok("undo")
    collection.ok("undo")
    states = {(one["path"], one["state"]) for one in collection.ok("find", "--json").lines}
    assert states == {("Heap/Kelp (2001).mkv", "clear"), ("Heap/Tern (1999).mkv", "clear")}


def _clear(collection: Collection) -> dict[str, tuple[str, dict[str, object]]]:
    """Return what films, episodes and songs are that nothing is in doubt of, by their ids."""
    lines = collection.ok("find", "--json").lines
    kinds, sure = ("movie", "episode", "track"), ("clear", "settled")
    found = (one for one in lines if one["kind"] in kinds and one["state"] in sure)
    return {one["id"]: (one["kind"], one["fields"]) for one in found}


@pytest.mark.parametrize("file", TREES[::3], ids=lambda path: path.stem)
def test_a_collectors_things_stay_what_they_are_under_numbers_alone(tmp_path: Path, file: Path) -> None:
    """Trees that others wrote, all clear things of which get a number for a name: none becomes another one."""
    for name, rows in list(read_trees([file]).items())[:3]:
        collection = Collection(tmp_path / name)
        collection.put("magpie.toml", text='[collection]\nunplayable = "file"\n')
        collection.put(*(str(row["path"]) for row in rows))
        collection.run("scan")
        known, before = _clear(collection), picture(collection.root)
        collection.run("rename", "state", "is", "clear", "--to", "{number}", "--now")
        collection.run("scan")
        now = _clear(collection)
        assert {id: now[id] for id in known if id in now and now[id] != known[id]} == {}
        assert len(known.keys() & now.keys()) >= 0.97 * len(known)
        collection.ok("undo")
        assert picture(collection.root) == before
