"""Bad input: one clear sentence, the right exit code, nothing changed, never a traceback."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import pytest

from tests.conftest import SHELVES, Collection, picture, program

Tree = Callable[..., Collection]


def _refused(collection: Collection, words: tuple[str, ...], code: int, text: str) -> None:
    answer = collection.run(*words)
    assert answer.code == code, answer
    assert text in answer.err and answer.err.startswith("magpie: ") and "Traceback" not in answer.err
    assert answer.err.count("\n") == 1


def test_no_collection_here(tmp_path: Path) -> None:
    _refused(Collection(tmp_path), ("find",), 2, "No collection here")
    _refused(Collection(tmp_path / "none"), ("find",), 2, "There is no folder")


@pytest.mark.parametrize(
    ("config", "text"),
    [
        ("[colection]\n", "line 1: there is no section “colection”; did you mean “collection”?"),
        ('[collection]\nnam = "x"\n', "line 2: [collection] has no key “nam”; did you mean “name”?"),
        ("[collection]\nname = 3\n", "line 2: “name” is a text in quotes"),
        ("[collection]\nleave = [1]\n", "line 2: “leave” is a list of texts"),
        ('[collection]\nsafe_names = "mac"\n', "line 2: safe_names"),
        ("[collection\n", "not valid TOML"),
        (SHELVES.replace('"movie"', '"moive"'), "line 6: no shelf can be of kind “moive”; did you mean “movie”?"),
        (SHELVES.replace('"Films"', '"../Films"'), "line 7: the folder “../Films” is not inside the collection"),
        (SHELVES.replace('"Films"', '"/Films"'), "line 7"),
        (SHELVES.replace('"Series"', '"films"'), "line 10: [shelf.films] has the folder “films” already"),
        ('[shelf.x]\nkind = "movie"\n', "line 1: [shelf.x] has no “folder”"),
        ('[naming.x]\nmovie = "{title"\n', "line 2: in the template “{title”, column 1: “{” is never closed"),
        ('[naming.x]\nmovie = "{titel}"\n', "column 2: there is no field “titel”; did you mean “title”?"),
        ('[naming.x]\nmovie = "{title, sortd}"\n', "column 9: there is no word “sortd”"),
        ('[naming.x]\nmovie = "a <b>"\n', "column 3: a part in “<…>” needs a field"),
        ('[naming.x]\nmovie = "{title}>"\n', "column 8: “>” without a “<”"),
        ('[naming.x]\nmovie = "../{title}"\n', "column 1: a path in a template goes down"),
        ('[naming.x]\nmovie = "{year:4}"\n', "column 7: “:4” is no width"),
        (SHELVES.replace('folder = "Films"', 'folder = "F"\nnaming = "scren"'), "did you mean “screen”?"),
    ],
)
def test_a_mistake_in_the_configuration_is_named_with_its_line(tree: Tree, config: str, text: str) -> None:
    _refused(tree([], config), ("scan",), 2, text)


def test_mistyped_words(tree: Tree) -> None:
    collection = tree(["Kelp (2001).mkv"])
    _refused(collection, ("tydi",), 2, "There is no command “tydi”; did you mean “tidy”?")
    _refused(collection, ("tidy", "--noww"), 2, "There is no option “--noww” here; did you mean “--now”?")
    _refused(collection, ("find",), 2, "Nothing has been scanned yet")
    collection.ok("scan")
    _refused(collection, ("find", "kind", "is", "moovie"), 2, "There is no kind “moovie”; did you mean “movie”?")
    _refused(collection, ("find", "(", "kelp"), 2, "never closed")
    _refused(collection, ("find", "kelp", "or"), 2, "is missing after “or”")
    _refused(collection, ("show", "nothing of that name"), 2, "Nothing matches")
    _refused(collection, ("apply",), 2, "No plan is pending")
    _refused(collection, ("apply", "7"), 2, "There is no plan 7")
    _refused(collection, ("apply", "x"), 2, "is neither a plan's number nor a .csv file")
    _refused(collection, ("undo",), 2, "There is nothing to undo")
    _refused(collection, ("undo", "4"), 2, "There is no change 4")
    _refused(collection, ("scan", "nowhere"), 2, "There is no “nowhere”")
    _refused(collection, ("start",), 2, "is a collection already")


def test_a_plan_is_applied_once(tree: Tree) -> None:
    collection = tree(["Kelp (2001).mkv"])
    collection.ok("scan")
    collection.ok("tidy")
    collection.ok("apply", "1")
    _refused(collection, ("apply", "1"), 2, "Plan 1 is no longer pending")
    collection.ok("undo")
    collection.ok("tidy")
    collection.ok("plans", "drop", "2")
    _refused(collection, ("apply", "2"), 2, "it was dropped")


def test_files_that_vanished_or_changed_since_the_plan_are_skipped(tree: Tree) -> None:
    collection = tree(["a/Kelp (2001).mkv", "a/Kelp (2001).srt", "b/Tern (2002).mkv", "c/Gull (2003).mkv"])
    collection.ok("scan")
    collection.ok("tidy")
    (collection.root / "a/Kelp (2001).mkv").unlink()
    (collection.root / "b/Tern (2002).mkv").write_text("changed meanwhile")
    answer = collection.ok("apply", "--json", code=1).json
    skipped = {one["from"]: one["why"] for one in answer["skipped"]}
    assert skipped["a/Kelp (2001).mkv"] == "it is no longer there"
    assert skipped["a/Kelp (2001).srt"] == "what it belongs to stays too"
    assert skipped["b/Tern (2002).mkv"] == "it has changed since the plan was made"
    assert {"a/Kelp (2001).srt", "b/Tern (2002).mkv", "Films/Gull (2003)/Gull (2003).mkv"} <= collection.files()


def test_a_destination_that_appeared_meanwhile_is_never_replaced(tree: Tree) -> None:
    collection = tree(["Kelp (2001).mkv"])
    collection.ok("scan")
    collection.ok("tidy")
    collection.put("Films/Kelp (2001)/Kelp (2001).mkv", text="appeared")
    (skipped,) = collection.ok("apply", "--json", code=1).json["skipped"]
    assert skipped["why"] == "something of that name is there now"
    assert (collection.root / "Films/Kelp (2001)/Kelp (2001).mkv").read_text() == "appeared"
    assert (collection.root / "Kelp (2001).mkv").read_text() == "Kelp (2001).mkv"


ODD = [
    "new\nline (2001).mkv",
    "kite 🪁 day (2001).mkv",
    "not utf-8 \udcff\udcfe (2001).mkv",
    "L" * 244 + " (2001).mkv",
    "back\\slash (2001).mkv",
    'quote" star* (2001).mkv',
    "  spaces   (2001) .mkv",
    "turned \u202egpj (2001).mkv",
    "cafe\u0301 (2001).mkv",
]


def test_odd_names_go_there_and_back(tree: Tree) -> None:
    collection = tree(ODD)
    before = picture(collection.root)
    collection.ok("scan")
    plan = collection.run("tidy", "--json").json
    assert len([step for step in plan["steps"] if step["do"] == "move"]) + len(plan["left"]) == len(ODD)
    assert len([step for step in plan["steps"] if step["do"] == "move"]) >= 7
    collection.ok("apply")
    found = collection.ok("find", "--json").out
    assert "\udcff" not in found and "\\\\xff" in found
    collection.ok("undo")
    assert picture(collection.root) == before


def test_written_paths_are_read_back(tree: Tree) -> None:
    collection = tree(ODD)
    collection.ok("scan")
    names = "".join(item["path"] + "\n" for item in collection.ok("find", "--json").lines if "\n" not in item["path"])
    answer = program("explain", "--json", "-", text=names)
    assert len(answer.out.splitlines()) == len(ODD)


def test_links_are_never_followed(tree: Tree) -> None:
    collection = tree(["a/Kelp (2001).mkv"])
    (collection.root / "a/loop").symlink_to(collection.root)
    (collection.root / "b.mkv").symlink_to("a/Kelp (2001).mkv")
    assert collection.ok("scan", "--json").json["files"] == 1
    collection.ok("tidy", "--now")
    assert (collection.root / "a/loop").is_symlink()


def test_nothing_is_written_through_a_link_that_leads_outside(tree: Tree, tmp_path: Path) -> None:
    collection = tree(["Heap/Kelp (2001).mkv"])
    (tmp_path / "outside").mkdir()
    (collection.root / "Films").symlink_to(tmp_path / "outside")
    collection.ok("scan")
    answer = collection.ok("tidy", "--now", "--json", code=1).json
    assert {one["why"] for one in answer["skipped"]} >= {"a link leads from “Films” to outside the collection"}
    assert collection.files() == {"Heap/Kelp (2001).mkv"} and not list((tmp_path / "outside").iterdir())


def _as_nobody(collection: Collection, *words: str) -> subprocess.CompletedProcess[str]:
    """Run the program with the user id dropped: root may read and write everything."""
    code = (
        "import os, sys, importlib, getpass, socket, encodings.idna\n"
        "import lazy_magpie.planners.intake.intake_items, lazy_magpie.scan.process_pool\n"  # what is loaded late
        "import lazy_magpie.scan.watch\n"
        "from lazy_magpie.identify.roles import read_tree; read_tree({'Music': ['Gull.mp3']})\n"
        "from lazy_magpie.cli.commands import COMMANDS\n"
        "for name in COMMANDS: importlib.import_module(f'lazy_magpie.cli.commands.{name}')\n"
        "from lazy_magpie.cli.main import main\n"
        "from lazy_magpie.naming import conventions; conventions()\n"
        "os.setgroups([]); os.setgid(65534); os.setuid(65534)\n"
        "sys.exit(main(sys.argv[1:]))"
    )
    return subprocess.run(
        [sys.executable, "-c", code, "-C", str(collection.root), *words], capture_output=True, text=True, check=False
    )


root_only = pytest.mark.skipif(os.geteuid() != 0, reason="only root can drop its user id")


def _owned(collection: Collection) -> None:
    for top, folders, files in os.walk(collection.root):
        for name in (".", *folders, *files):
            os.chown(os.path.join(top, name), 65534, 65534)
    temporary = Path(tempfile.gettempdir())
    for folder in (collection.root, *collection.root.parents):
        if temporary in folder.parents:
            folder.chmod(0o755)


@root_only
def test_a_folder_that_cant_be_read_is_named_and_loses_nothing(tree: Tree) -> None:
    collection = tree(["secret/Kelp (2001).mkv", "Tern (2002).mkv"])
    _owned(collection)
    assert _as_nobody(collection, "scan").returncode == 0
    (collection.root / "secret").chmod(0)
    answer = _as_nobody(collection, "scan", "--json")
    assert answer.returncode == 1, answer
    assert '"missing": 0' in answer.stdout and '"path": "secret"' in answer.stdout
    (collection.root / "secret").chmod(0o755)
    assert '"new": 0' in _as_nobody(collection, "scan", "--json").stdout


@root_only
def test_no_permission_in_the_middle(tree: Tree) -> None:
    collection = tree(["locked/Kelp (2001).mkv", "Tern (2002).mkv"])
    _owned(collection)
    _as_nobody(collection, "scan")
    _as_nobody(collection, "tidy")
    (collection.root / "locked").chmod(0o555)
    answer = _as_nobody(collection, "apply")
    assert answer.returncode == 1 and "permission denied" in answer.stdout
    assert {"locked/Kelp (2001).mkv", "Films/Tern (2002)/Tern (2002).mkv"} <= collection.files()


@root_only
def test_a_disk_that_cant_be_written(tree: Tree) -> None:
    collection = tree(["Kelp (2001).mkv"])
    collection.ok("scan")
    collection.ok("tidy")
    before = picture(collection.root)
    for words, code in ((("apply",), 3), (("scan",), 3), (("find",), 0)):
        mount = ['mount --bind . . && mount -o remount,ro,bind . && exec "$@"']
        command = [sys.executable, "-m", "lazy_magpie", "-C", str(collection.root), *words]
        run = subprocess.run(
            ["unshare", "-m", "sh", "-c", *mount, "sh", *command],
            cwd=collection.root, capture_output=True, text=True, check=False,
        )  # fmt: skip
        if "permission denied" in run.stderr.lower() and "unshare" in run.stderr:
            pytest.skip("no mount namespaces here")
        assert run.returncode == code, (words, run)
        assert "Traceback" not in run.stderr
    assert picture(collection.root) == before


def test_two_at_once(tree: Tree) -> None:
    from lazy_magpie.lock import locked

    collection = tree(["Kelp (2001).mkv"])
    collection.ok("scan")
    collection.ok("tidy")
    with locked(collection.root / ".magpie", "apply"):
        answer = program("-C", str(collection.root), "apply")
        assert answer.code == 3 and f"“magpie apply” (process {os.getpid()} on" in answer.err
        assert collection.ok("find").code == 0
    collection.ok("apply")


def test_output_that_nobody_reads_ends_quietly(tree: Tree) -> None:
    collection = tree([f"Dockside S01E{n:02}.mkv" for n in range(60)])
    collection.ok("scan")
    command = f"{Path(sys.executable).with_name('magpie')} -C '{collection.root}' find --json | head -1"
    run = subprocess.run(["sh", "-c", command], capture_output=True, text=True, check=False)
    assert run.stderr == "" and run.stdout.count("\n") == 1
