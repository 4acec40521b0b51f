"""Worksheets: made, filled in, taken back; what can't be taken is named by cell, and nothing else changes."""

from __future__ import annotations

import csv
import os
import random
import shutil
import subprocess
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import openpyxl
import pytest

from lazy_magpie import spreadsheet
from tests.conftest import SHELVES, Collection

Tree = Callable[..., Collection]
OWN = """
[field.theme]
allowed = ["harbour", "kites", "weather"]
note = "What it is about"
[field.rights]
allowed = ["own use", "club"]
needed = true
[field.copies_sold]
type = "number"
[field.lent_on]
type = "date"
[field.moods]
type = "words"
allowed = ["calm", "gusty"]
"""
RIGHT = {
    "theme": ("kites", "Weather"),
    "copies_sold": (12, 2.5),
    "lent_on": ("2024-02-29", "2001-01-31"),
    "moods": ("calm", "calm, gusty"),
    "tags": ("for the fair", "seen, lent"),
}
WRONG = {
    "theme": ("sails", "kites, weather"),
    "copies_sold": ("many",),
    "lent_on": ("2023-02-29", "soon"),
    "moods": ("calm, wild",),
    "tags": ("x" * 90,),
    "path": ("Films/other.mkv",),
    "title": ("Another Title",),
    "size": (1,),
    "was": ("{}", "nonsense"),
}
MEANT = {"Weather": "weather", "calm": ["calm"], "calm, gusty": ["calm", "gusty"]}


@pytest.fixture
def films(tree: Tree) -> Collection:
    """Return films with custom fields, one of whose names looks like a formula."""
    collection = tree([f"Heap/Kelp {number} (2001).mkv" for number in range(1, 40)], SHELVES + OWN)
    collection.put('Heap/=HYPERLINK("x") (1999).mkv', "Heap/+1 (1998).mkv", "Heap/größe 灯台 (1968).mkv")
    collection.ok("scan")
    return collection


def _sheet(collection: Collection, name: str = "all.xlsx", *items: str) -> Path:
    path = collection.root.parent / name
    collection.ok("sheet", "make", str(path), "--force", *items)
    return path


def _take(collection: Collection, path: Path, *words: str, code: int = 0) -> Any:
    return collection.ok("sheet", "take", str(path), "--json", *words, code=code).json


def _own(collection: Collection) -> dict[str, tuple[dict[str, Any], list[str]]]:
    return {item["path"]: (item["own"], item["tags"]) for item in collection.ok("find", "--json").lines}


