"""Laws of reference lists: whatever the mess, all that is anywhere gets its place, and undo brings all back."""

from __future__ import annotations

import tempfile
from collections import Counter
from pathlib import Path
from typing import Any, NamedTuple

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import CONFIG, Collection, picture
from tests.lists import Set, contents_below, csv_list, put_bytes, xml_list, zip_bytes

WORDS = "Gull Kelp Fog Tern Buoy Wrack".split()
HEADER = b"NES\x1a" + bytes(12)


class Mess(NamedTuple):
    """What became of a file of a set: which one it was, how it lies, in which folder, under which name."""

    at: int
    how: str
    folder: str
    name: str


CONTENT = st.binary(min_size=1, max_size=6).map(lambda data: data * 40)
FILES = st.dictionaries(st.sampled_from(["a.nes", "b.bin", "sub/c.bin", "empty.txt"]), CONTENT, min_size=1, max_size=3)
FOLDERS = ("Games/Pocket", "Games/Other", "Inbox", "Downloads/deep", "Backup old", "Games/Pocket/sub")
HOWS = ("right", "renamed", "zip", "zips", "damaged", "header", "lost")


@st.composite
def sets(draw: st.DrawFn) -> list[Set]:
    """Return sets of one list, some of them clones that share files with their parent."""
    names = draw(st.lists(st.sampled_from(WORDS), min_size=1, max_size=4, unique=True))
    found: list[Set] = []
    for name in names:
        files = dict(draw(FILES))
        if "empty.txt" in files:
            files["empty.txt"] = b""
        parent, is_clone = "", draw(st.booleans())
        if found and is_clone:
            above = draw(st.sampled_from(found))
            parent = above.parent or above.name
            key = draw(st.sampled_from(sorted(above.files)))
            files[key] = above.files[key]
        found.append(Set(f"{name} (World)", files, parent))
    return found


MESS = st.lists(
    st.builds(
        Mess,
        st.integers(0, 11),
        st.sampled_from(HOWS),
        st.sampled_from(FOLDERS),
        st.sampled_from(["x1.nes", "x2.bin", "Gull (World).nes", "a.nes", "b.bin", "Kelp (World).zip", "note.bin"]),
    ),
    max_size=8,
)
FORM = st.tuples(st.sampled_from(["zip", "loose", "as is"]), st.sampled_from(["whole", "split", "merged"]))


def made(root: Path, listed: list[Set], mess: list[Mess], pack: str) -> set[bytes]:
    """Make the mess, and return the contents of listed files that are anywhere, whole."""
    pieces = [(one, name, data) for one in listed for name, data in one.files.items()]
    there: set[bytes] = set()
    for piece in mess:
        one, name, data = pieces[piece.at % len(pieces)]
        path = root / piece.folder / piece.name
        loose = root / "Games/Pocket" / (f"{one.name}/{name}" if len(one.files) > 1 else name)
        match piece.how:
            case "right" if pack == "loose":
                path = loose
            case "right" | "zips":
                path = root / ("Games/Pocket" if piece.how == "right" else piece.folder) / f"{one.name}.zip"
                data_of = dict(one.files)
                if not path.exists():
                    put_bytes(path, zip_bytes(data_of))
                    there |= {value for value in data_of.values() if value}
                continue
            case "zip":
                path = path.with_suffix(".zip")
                data = zip_bytes({"odd.bin": data, "more.bin": b"unlisted" * 9})
            case "damaged":
                data = b"!" + data[1:]
            case "header":
                path, data = path.with_suffix(".nes"), HEADER + data
            case "lost":
                continue
        if path.exists() or not data or any(parent.is_file() for parent in path.parents):
            continue
        put_bytes(path, data)
        if piece.how != "damaged":
            there.add(pieces[piece.at % len(pieces)][2])
    return there - {b""}


def collection(root: Path, listed: list[Set], form: tuple[str, str], *, is_csv: bool = False) -> Collection:
    """Make a collection with one list."""
    text = csv_list("Pocket", listed) if is_csv else xml_list("Pocket", listed)
    ending = "csv" if is_csv else "xml"
    put_bytes(root / f"Lists/pocket.{ending}", text.encode())
    more = f'[list.pocket]\nfile = "Lists/pocket.{ending}"\nfolder = "Games/{{list}}"\n'
    (root / "magpie.toml").write_text(f'{CONFIG}{more}pack = "{form[0]}"\nclones = "{form[1]}"\n')
    return Collection(root)


