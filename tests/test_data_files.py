"""Data files beside things: what they say is evidence, what is damaged or hostile in them says nothing."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from lazy_magpie.readers import data_files
from tests.conftest import CONFIG, Collection

Tree = Callable[..., Collection]
FORMS = ("json-ld", "dublin-core", "xmp")
FILM = "<film><title>{title}</title><year>{year}</year></film>"


def _films(here: Collection) -> dict[str, Any]:
    return {one["path"]: one for one in here.ok("find", "kind", "is", "movie", "--json").lines}


@pytest.mark.parametrize("form", FORMS)
def test_what_was_written_is_read_again_and_belongs_to_its_film(tree: Tree, form: str) -> None:
    config = CONFIG + f'[player.lounge]\ndata = "{form}"\n'
    here = tree(["Films/Kelp & Tide (2001)/Kelp & Tide (2001).mkv"], config)
    here.ok("scan")
    here.ok("companions", "--now")
    here.ok("scan")
    (film,) = here.ok("find", "--json").lines
    assert len(film["files"]) == 2
    (written,) = (here.root / "Films").rglob("*.[xj]*")
    assert data_files.read(str(written)) == {"data": "yes", "title": "Kelp & Tide", "year": 2001}
    moved = here.root / "Heap/Kelp & Tide.mkv"
    moved.parent.mkdir()
    (here.root / film["path"]).rename(moved)
    written.rename(moved.with_suffix(written.suffix))
    (here.root / ".magpie/catalogue.db").unlink()
    here.ok("scan")
    (film,) = here.ok("find", "--json").lines
    assert (film["state"], film["fields"]["year"]) == ("clear", 2001)


def test_a_data_file_fills_in_what_is_missing_and_a_difference_is_a_doubt(tree: Tree) -> None:
    here = tree(["Heap/a/Tern.mkv", "Heap/b/Gull.mkv", "Heap/c/Reef (1970).mkv", "Heap/d/Fog.mkv"])
    here.put("Heap/a/Tern.nfo", text=FILM.format(title="Tern", year=1987))
    here.put("Heap/b/about.xml", text=FILM.format(title="Gull", year=1990))
    here.put("Heap/c/Reef (1970).nfo", text=FILM.format(title="Reef", year=1971))
    here.put("Heap/d/Fog.nfo", text=FILM.format(title="Another", year=1971))
    here.ok("scan")
    films = _films(here)
    said = {path[5]: (one["state"], one["fields"].get("year")) for path, one in films.items()}
    assert said == {
        "a": ("clear", 1987), "b": ("clear", 1990), "c": ("doubtful", 1970), "d": ("doubtful", None),
    }  # fmt: skip
    (question,) = here.ok("settle", "Heap/c", "--json", code=1).lines
    assert question["reason"] == "data file disagrees"
    here.put("Heap/a/Tern.nfo", text=FILM.format(title="Tern", year=1988))
    here.ok("scan")
    assert _films(here)["Heap/a/Tern.mkv"]["fields"]["year"] == 1988
    (here.root / "Heap/a/Tern.nfo").unlink()
    here.ok("scan")
    assert _films(here)["Heap/a/Tern.mkv"]["state"] == "doubtful"


def test_an_episode_takes_its_season_from_its_data_file(tree: Tree) -> None:
    here = tree(["Heap/Quay/Quay E07.mkv"])
    text = "<episode><title>Fog</title><series>Quay</series><season>3</season><episode>7</episode></episode>"
    here.put("Heap/Quay/Quay E07.xml", text=text)
    here.ok("scan")
    (episode,) = here.ok("find", "kind", "is", "episode", "--json").lines
    fields = episode["fields"]
    assert (episode["state"], fields["season"], fields["episode"]) == ("clear", 3, 7)


@pytest.mark.parametrize(
    "text",
    [
        "", "<", "<film><title>Tern</title>", "<film><title>Tern</title></film>", '{"@type": "Movie"', "[1, 2]",
        '<!DOCTYPE a [<!ENTITY e SYSTEM "/etc/hostname">]><a><title>&e;</title><year>1987</year></a>',
        "<a>" * 3000 + "</a>" * 3000, "<film><title>Tern</title><year>1987</year></film>" + " " * (1 << 20),
        "[" * 100_000, "<html><body><title>Tern</title></body></html>",
    ],
)  # fmt: skip
@pytest.mark.parametrize("ending", [".xml", ".nfo", ".jsonld", ".xmp"])
def test_what_is_none_says_nothing_and_is_no_fault(tree: Tree, tmp_path: Path, ending: str, text: str) -> None:
    file = tmp_path / f"one{ending}"
    file.write_text(text)
    assert "title" not in data_files.read(str(file))
