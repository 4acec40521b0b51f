"""What a start costs: packages give what they are asked for and load no more; what looks loads nothing that acts."""

from __future__ import annotations

import importlib
import pickle
import pkgutil
import re
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from types import ModuleType

import pytest

import lazy_magpie
from lazy_magpie.patterns import pattern
from tests.conftest import Collection

Tree = Callable[..., Collection]
SOURCE = Path(lazy_magpie.__file__).parent
ON_DEMAND = sorted(
    file.parent.relative_to(SOURCE.parent).as_posix().replace("/", ".")
    for file in SOURCE.rglob("__init__.py")
    if "on_demand(" in file.read_text("utf-8")
)


@pytest.mark.parametrize("name", ON_DEMAND)
def test_a_package_gives_every_name_and_hides_none(name: str) -> None:
    package = importlib.import_module(name)
    modules = {module.name for module in pkgutil.iter_modules(package.__path__)}
    assert not modules & set(package.__all__), "a module of that name would hide what is meant"
    for asked in package.__all__:
        assert not isinstance(getattr(package, asked), ModuleType), asked
    with pytest.raises(AttributeError, match="no attribute 'kelp'"):
        package.kelp  # noqa: B018


def test_there_are_such_packages() -> None:
    assert {f"lazy_magpie.{name}" for name in ("model", "change", "catalogue", "identify", "scan")} <= set(ON_DEMAND)


ACTING = ("change.engine", "change.recovery", "services.execute", "model.steps", "identify.path_reader", "scan")
"""Parts that change files, or read names: none of them is needed to look something up."""


def _loaded(collection: Collection, *words: str) -> set[str]:
    """Return the parts of the program that a command has loaded."""
    command = [sys.executable, "-X", "importtime", "-m", "lazy_magpie", *words]
    done = subprocess.run(command, cwd=collection.root, capture_output=True, text=True, check=False)
    assert done.returncode < 3, done.stderr
    return set(re.findall(r"\| +lazy_magpie\.([\w.]+)", done.stderr))


EXPLAINING = ("change.engine", "change.recovery", "services.execute", "scan.scanning", "intake", "lists")
"""Parts that `show` does without, which reads names and plans where a thing should be."""
LOOKING = {
    ("find", "gull"): ACTING,
    ("status",): ACTING,
    ("find", "--total"): ACTING,
    ("find", "--json"): ACTING,
    ("show", "gull"): EXPLAINING,
    ("match",): ACTING,
}


@pytest.mark.parametrize(("words", "never"), LOOKING.items())
def test_what_looks_loads_nothing_that_acts_also_after_a_change(
    tree: Tree, words: tuple[str, ...], never: tuple[str, ...]
) -> None:
    collection = tree(["New/Gull (2001).mkv", "New/Tern (2004).mkv"])
    collection.ok("scan")
    collection.ok("tidy")
    collection.ok("apply")
    assert "cli.main" in (loaded := _loaded(collection, *words))
    assert not loaded & set(never)


def test_a_change_that_was_cut_off_is_put_right_by_the_next_that_writes(tree: Tree) -> None:
    """The quick look for one finds it, and only then what puts it right is loaded."""
    collection = tree(["New/Gull (2001).mkv"])
    collection.ok("scan")
    collection.ok("tidy")
    collection.ok("apply")
    (journal,) = (collection.root / ".magpie/journal").glob("*.log")
    assert "change.recovery" not in _loaded(collection, "tag", "put", "seen", "Films")
    lines = journal.read_bytes().splitlines(keepends=True)
    journal.write_bytes(b"".join(lines[:-1]))  # its end is lost, as after a power cut
    assert "unfinished after a crash" in collection.ok("find").err
    assert "was interrupted" in collection.ok("tag", "drop", "seen", "Films").err
    assert "unfinished" not in collection.ok("find").err


def test_a_pattern_is_compiled_when_it_is_asked() -> None:
    kept = pattern(r"(?P<year>19\d\d)$", re.ASCII)
    assert "search" not in vars(kept)
    for one in (kept, pickle.loads(pickle.dumps(kept))):
        assert (match := one.search("Gull 1999")) and match["year"] == "1999"
        assert one.sub("", "Gull 1999") == "Gull " and one.flags & re.ASCII
    with pytest.raises(re.error):
        pattern("(").search("")
