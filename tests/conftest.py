"""What the tests share: the program run as a person runs it, small trees, and pictures of a tree to compare."""

from __future__ import annotations

import contextlib
import io
import json
import os
import shutil
import subprocess
import sys
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, settings

from lazy_magpie.cli.main import main
from lazy_magpie.demo import make
from tests.disks import disk, drives

__all__ = ["disk", "drives"]
"""Fixtures that stand with what they are made of."""

settings.register_profile("suite", deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
settings.load_profile("suite")

SHELVES = """[collection]
name = "Test"
unplayable = "file"
leave = ["Backup*"]
[shelf.films]
kind = "movie"
folder = "Films"
[shelf.series]
kind = "episode"
folder = "Series"
"""

CRAFTS = """
[shelf.designs]
kind = "design"
folder = "Designs"
[shelf.fonts]
kind = "font"
folder = "Fonts"
[shelf.music]
kind = "track"
folder = "Music"
naming = "maker"
[shelf.games]
kind = "game"
folder = "Games"
"""
"""Shelves for what makers sell but kits, for songs and games."""

KITS = """
[shelf.kits]
kind = "kit"
folder = "Kits"
[maker."Fennick Paper Co"]
also = ["fpc", "FennickPaper"]
[maker."Needle Jetty"]
also = ["njetty", "NJ"]
"""
"""A shelf for kits, and makers with other spellings."""

CONFIG = SHELVES + CRAFTS + KITS
"""The configuration of the collection that downloads come to."""


@dataclass
class Answer:
    """What a run of the program gave."""

    code: int
    out: str
    err: str

    @property
    def json(self) -> Any:
        """The one JSON object on stdout."""
        return json.loads(self.out)

    @property
    def lines(self) -> list[Any]:
        """The JSON objects on stdout, one a line."""
        return [json.loads(line) for line in self.out.splitlines()]


@dataclass
class Collection:
    """A collection in a temporary folder, and the program on it."""

    root: Path

    def run(self, *words: str) -> Answer:
        """Run a command in this process."""
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main(["-C", str(self.root), *words])
        return Answer(code, out.getvalue(), err.getvalue())

    def ok(self, *words: str, code: int = 0) -> Answer:
        """Run a command and expect this exit code."""
        answer = self.run(*words)
        assert answer.code == code, (words, answer)
        return answer

    def put(self, *paths: str, text: str = "") -> None:
        """Make files, each with its own path as contents unless `text` is given."""
        for path in paths:
            file = self.root / path
            file.parent.mkdir(parents=True, exist_ok=True)
            file.write_text(text or path, errors="surrogateescape")

    def files(self) -> set[str]:
        """Return the paths of all files of the person's."""
        return {path for path, what in picture(self.root).items() if what[0] == "file"} - {"magpie.toml"}


def picture(root: Path) -> dict[str, tuple[object, ...]]:
    """Return all there is below `root` but magpie's own: the bytes of files, times and modes of files and folders."""
    found: dict[str, tuple[object, ...]] = {}
    for top, folders, files in os.walk(root):
        if ".magpie" in folders:
            folders.remove(".magpie")
        for name in (*folders, *files):
            path = os.path.join(top, name)
            status = os.lstat(path)
            sort = "link" if os.path.islink(path) else "folder" if os.path.isdir(path) else "file"
            data = Path(path).read_bytes() if sort == "file" else os.readlink(path) if sort == "link" else b""
            found[os.path.relpath(path, root)] = (sort, data, status.st_mtime_ns, status.st_mode)
    return found


def program(
    *words: str, cwd: Path | None = None, env: dict[str, str] | None = None, text: str = "", seconds: float = 120
) -> Answer:
    """Run the installed `magpie` as a process of its own."""
    command = Path(sys.executable).with_name("magpie")
    run = subprocess.run(
        [command, *words],
        cwd=cwd,
        env={**os.environ, **(env or {})},
        input=text,
        capture_output=True,
        text=True,
        errors="surrogateescape",
        timeout=seconds,
        check=False,
    )
    return Answer(run.returncode, run.stdout, run.stderr)


@pytest.fixture
def tree(tmp_path: Path) -> Callable[..., Collection]:
    """Return a maker of collections: files by path, and the text of magpie.toml."""

    def made(paths: Iterable[str] = (), config: str = SHELVES) -> Collection:
        root = tmp_path / "collection"
        root.mkdir(exist_ok=True)
        (root / "magpie.toml").write_text(config)
        collection = Collection(root)
        collection.put(*paths)
        return collection

    return made


@pytest.fixture(scope="session")
def _demo_made(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("demo") / "demo"
    make(folder)
    return folder


@pytest.fixture
def demo(_demo_made: Path, tmp_path: Path) -> Collection:
    """A fresh copy of the demo collection, with nothing run on it yet."""
    root = tmp_path / "demo"
    subprocess.run(["cp", "-a", str(_demo_made), str(root)], check=True)
    return Collection(root)


@pytest.fixture
def heap(tree: Callable[..., Collection]) -> Collection:
    """Return a collection with shelves and an empty folder of downloads."""
    collection = tree([], CONFIG)
    (collection.root / "Downloads").mkdir()
    collection.ok("scan")
    return collection


Look = Callable[..., Any]
CHROMIUM = shutil.which("chromium") or shutil.which("chromium-browser") or ""
needs_chromium = pytest.mark.skipif(not CHROMIUM, reason="looks at pages in Chromium")


@pytest.fixture(scope="session")
def browser() -> Iterator[Any]:
    """A headless Chromium."""
    from playwright.sync_api import sync_playwright

    with sync_playwright() as started:
        chromium = started.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"])
        yield chromium
        chromium.close()


@pytest.fixture
def look(browser: Any) -> Iterator[Look]:
    """Return what opens a page, and holds at the end that it asked for nothing elsewhere and had no error."""
    opened: list[Any] = []
    wrong: list[str] = []

    def seen(url: str, home: str, **how: Any) -> Any:
        page = browser.new_page(viewport={"width": 1280, "height": 800}, **how)
        page.on("pageerror", lambda error: wrong.append(str(error)))
        page.on("console", lambda line: wrong.append(line.text) if line.type == "error" else None)
        page.on("request", lambda asked: None if asked.url.startswith((home, "data:")) else wrong.append(asked.url))
        page.goto(url)
        opened.append(page)
        return page

    yield seen
    for page in opened:
        page.close()
    assert not wrong


def accessible(page: Any) -> None:
    """Hold that axe-core finds nothing in a page."""
    from axe_core_python.sync_playwright import Axe

    found = Axe().run(page)["violations"]
    assert not found, [(one["id"], [node["html"][:200] for node in one["nodes"][:3]]) for one in found]


@contextlib.contextmanager
def browsing(collection: Collection) -> Iterator[str]:
    """Run `magpie browse` as a process, and yield its address."""
    command = [str(Path(sys.executable).with_name("magpie")), "-C", str(collection.root), "--json", "browse"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as process:
        assert process.stdout
        try:
            yield json.loads(process.stdout.readline())["url"]
        finally:
            process.terminate()
