"""The arrows between packages run one way, as docs/architecture.md says."""

from __future__ import annotations

import ast
import re
from pathlib import Path

import pytest

SOURCE = Path(__file__).parent.parent / "src" / "lazy_magpie"
LAYERS = Path(__file__).parent.parent / "docs" / "architecture.md"
_ROW = re.compile(r"^\| (\d+) \| ([^|]+) \|", re.MULTILINE)
ROWS = {int(row): re.findall(r"`(\w+)`", names) for row, names in _ROW.findall(LAYERS.read_text("utf-8"))}
"""The layers as docs/architecture.md has them, the lowest 0."""
ROW_OF = {name: row for row, names in ROWS.items() for name in names}


def _package(path: Path) -> str:
    return path.relative_to(SOURCE).parts[0].removesuffix(".py")


def _imports(path: Path) -> set[str]:
    """Return the packages that a file imports, wherever in it."""
    found = set()
    for node in ast.walk(ast.parse(path.read_text())):
        names = [alias.name for alias in node.names] if isinstance(node, ast.Import) else []
        if isinstance(node, ast.ImportFrom):
            assert node.level == 0, f"{path}: imports are absolute"
            names = [f"{node.module}.{alias.name}" for alias in node.names]
        for name in names:
            parts = name.split(".")
            if parts[0] == "lazy_magpie" and parts[1] != "__version__":
                found.add(parts[1])
    return found


FILES = [path for path in sorted(SOURCE.rglob("*.py")) if path != SOURCE / "__init__.py"]


@pytest.mark.parametrize("path", FILES, ids=lambda path: str(path.relative_to(SOURCE)))
def test_a_package_imports_only_what_lies_below(path: Path) -> None:
    package = _package(path)
    wrong = {other for other in _imports(path) if other != package and ROW_OF[other] >= ROW_OF[package]}
    assert not wrong


def test_every_package_has_its_row() -> None:
    assert {_package(path) for path in FILES} == set(ROW_OF)


def test_only_services_meet_planners_and_change() -> None:
    for path in FILES:
        imported = _imports(path)
        if _package(path) == "planners":
            assert "change" not in imported, path
        elif _package(path) != "services":
            assert not {"planners", "change"} <= imported, path


@pytest.mark.parametrize("path", FILES, ids=lambda path: str(path.relative_to(SOURCE)))
def test_files_are_small_and_say_what_they_are(path: Path) -> None:
    text = path.read_text()
    assert ast.get_docstring(ast.parse(text)), "a file says in its first line what it does"
    assert len(text.splitlines()) < 400


def test_heavy_packages_are_imported_where_they_are_used() -> None:
    heavy = {
        "av",
        "numpy",
        "PIL",
        "fontTools",
        "mutagen",
        "pyembroidery",
        "blake3",
        "rich",
        "shtab",
        "httpx",
        "rapidfuzz",
        "scipy",
    }
    late = {
        "model.py",
        "inference.py",
        "chain.py",
        "reading.py",
    }  # whole modules of arithmetic, which are imported where they are used
    for path in FILES:
        top = {n.names[0].name.split(".")[0] for n in ast.parse(path.read_text()).body if isinstance(n, ast.Import)}
        top |= {
            (n.module or "").split(".")[0] for n in ast.parse(path.read_text()).body if isinstance(n, ast.ImportFrom)
        }
        assert not top & heavy or path.name in late, path
