"""Small disks for tests of the change engine: one, and one with another drive in it; files on them, and steps."""

from __future__ import annotations

import dataclasses
import io
import os
import subprocess
import zipfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from lazy_magpie.change import Filesystem
from lazy_magpie.model import FileStamp, Step, StepKind
from lazy_magpie.step_codec import step_from

Steps = list[Step]


@pytest.fixture
def disk(tmp_path: Path) -> Filesystem:
    (tmp_path / "root" / ".magpie").mkdir(parents=True)
    return Filesystem(str(tmp_path / "root"))


def put(disk: Filesystem, path: str, data: bytes | str = b"") -> FileStamp:
    """Make a file and return how it looks."""
    whole = Path(disk.path(path))
    whole.parent.mkdir(parents=True, exist_ok=True)
    whole.write_bytes(data.encode() if isinstance(data, str) else data or path.encode())
    status = disk.status(path)
    assert status is not None
    return status.stamp


def read(disk: Filesystem, path: str) -> bytes:
    return Path(disk.path(path)).read_bytes()


def step(do: StepKind, source: str = "", target: str = "", seen: FileStamp | None = None, **data: object) -> Step:
    return step_from(do.value, data, number=1, source=source, target=target, why="test", stamp=seen)


def numbered(*steps: Step) -> Steps:
    return [dataclasses.replace(one, number=number) for number, one in enumerate(steps, start=1)]


def zipped(**members: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as packed:
        for name, text in members.items():
            packed.writestr(name.replace("__", "/"), text)
    return out.getvalue()


@pytest.fixture
def drives(disk: Filesystem) -> Iterator[Filesystem]:
    """A disk with a small file system of its own mounted at `two`."""
    os.mkdir(disk.path("two"))
    if (
        os.geteuid()
        or subprocess.run(
            ["mount", "-t", "tmpfs", "-o", "size=4m", "tmpfs", disk.path("two")], capture_output=True, check=False
        ).returncode
    ):
        pytest.skip("only root can mount a second file system")
    yield disk
    subprocess.run(["umount", "-l", disk.path("two")], check=True)
