"""A disk in memory that a power cut can strike: what was not synced may be lost, in any order.

Every change of a name is an operation that waits until a folder that it concerns is synced; every write waits until
its file is. `power_cut` keeps what was synced and a random part of what waits: an operation survives only if all those
before it that concern the same names or the same file or folder do. Contents that were not synced come back whole, cut
off, full of zeros, or not at all. Renames are whole or not at all, also between folders, as on every file system that
keeps a log.
"""

from __future__ import annotations

import copy
import errno
import io
import os
import random
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from typing import Any

from lazy_magpie.model import FileStatus, FolderAttributes
from lazy_magpie.paths import above, name_of, parent


class PowerCut(Exception):
    """The power is gone."""


@dataclass
class Node:
    """A file, folder or link. `durable` is what of a file's contents is surely on the disk."""

    inode: int
    kind: str
    device: int
    data: bytes = b""
    durable: bytes = b""
    children: dict[str, int] = field(default_factory=dict)
    mode: int = 0o644
    mtime: int = 0
    links: int = 1


Key = tuple[int, str]


@dataclass
class Operation:
    """A change of names that waits to last: how it is done again on another state.

    It hangs on what is in `needs`; where it is lost, what hangs on `marks` is lost too. (folder, name) is an entry,
    (inode, "self") a thing's own being there, (folder, "*") anything in a folder.
    """

    redo: Callable[[dict[int, Node]], None]
    needs: frozenset[Key]
    marks: frozenset[Key]