class Opened:
    """A workbook as a spreadsheet has it: cells by row and column name, saved again."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.book = openpyxl.load_workbook(path)
        self.sheet = self.book["Items"]

    def names(self) -> list[str]:
        return [cell.value for cell in self.sheet[1]]

    def cell(self, row: int, name: str) -> Any:
        return self.sheet.cell(row, self.names().index(name) + 1)

    def row_of(self, path: str) -> int:
        return next(row for row in range(2, self.sheet.max_row + 1) if self.cell(row, "path").value == path)

    def save(self) -> None:
        self.book.save(self.path)


@pytest.mark.parametrize("name", ["all.xlsx", "all.csv"])
def test_an_untouched_sheet_proposes_nothing(films: Collection, name: str) -> None:
    films.ok("tag", "put", "seen,lent", "Heap/Kelp 1 (2001).mkv")
    films.ok("settle", "Heap/Kelp 2 (2001).mkv", "--set", "theme=kites", "rights=club", "lent_on=2024-01-01")
    answer = _take(films, _sheet(films, name))
    assert answer["steps"] == [] and answer["problems"] == [] and answer["plan"] is None


def test_a_sheet_shows_what_is_known_and_explains_itself(films: Collection) -> None:
    opened = Opened(_sheet(films, "kelp.xlsx", "kelp 3"))
    row = opened.row_of("Heap/Kelp 3 (2001).mkv")
    assert [opened.cell(row, name).value for name in ("kind", "type", "title", "year")] == [
        "movie",
        "mkv",
        "Kelp 3",
        2001,
    ]
    assert opened.cell(row, "open").value.startswith('=HYPERLINK("file:///') and "%20" in opened.cell(row, "open").value
    rules = {str(rule.sqref): rule.formula1 for rule in opened.sheet.data_validations.dataValidation}
    assert "Words!$A$2:$A$4" in rules.values() or "Words!$B$2:$B$4" in rules.values()
    about = {line[0].value: line[1].value for line in opened.book["Columns"].iter_rows(min_row=2)}
    assert about["theme"] == "What it is about" and set(about) == set(opened.names())
    assert opened.sheet.column_dimensions[spreadsheet._letters(opened.names().index("was"))].hidden


def test_what_looks_like_a_formula_is_none(films: Collection) -> None:
    path = _sheet(films)
    opened = Opened(path)
    formulas = [cell.value for line in opened.sheet.iter_rows() for cell in line if cell.data_type == "f"]
    assert formulas and all(text.startswith('=HYPERLINK("file:///') and text.endswith(',"open")') for text in formulas)
    table = _sheet(films, "all.csv").read_text("utf-8-sig")
    for row in csv.reader(table.splitlines()):
        assert not [text for text in row if text.startswith(("=", "+", "-", "@"))]


def test_what_is_filled_in_is_a_plan_that_can_be_undone(films: Collection) -> None:
    before = _own(films)
    opened = Opened(_sheet(films))
    row = opened.row_of("Heap/Kelp 7 (2001).mkv")
    for name, value in (("theme", "harbour"), ("rights", "club"), ("tags", "seen, for the fair"), ("copies_sold", 3)):
        opened.cell(row, name).value = value
    opened.save()
    shown = films.ok("sheet", "take", str(opened.path)).out
    assert "theme: nothing → harbour" in shown and "tags: nothing → for the fair, seen" in shown
    assert _own(films) == before
    films.ok("apply")
    own, tags = _own(films)["Heap/Kelp 7 (2001).mkv"]
    assert own == {"theme": "harbour", "rights": "club", "copies_sold": 3} and tags == ["for the fair", "seen"]
    assert [item["path"] for item in films.ok("find", "theme", "is", "harbour", "--json").lines] == [
        "Heap/Kelp 7 (2001).mkv"
    ]
    assert films.ok("find", "harbour", "--columns", "name,theme,copies_sold").out.split()[-2:] == ["harbour", "3"]
    films.ok("undo")
    assert _own(films) == before and not films.ok("find", "theme", "known", "--json").lines
    films.ok("redo")
    for more in ("", "-wal", "-shm"):
        (films.root / f".magpie/catalogue.db{more}").unlink(missing_ok=True)
    films.ok("scan")
    assert _own(films)["Heap/Kelp 7 (2001).mkv"] == (own, tags)


def test_only_what_was_changed_in_the_sheet_counts(films: Collection) -> None:
    one, two = "Heap/Kelp 1 (2001).mkv", "Heap/Kelp 2 (2001).mkv"
    films.ok("settle", one, two, "--set", "theme=kites", "rights=club")
    opened = Opened(_sheet(films))
    films.ok("settle", one, two, "--set", "theme=harbour")  # meanwhile, elsewhere
    films.ok("tag", "put", "seen", one)
    (films.root / one).rename(films.root / "Heap/Kelp 1 again (2001).mkv")
    films.ok("scan")
    opened.cell(opened.row_of(one), "copies_sold").value = 5
    opened.save()
    assert [step["from"] for step in _take(films, opened.path)["steps"]] == ["Heap/Kelp 1 again (2001).mkv"]
    assert "is “Heap/Kelp 1 again (2001).mkv” now" in films.ok("sheet", "take", str(opened.path)).err
    opened.cell(opened.row_of(two), "theme").value = "weather"
    opened.save()
    (problem,) = _take(films, opened.path, code=1)["problems"]
    assert problem["column"] == "theme" and "is “harbour”" in problem["text"]


def test_a_thousand_edits_arrive_or_are_named_and_nothing_else_changes(films: Collection) -> None:
    chance = random.Random(7)
    edits = 0
    while edits < 1000:
        edits += _edited_and_taken(films, chance)


def _edited_and_taken(films: Collection, chance: random.Random) -> int:
    """Edit a sheet at random, also its rows and columns, take it in part, compare all of it; return how many edits."""
    before = _own(films)
    opened = Opened(_sheet(films))
    rows = list(range(2, opened.sheet.max_row + 1))
    expected, wrong, edits = dict(before), set(), 0
    for row in chance.sample(rows, 24):
        path = opened.cell(row, "path").value
        own, tags = dict(before[path][0]), before[path][1]
        spoilt = chance.random() < 0.3
        for name in chance.sample(sorted(RIGHT), 2):
            value = chance.choice(RIGHT[name])
            opened.cell(row, name).value = value
            if name == "tags":
                tags = sorted(str(value).split(", "))
            else:
                own[name] = MEANT.get(str(value), value)
            edits += 1
        opened.cell(row, "rights").value = own["rights"] = "club"
        if spoilt:
            name = chance.choice(sorted(WRONG))
            opened.cell(row, name).value = chance.choice(WRONG[name])
            wrong.add((path, name))
            edits += 1
        else:
            expected[path] = (own, tags)
    ids = {item["id"]: item["path"] for item in films.ok("find", "--json").lines}
    path_of = _shuffled(opened, chance, ids)
    opened.save()
    answer = _take(films, opened.path, "--partly", "--new", code=1 if wrong else 0)
    named = {(problem["row"], problem["column"]) for problem in answer["problems"]}
    assert {(path_of[row], column) for row, column in named} == wrong
    assert all(opened.sheet[problem["cell"]].row == problem["row"] for problem in answer["problems"])
    if answer["plan"]:
        films.ok("apply")
    assert _own(films) == expected
    return edits


def _shuffled(opened: Opened, chance: random.Random, paths: dict[str, str]) -> dict[int, str]:
    """Sort the rows at random, move, hide and add columns; return which item each row is of, by its path."""
    names, sheet = opened.names(), opened.sheet
    lines = [[cell.value for cell in line] for line in sheet.iter_rows(min_row=2)]
    chance.shuffle(lines)
    order = list(range(len(names)))
    chance.shuffle(order)
    fresh = opened.book.create_sheet("New")
    fresh.append([names[at] for at in order] + ["remarks of mine"])
    for line in lines:
        fresh.append([line[at] for at in order] + ["a remark"])
    opened.book.remove(sheet)
    fresh.title = "Items"
    opened.sheet = fresh
    fresh.column_dimensions["C"].hidden = True
    return {row: paths[line[names.index("id")][1:]] for row, line in enumerate(lines, start=2)}


@pytest.mark.skipif(not shutil.which("soffice"), reason="LibreOffice is not installed")
def test_libreoffice_opens_and_saves_it_unharmed(films: Collection, tmp_path: Path) -> None:
    films.ok("tag", "put", "seen", "Heap/Kelp 1 (2001).mkv")
    opened = Opened(_sheet(films))
    row = opened.row_of("Heap/Kelp 4 (2001).mkv")
    for name, value in (("theme", "kites"), ("rights", "club"), ("lent_on", "2024-02-29"), ("copies_sold", 2)):
        opened.cell(row, name).value = value
    opened.save()
    home = f"-env:UserInstallation=file://{tmp_path}/home"
    for step in ("ods", "xlsx"):
        source = opened.path if step == "ods" else tmp_path / "out/all.ods"
        command = ["soffice", home, "--headless", "--convert-to", step, "--outdir", tmp_path / "out", source]
        subprocess.run(command, check=True, capture_output=True, timeout=120)
    answer = _take(films, tmp_path / "out/all.xlsx")
    assert answer["problems"] == [] and len(answer["steps"]) == 4
    again = openpyxl.load_workbook(tmp_path / "out/all.xlsx")["Items"]
    assert again.data_validations.dataValidation


@pytest.mark.parametrize(
    ("edit", "column", "text"),
    [
        (lambda o, row: o.sheet.append([o.cell(row, "id").value]), "id", "row 6 already"),
        (lambda o, row: setattr(o.cell(row, "id"), "value", "mzzzz"), "id", "there is no item “mzzzz”"),
        (lambda o, row: o.sheet.append([None, "Heap/new.mkv"]), "id", "the row has no id"),
        (lambda o, row: setattr(o.cell(row, "theme"), "value", "kites"), "rights", "this is needed"),
        (lambda o, row: setattr(o.cell(row, "rights"), "value", "clb"), "rights", "did you mean “club”?"),
        (lambda o, row: setattr(o.cell(row, "tags"), "value", "sen"), "tags", "no tag “sen”; did you mean “seen”?"),
    ],
)
def test_each_mistake_is_named_by_its_cell_and_all_or_nothing_is_taken(
    films: Collection, edit: Callable[[Opened, int], None], column: str, text: str
) -> None:
    films.ok("tag", "put", "seen", "Heap/Kelp 1 (2001).mkv")
    opened = Opened(_sheet(films))
    edit(opened, 6)
    opened.cell(9, "copies_sold").value, opened.cell(9, "rights").value = 8, "club"
    opened.save()
    answer = _take(films, opened.path, code=1)
    assert [problem["column"] for problem in answer["problems"]] == [column] and text in answer["problems"][0]["text"]
    assert answer["steps"] == [] and answer["plan"] is None
    assert len(_take(films, opened.path, "--partly", code=1)["steps"]) == 2


def test_what_is_no_sheet_is_refused(films: Collection, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def refused(path: Path, text: str, *words: str) -> None:
        assert text in films.ok("sheet", "take", str(path), *words, code=2).err

    path = _sheet(films)
    assert "is there already" in films.ok("sheet", "make", str(path), code=2).err
    assert "call the file all.ods.xlsx" in films.ok("sheet", "make", str(tmp_path / "all.ods"), code=2).err
    assert "Nothing found" in films.ok("sheet", "make", str(tmp_path / "no.xlsx"), "kind", "is", "font", code=2).err
    refused(tmp_path / "absent.xlsx", "There is no file")
    refused(path, "no items", "kelp")
    (tmp_path / "text.xlsx").write_text("no workbook")
    refused(tmp_path / "text.xlsx", "no workbook that can be read")
    (tmp_path / "other.csv").write_text("id,path\n1,2\n")
    refused(tmp_path / "other.csv", "has no column “was”")
    (tmp_path / "twice.csv").write_text("id,was,theme,theme\n")
    refused(tmp_path / "twice.csv", "two columns “theme”")
    (tmp_path / "latin.csv").write_bytes("id,was\ngröße,\n".encode("latin-1"))
    refused(tmp_path / "latin.csv", "is not UTF-8")
    monkeypatch.setattr(spreadsheet, "_MOST_BYTES", 1 << 20)
    with zipfile.ZipFile(tmp_path / "bomb.xlsx", "w", zipfile.ZIP_DEFLATED) as bomb:
        bomb.writestr("big", bytes(2 << 20))
    refused(tmp_path / "bomb.xlsx", "would unpack to more than")


def test_semicolons_and_typed_values_are_read(films: Collection) -> None:
    path = _sheet(films, "all.csv")
    head, *rows = csv.reader(path.read_text("utf-8-sig").splitlines())
    rows[0][head.index("rights")], rows[0][head.index("copies_sold")] = "OWN USE", "2.50"
    with path.open("w", newline="", encoding="utf-8") as file:
        csv.writer(file, delimiter=";").writerows([head, *rows])
    films.ok("sheet", "take", str(path), "--now")
    (item,) = films.ok("find", "rights", "known", "--json").lines
    assert item["own"] == {"rights": "own use", "copies_sold": 2.5}


@pytest.mark.parametrize(
    ("config", "text"),
    [
        ('[field.title]\ntype = "text"', "there is a field “title” already"),
        ('[field.Theme]\ntype = "text"', "can't be a field's name"),
        ('[field.theme]\ntype = "txt"', "there is no type “txt”; did you mean “text”?"),
        ('[field.sold]\ntype = "number"\nallowed = ["few"]', "is no value for sold: it takes a number"),
        ('[field.theme]\nallowed = "kites"', "“allowed” is a list of texts"),
        ('[naming.mine]\nmovie = "{theme}/{title}"\n', "there is no field “theme”"),
    ],
)
def test_mistakes_in_fields_of_ones_own_are_named_with_their_line(tree: Tree, config: str, text: str) -> None:
    answer = tree([], config).ok("scan", code=2)
    assert text in answer.err and "line" in answer.err


@pytest.mark.parametrize("name", ["odd.xlsx", "odd.csv"])
def test_names_of_every_sort_are_written_and_read_back(films: Collection, name: str) -> None:
    odd = [
        "new\nline (2001).mkv",
        os.fsdecode(b"caf\xe9 (1999).mkv"),
        "🪁 (2005).mkv",
        'q"<b>& (1991).mkv',
        "tab\t (1997).mkv",
    ]
    films.put(*(f"Odd/{one}" for one in (*odd, "back\\slash (1992).mkv", f"{'x' * 240} (1990).mkv")))
    films.ok("scan")
    films.ok("tag", "put", "größe 🪁", "Odd")
    answer = _take(films, _sheet(films, name, "Odd"))
    assert answer["steps"] == [] and answer["problems"] == []


def test_what_items_are_is_filled_in_and_checked_cell_by_cell(films: Collection, tmp_path: Path) -> None:
    path = tmp_path / "all.xlsx"
    films.ok("sheet", "make", str(path), "Heap", "--identity")
    assert not _take(films, path)["steps"], "an untouched sheet settles nothing"
    opened = Opened(path)
    one, two, three = (opened.row_of(f"Heap/Kelp {n} (2001).mkv") for n in (1, 2, 3))
    opened.cell(one, "year").value = 1987
    opened.cell(one, "title").value = "Kelp of the Quay"
    opened.cell(two, "year").value = "soon"
    opened.cell(three, "year").value = ""
    opened.save()
    wrong = _take(films, path, code=1)
    assert not wrong["steps"] and {problem["column"] for problem in wrong["problems"]} == {"year"}
    assert any("a number" in problem["text"] for problem in wrong["problems"])
    films.ok("sheet", "take", str(path), "--partly", "--now", code=1)
    (item,) = (item for item in films.ok("find", "--json").lines if item["path"] == "Heap/Kelp 1 (2001).mkv")
    assert (item["state"], item["fields"]) == ("settled", {"title": "Kelp of the Quay", "year": 1987})
    films.ok("undo")
    (item,) = (item for item in films.ok("find", "--json").lines if item["path"] == "Heap/Kelp 1 (2001).mkv")
    assert item["fields"]["year"] == 2001


@pytest.mark.parametrize(
    ("column", "typed", "meant"),
    [
        ("moods", "calm;gusty", ["calm", "gusty"]), ("moods", "calm, gusty", ["calm", "gusty"]),
        ("lent_on", "2024-2-9", "2024-02-09"), ("lent_on", "2024/02/09", "2024-02-09"),
        ("lent_on", "9.2.2024", "2024-02-09"),
    ],
)  # fmt: skip
def test_cells_are_read_as_people_type_them(films: Collection, column: str, typed: str, meant: object) -> None:
    opened = Opened(_sheet(films))
    row = opened.row_of("Heap/Kelp 1 (2001).mkv")
    opened.cell(row, column).value = typed
    opened.cell(row, "rights").value = "club"
    opened.cell(row, "tags").value = "seen; lent"
    opened.save()
    films.ok("sheet", "take", str(opened.path), "--now")
    own, tags = _own(films)["Heap/Kelp 1 (2001).mkv"]
    assert own[column] == meant and tags == ["lent", "seen"]
