"""A collection's life as a state machine: any order of commands and of other hands, and nothing is ever lost."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections import Counter
from pathlib import Path

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from tests.conftest import SHELVES, Collection, picture

NAMES = st.sampled_from(
    [
        "Kelp (2001).mkv", "Kelp.2001.720p.mkv", "Kelp (2001).en.srt", "Dockside S01E01.mkv", "dockside.s01e01.avi",
        "Dockside 2x05 Fog.avi", "poster.jpg", "notes.txt", "Tern 1985.mkv", "Thumbs.db", "Gull (2003) CD1.avi",
    ]
)  # fmt: skip
FOLDERS = st.sampled_from(["", "Heap", "Heap/Kelp (2001)", "Films", "Series/Dockside/Season 1", "Old disk"])


class Life(RuleBasedStateMachine):
    """Rules are what people and magpie do; `contents` counts what must always be there."""

    def __init__(self) -> None:
        super().__init__()
        self.folder = tempfile.mkdtemp()
        self.collection = Collection(Path(self.folder))
        (self.collection.root / "magpie.toml").write_text(SHELVES)
        self.contents: Counter[str] = Counter()
        self.made = 0

    def teardown(self) -> None:
        shutil.rmtree(self.folder)

    def _run(self, *words: str) -> None:
        answer = self.collection.run(*words)
        assert answer.code in (0, 1, 2), (words, answer)
        assert "went wrong" not in answer.err

    @initialize(names=st.lists(st.tuples(FOLDERS, NAMES), min_size=2, max_size=8))
    def begin(self, names: list[tuple[str, str]]) -> None:
        for folder, name in names:
            self.put(folder, name)
        self._run("scan")

    @rule(folder=FOLDERS, name=NAMES)
    def put(self, folder: str, name: str) -> None:
        path = self.collection.root / folder / name
        if not path.exists():
            path.parent.mkdir(parents=True, exist_ok=True)
            self.made += 1
            path.write_text(f"content {self.made}")
            self.contents[f"content {self.made}"] += 1

    @rule(folder=FOLDERS, name=NAMES, data=st.data())
    def move_by_hand(self, folder: str, name: str, data: st.DataObject) -> None:
        files = sorted(self.collection.files())
        target = self.collection.root / folder / name
        if files and not target.exists():
            target.parent.mkdir(parents=True, exist_ok=True)
            os.rename(self.collection.root / data.draw(st.sampled_from(files)), target)

    @rule()
    def scan(self) -> None:
        self._run("scan")

    @rule()
    def tidy(self) -> None:
        self._run("tidy")

    @rule()
    def apply(self) -> None:
        self._run("apply")

    @rule()
    def undo(self) -> None:
        self._run("undo")

    @rule()
    def redo(self) -> None:
        self._run("redo")

    @rule()
    def there_and_back(self) -> None:
        """Whatever is planned now, applied whole and undone at once, leaves all as it was."""
        self._run("scan")
        before = picture(self.collection.root)
        answer = self.collection.run("tidy", "--now", "--json")
        if answer.code in (0, 1) and '"change"' in answer.out:
            assert answer.json["failed"] == []
            self._run("undo")
            assert picture(self.collection.root) == before

    @invariant()
    def everything_is_there(self) -> None:
        root = self.collection.root
        found = Counter((root / path).read_text() for path in self.collection.files())
        held = root / ".magpie/held"
        if held.exists():
            found.update(path.read_text() for path in held.rglob("*") if path.is_file() and path.suffix != ".jsonl")
        assert found == self.contents


Life.TestCase.settings = settings(max_examples=25, stateful_step_count=14, deadline=None)
TestLife = Life.TestCase