class SimulatedDisk:
    """The calls of `change.filesystem.access.Filesystem`, in memory.

    Folders in `drives` at the top are drives of their own.
    """

    def __init__(self, drives: tuple[str, ...] = (), seed: int = 0) -> None:
        self.random = random.Random(seed)
        self.nodes: dict[int, Node] = {1: Node(1, "folder", 1, mode=0o755)}
        self.waiting: list[Operation] = []
        self.next_inode = 2
        self.clock = 1_000_000_000
        self.calls_left = -1
        self.fail: Callable[[str, str], None] = lambda call, path: None
        for number, drive in enumerate(drives, start=2):
            self.make_folder(drive)
            self._at(drive).device = number
        self.settle()

    # --- states ------------------------------------------------------------------------------------------------------

    def settle(self) -> None:
        """Make everything last."""
        self.waiting.clear()
        for node in self.nodes.values():
            node.durable = node.data
        self.lasting = copy.deepcopy(self.nodes)

    def power_cut(self) -> None:
        """Forget what did not last, and come back up."""
        state = copy.deepcopy(self.lasting)
        lost: set[Key] = set()
        for operation in self.waiting:
            if lost & operation.needs or self.random.random() < 0.5:
                lost |= operation.marks
            else:
                operation.redo(state)
        for inode, node in state.items():
            live = self.nodes.get(inode)
            if node.kind == "file" and live is not None:
                node.data = self._after_cut(live)
                node.mtime, node.mode = live.mtime, live.mode
        self.nodes = state
        self.calls_left = -1
        self.settle()

    def _after_cut(self, node: Node) -> bytes:
        if node.data == node.durable:
            return node.data
        added = node.data[len(node.durable) :] if node.data.startswith(node.durable) else node.data
        kept = node.durable if node.data.startswith(node.durable) else b""
        match self.random.randrange(4):
            case 0:
                return kept
            case 1:
                return kept + added
            case 2:
                return kept + added[: self.random.randrange(len(added) + 1)]
            case _:
                return kept + bytes(len(added))

    def _tick(self, call: str, path: str) -> None:
        if self.calls_left == 0:
            raise PowerCut
        self.calls_left -= 1
        self.fail(call, path)

    # --- looking -----------------------------------------------------------------------------------------------------

    def _find(self, path: str) -> Node | None:
        node = self.nodes[1]
        for part in path.split("/") if path else ():
            if part not in node.children or node.children[part] not in self.nodes:
                return None
            node = self.nodes[node.children[part]]
        return node

    def _at(self, path: str) -> Node:
        node = self._find(path)
        if node is None:
            raise FileNotFoundError(errno.ENOENT, os.strerror(errno.ENOENT), path)
        return node

    def path(self, path: str) -> str:
        return path

    def status(self, path: str) -> FileStatus | None:
        node = self._find(path)
        if node is None:
            return None
        is_folder = node.kind == "folder"
        size = -1 if is_folder else len(node.data)
        return FileStatus(
            size, node.mtime, node.inode, node.mode, node.device, is_folder, node.kind == "link", node.links
        )

    def names(self, path: str) -> list[str]:
        return list(self._at(path).children)

    def link_text(self, path: str) -> str:
        return self._at(path).data.decode()

    def free(self, path: str) -> int:
        return 1 << 40

    def is_inside(self, folder: str) -> bool:
        return True

    def keeps_inodes(self, device: int) -> bool:
        return True

    def tags(self, path: str) -> tuple[str, ...] | None:
        return None

    def keywords(self, path: str) -> list[str]:
        return []

    def put_keywords(self, path: str, ending: str, words: object) -> None:
        raise AssertionError("this disk has no formats")

    def put_tags(self, path: str, tags: object) -> None:
        raise AssertionError("this disk has no attributes")

    # --- changing names ----------------------------------------------------------------------------------------------

    def _change(self, redo: Callable[[dict[int, Node]], None], inode: int, *entries: Key, empties: int = 0) -> None:
        """Do a change of the names `entries` of the thing `inode`; `empties` is a folder that has to be empty."""
        redo(self.nodes)
        marks: set[Key] = {(inode, "self"), *entries, *((folder, "*") for folder, _ in entries)}
        needs: set[Key] = {(inode, "self"), *entries, *((folder, "self") for folder, _ in entries)}
        if empties:
            needs.add((empties, "*"))
        self.waiting.append(Operation(redo, frozenset(needs), frozenset(marks)))

    def _new(self, path: str, kind: str, data: bytes = b"", mode: int = 0o644) -> Node:
        home = self._at(parent(path))
        name = name_of(path)
        if name in home.children:
            raise FileExistsError(errno.EEXIST, os.strerror(errno.EEXIST), path)
        inode, device, now = self.next_inode, home.device, self._now()
        self.next_inode += 1
        durable = data if kind == "link" else b""

        def redo(state: dict[int, Node]) -> None:
            state[inode] = Node(inode, kind, device, data, durable, mode=mode, mtime=now)
            state[home.inode].children[name] = inode

        self._change(redo, inode, (home.inode, name))
        return self.nodes[inode]

    def _now(self) -> int:
        self.clock += 1
        return self.clock

    def rename(self, source: str, target: str, claimed: object = None) -> None:
        self._tick("rename", source)
        node, old, new = self._at(source), self._at(parent(source)), self._at(parent(target))
        if name_of(target) in new.children:
            raise FileExistsError(errno.EEXIST, os.strerror(errno.EEXIST), target)
        if old.device != new.device or node.device != old.device:
            raise OSError(errno.EXDEV, os.strerror(errno.EXDEV), source)
        before, after, inode = name_of(source), name_of(target), node.inode

        def redo(state: dict[int, Node]) -> None:
            del state[old.inode].children[before]
            state[new.inode].children[after] = inode

        self._change(redo, inode, (old.inode, before), (new.inode, after))

    def make_folder(self, path: str, mode: int = 0o755) -> None:
        self._tick("make_folder", path)
        self._new(path, "folder", mode=mode)

    def drop_folder(self, path: str) -> None:
        self._tick("drop_folder", path)
        node = self._at(path)
        if node.children:
            raise OSError(errno.ENOTEMPTY, os.strerror(errno.ENOTEMPTY), path)
        self._drop(path, node)

    def drop_file(self, path: str) -> None:
        self._tick("drop_file", path)
        self._drop(path, self._at(path))

    def _drop(self, path: str, node: Node) -> None:
        home, name = self._at(parent(path)), name_of(path)

        def redo(state: dict[int, Node]) -> None:
            del state[home.inode].children[name]
            state[node.inode].links -= 1

        self._change(redo, node.inode, (home.inode, name), empties=node.inode if node.kind == "folder" else 0)

    def link(self, source: str, target: str) -> None:
        self._tick("link", target)
        node, home, name = self._at(source), self._at(parent(target)), name_of(target)
        if name in home.children:
            raise FileExistsError(errno.EEXIST, os.strerror(errno.EEXIST), target)
        if home.device != node.device:
            raise OSError(errno.EXDEV, os.strerror(errno.EXDEV), source)

        def redo(state: dict[int, Node]) -> None:
            state[home.inode].children[name] = node.inode
            state[node.inode].links += 1

        self._change(redo, node.inode, (home.inode, name))

    def soft_link(self, text: str, target: str) -> None:
        self._tick("soft_link", target)
        self._new(target, "link", text.encode())

    # --- files -------------------------------------------------------------------------------------------------------

    def open_new(self, path: str) -> Any:
        self._tick("open_new", path)
        return _Handle(self, self._new(path, "file", mode=0o600))

    def append(self, path: str) -> Any:
        self._tick("append", path)
        return _Handle(self, self._find(path) or self._new(path, "file"))

    def open_old(self, path: str) -> Any:
        self._tick("open_old", path)
        node = self._at(path)
        file = io.BytesIO(node.data)
        file.node = node  # type: ignore[attr-defined]
        return file

    def identity(self, file: Any) -> tuple[int, int]:
        return file.node.device, file.node.inode

    def may_change_names(self, folder: str) -> bool:
        return True

    def drives(self) -> dict[str, str]:
        return {name: f"device {node.device}" for name, node in self._devices()}

    def _devices(self) -> Iterator[tuple[str, Node]]:
        for name, inode in self.nodes[1].children.items():
            if self.nodes[inode].device != 1:
                yield name, self.nodes[inode]

    def attributes(self, folder: str) -> FolderAttributes:
        node = self._at(folder)
        return FolderAttributes(mode=node.mode, mtime=node.mtime)

    def set_attributes(self, folder: str, wanted: FolderAttributes) -> str:
        self._at(folder).mode, self._at(folder).mtime = wanted.mode or 0, wanted.mtime or 0
        return ""

    def raw_tags(self, path: str) -> str | None:
        return None

    def truncate(self, path: str, size: int) -> None:
        self._tick("truncate", path)
        node = self._at(path)
        node.data, node.durable = node.data[:size], node.durable[:size]  # what stands before the cut is not touched

    def set_times(self, path: str, mtime: int) -> None:
        self._at(path).mtime = mtime

    def set_mode(self, path: str, mode: int) -> None:
        self._at(path).mode = mode

    def copy_attributes(self, source: str, target: str) -> None:
        old, new = self._at(source), self._at(target)
        new.mode, new.mtime = old.mode, old.mtime

    def is_sparse(self, file: Any) -> bool:
        """Say that no file has holes."""
        return False

    def begin_sync(self, file: Any) -> None:
        """Nothing lasts yet."""

    def sync_file(self, file: _Handle) -> None:
        file.flush()
        self._tick("sync_file", "")
        file.node.durable = file.node.data
        lasting = self.lasting.get(file.node.inode)
        if lasting is not None:
            lasting.durable = lasting.data = file.node.data

    def sync_files(self, paths: Iterable[str]) -> None:
        for path in paths:
            with self.open_old(path) as file:
                self.sync_file(file)

    def sync_folders(self, paths: Iterable[str]) -> None:
        for path in paths:
            self.sync_folder(path)

    def sync_folder(self, path: str) -> None:
        """Make the names in a folder last, and with them all that they hang on."""
        self._tick("sync_folder", path)
        node = self._find(path)
        if node is None:
            return
        needed: set[Key] = {(node.inode, "*")}
        chosen = []
        for operation in reversed(self.waiting):
            if needed & operation.marks:
                needed |= operation.needs
                chosen.append(operation)
        for operation in reversed(chosen):
            operation.redo(self.lasting)
        taken = set(map(id, chosen))
        self.waiting = [operation for operation in self.waiting if id(operation) not in taken]

    # --- for the tests -----------------------------------------------------------------------------------------------

    def put(self, path: str, data: bytes) -> None:
        """Make a file, with the folders above it."""
        for folder in reversed(list(above(path))):
            if self.status(folder) is None:
                self.make_folder(folder)
        self._new(path, "file").data = data

    def walk(self, folder: str = "") -> Iterator[str]:
        """Yield the paths of all there is below a folder."""
        for name in sorted(self._at(folder).children):
            path = f"{folder}/{name}" if folder else name
            yield path
            node = self._find(path)
            if node is not None and node.kind == "folder":
                yield from self.walk(path)


class _Handle(io.RawIOBase):
    """A file open for writing at its end; what is written waits until it is synced."""

    def __init__(self, disk: SimulatedDisk, node: Node) -> None:
        self.disk = disk
        self.node = node

    def writable(self) -> bool:
        return True

    def write(self, data: Any) -> int:
        self.disk._tick("write", "")
        self.node.data += bytes(data)
        self.node.mtime = self.disk._now()
        return len(data)