@settings(max_examples=40)
@given(sets(), MESS, FORM, st.booleans())
def test_a_mess_is_put_right(listed: list[Set], mess: list[Mess], form: tuple[str, str], is_csv: bool) -> None:
    """All that is anywhere is found where the list says; nothing more is to be done; nothing is lost; undo is exact."""
    if is_csv:
        listed = [one._replace(parent="") for one in listed]
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        here = collection(root, listed, form, is_csv=is_csv)
        there = made(root, listed, mess, form[0])
        before, all_before = picture(root), contents_below(root)
        here.ok("scan")
        plan = planned(here)
        if plan["steps"]:
            applied = here.run("apply", "--json")
            assert not applied.json["failed"] and not applied.json["skipped"], (plan, applied)
        check_right(here, listed, there, form)
        again = planned(here)
        assert not again["steps"], again
        assert lost(root, all_before) == set()
        if plan["steps"]:
            undone = here.run("undo", "--json").json
            assert not undone["failed"] and not undone["skipped"], undone
        assert picture(root) == before


def planned(here: Collection) -> Any:
    """Return the plan that puts right what is there."""
    answer = here.run("match", "--fix", "--json")
    assert answer.code in (0, 1), answer
    return answer.json


def check_right(here: Collection, listed: list[Set], there: set[bytes], form: tuple[str, str]) -> None:
    """Check that every file whose content is anywhere is where the list has it: seen by the files alone."""
    found = {
        path.removeprefix("Games/Pocket/"): data
        for path, data in contents_below(here.root).items()
        if path.startswith("Games/Pocket/")
    }
    values = {data.removeprefix(HEADER) for data in found.values()}
    for one in listed:
        for name, data in one.files.items():
            if data in there:
                assert data in values, (one, name, found)
            if data in there and form == ("zip", "whole"):
                assert found[f"{one.name}.zip!{name}"].removeprefix(HEADER) == data
            if data in there and form == ("loose", "whole"):
                path = f"{one.name}/{name}" if len(one.files) > 1 else name
                if sum(name in other.files for other in listed if len(other.files) == 1) < 2:
                    assert found[path].removeprefix(HEADER) == data
    states: dict[str, str] = {}
    for line in here.run("match", "pocket", "--json").lines:
        if line["set"]:
            states.setdefault(line["set"], line["state"])
    total = here.run("match", "--total", "--json").lines[0]
    counts = Counter(states.values())
    assert {state: total[state] for state in counts} == counts, (total, states)
    assert set(states.values()) <= {"there", "absent", "incomplete", "damaged"} or form[0] == "loose", states


def lost(root: Path, before: dict[str, bytes]) -> set[bytes]:
    """Return the contents that are nowhere any more, held ones counted."""
    now = set(contents_below(root).values())
    for path in (root / ".magpie/held").rglob("*") if (root / ".magpie/held").exists() else ():
        if path.is_file():
            now.add(path.read_bytes())
            with tempfile.TemporaryDirectory() as folder:
                put_bytes(Path(folder) / "one", path.read_bytes())
                now |= set(contents_below(Path(folder)).values())
    return set(before.values()) - now


@pytest.mark.parametrize("pack", ["zip", "loose"])
def test_a_swap_is_put_right(pack: str, tmp_path: Path) -> None:
    """Two games under each other's names change places."""
    listed = [Set("Gull", {"Gull.bin": b"gull" * 9}), Set("Kelp", {"Kelp.bin": b"kelp" * 9})]
    here = collection(tmp_path, listed, (pack, "whole"))
    for one, other in (listed, listed[::-1]):
        data = next(iter(other.files.values()))
        if pack == "zip":
            put_bytes(tmp_path / f"Games/Pocket/{one.name}.zip", zip_bytes({f"{other.name}.bin": data}))
        else:
            put_bytes(tmp_path / f"Games/Pocket/{one.name}.bin", data)
    before = picture(tmp_path)
    here.ok("scan")
    here.ok("match", "--fix", "--now")
    assert {line["state"] for line in here.run("match", "--json").lines} == {"there"}
    here.ok("undo")
    assert picture(tmp_path) == before
