"""Texts that name files by their paths: cue sheets, play lists, checksum lists. They follow the files that move.

| ending | what names a file |
|---|---|
| .cue, .toc | FILE "NAME" … |
| .m3u, .m3u8 | each line that is no comment |
| .pls | FileN=NAME |
| .gdi | the fifth word of each line, in quotes if it has blanks |
| .sfv | all of a line but the sum behind it |
| .md5, .sha1, .sha256, .sha512, MD5SUMS, … | what stands behind each sum, or in brackets: SHA256 (NAME) = … |

Only files on the own root are followed; what names a file elsewhere (a web address, a drive's letter) stays.
"""

from __future__ import annotations

import os
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.model import Plan, Step
from lazy_magpie.model.steps import ArchivePart, Convert, Copy, Move, RewriteText, TextEdit, Unpack, renumbered
from lazy_magpie.paths import above, join, name_of, parent, same_name, split_ending
from lazy_magpie.planners.disk_view import DiskView

LARGEST = 1 << 20
"""Bytes that such a text may have."""
_FILE = r'(?im)^(?P<before>[ \t]*FILE[ \t]+"?)(?P<name>(?<=")[^"\r\n]+|(?<!")[^\s"]+)'
_GDI = r'(?m)^(?P<before>[ \t]*(?:\d+[ \t]+){4}"?)(?P<name>(?<=")[^"\r\n]+|(?<!")[^\s"]+)'
_SUMS = (
    r"(?m)^(?P<before>[ \t\ufeff\\]*[0-9a-fA-F]{32,128}[ \t][ \t*]|[A-Z0-9-]{3,12} \()"
    r"(?P<name>[^\r\n]+?)(?=[ \t]*\r?$|\) = [0-9a-fA-F]{32,128}[ \t]*\r?$)"
)
_FORMS: Mapping[str, re.Pattern[str]] = {
    ".cue": re.compile(_FILE),
    ".toc": re.compile(_FILE),
    ".m3u": re.compile(r"(?m)^(?P<before>[ \t\ufeff]*)(?P<name>[^#\s][^\r\n]*?)(?=[ \t]*\r?$)"),
    ".m3u8": re.compile(r"(?m)^(?P<before>[ \t\ufeff]*)(?P<name>[^#\s][^\r\n]*?)(?=[ \t]*\r?$)"),
    ".pls": re.compile(r"(?im)^(?P<before>[ \t]*File\d+=)(?P<name>[^\r\n]+?)(?=[ \t]*\r?$)"),
    ".gdi": re.compile(_GDI),
    ".sfv": re.compile(r"(?m)^(?P<before>[ \t\ufeff]*)(?P<name>[^;\s][^\r\n]*?)(?=[ \t]+[0-9a-fA-F]{8}[ \t]*\r?$)"),
    **dict.fromkeys((".md5", ".sha1", ".sha256", ".sha512"), re.compile(_SUMS)),
    **dict.fromkeys(("md5sums", "sha1sums", "sha256sums", "sha512sums"), re.compile(_SUMS)),
}
"""By the ending of a text, or its whole name, what names a file in it."""
_ELSEWHERE = re.compile(r"(?i)^(?:[a-z][a-z0-9+.-]*:|[/\\])")
Read = Callable[[str], bytes | None]
"""Returns what a small text holds, None where it can't be read."""
ReadMember = Callable[[str, str, int], bytes | None]
"""Returns the first bytes of a member of an archive, at most so many; None where it can't be read."""


def with_references(catalogue: Catalogue, disk: DiskView, read_member: ReadMember, plan: Plan) -> Plan:
    """Return a plan with the steps by which texts follow what it moves, in place of those that it has for that."""
    steps = [step for step in plan.steps if not isinstance(step, RewriteText)]
    if not any(isinstance(step, Move | Copy | Unpack | Convert) for step in steps):
        return plan
    packed = dict(_packed_texts(steps))
    loose = [path for path in catalogue.files.with_endings(_FORMS) if _is_text(path)]
    loose += [step.source for step in steps if _is_text(step.source)]

    def read(path: str) -> bytes | None:
        if path in packed:
            return read_member(*packed[path], LARGEST)
        status = disk.status(path)
        if status is None or status.is_folder or status.is_link or status.size > LARGEST:
            return None
        try:
            with disk.open_old(path) as file:
                return file.read()
        except OSError:
            return None

    def is_there(path: str) -> bool:
        return disk.status(path) is not None

    texts = list(dict.fromkeys([*loose, *packed]))
    steps += following(steps, texts, read, is_there)
    return replace(plan, steps=renumbered(steps))


def _is_text(path: str) -> bool:
    return _form_of(path) in _FORMS


def _form_of(path: str) -> str:
    """Return the key of a text's form: its ending, or its name where that has none."""
    name = name_of(path).lower()
    return split_ending(name)[1] or name


def _packed_texts(steps: Iterable[Step]) -> Iterator[tuple[str, tuple[str, str]]]:
    """Yield the texts in archives that are unpacked: a path for each, the archive and the member."""
    for part in _parts(steps):
        for member in part.layout:
            if _is_text(member):
                yield join(part.archive, member), (part.archive, member)


def _parts(steps: Iterable[Step]) -> Iterator[ArchivePart]:
    for step in steps:
        if isinstance(step, Unpack):
            yield from step.parts


def named_in(path: str, data: bytes) -> list[str]:
    """Return the paths, on the own root, of the files that a text at `path` names; none where it is no such text."""
    form = _FORMS.get(_form_of(path))
    names = [match["name"] for match in form.finditer(_decoded(data)[0])] if form else []
    inside = [name for name in names if not _ELSEWHERE.match(name)]
    return [os.path.normpath(join(parent(path), name.replace("\\", "/"))) for name in inside]


def following(
    steps: Sequence[Step], texts: Iterable[str], read: Read, is_there: Callable[[str], bool]
) -> list[RewriteText]:
    """Return the steps by which texts follow what steps move: each is replaced by one that names its files anew.

    `texts` are the paths, before the steps, of all that could name a file.
    """
    moves = _Moves(steps)
    found = []
    for old in texts:
        data = read(old)
        if not data:
            continue
        new, (text, encoding) = moves.place_of(old), _decoded(data)
        edits = list(_edits(text, encoding, old, new, moves, is_there))
        if not edits:
            continue
        whole = _edited(data, edits)
        mover = moves.mover_of(old)
        why, group = "the names in it follow", mover.group if mover else ""
        item, bundle = (mover.item, mover.bundle) if mover else (0, 0)
        found.append(
            RewriteText(
                target=new,
                why=why,
                group=group or parent(new) or ".",
                item=item,
                bundle=bundle,
                text=whole,
                edits=tuple(edits),
            )
        )
    return found


class _Moves:
    """Where files are after the steps of a plan."""

    def __init__(self, steps: Sequence[Step]) -> None:
        self._now: dict[str, str] = {}
        self._movers: dict[str, Step] = {}
        self._archives = {part.archive for part in _parts(steps)}
        for step in steps:
            if isinstance(step, Move | Copy | Convert):
                self._put(step.source, step.target, step)
            elif isinstance(step, Unpack):
                for part in step.parts:
                    for member, rest in part.layout.items():
                        self._put(join(part.archive, member), join(step.target, rest), step)
        self._keys = {same_name(source): source for source in self._now}

    def _put(self, source: str, target: str, step: Step) -> None:
        self._now[source] = target
        self._movers[source] = step

    def mover_of(self, path: str) -> Step | None:
        """Return the step that moves a file, None where none does."""
        return self._movers.get(path)

    def place_of(self, path: str) -> str:
        """Return where a file is after all steps: by steps of its own, or with a folder that it lies in."""
        for _ in range(4):  # names aside, and what is unpacked beside its place, take a step more
            source = path if path in self._now else self._keys.get(same_name(path), "")
            folders = (folder for folder in above(path) if folder in self._now and folder not in self._archives)
            source = source or next(folders, "")
            if not source:
                break
            path = self._now[source] + path[len(source) :]
        return path


def _decoded(data: bytes) -> tuple[str, str]:
    """Return a text and its encoding: UTF-8 where it is that, else one byte a letter."""
    try:
        return data.decode(), "utf-8"
    except UnicodeDecodeError:
        return data.decode("latin-1"), "latin-1"


def _edits(
    text: str, encoding: str, old: str, new: str, moves: _Moves, is_there: Callable[[str], bool]
) -> Iterator[TextEdit]:
    """Yield the names in a text that have to follow, in their order; `old` and `new` are where the text lies."""

    def raw(part: str) -> bytes:
        return part.encode(encoding, "surrogateescape")

    at = start = 0
    for match in _FORMS[_form_of(old)].finditer(text):
        name = match["name"]
        before = os.path.normpath(join(parent(old), name.replace("\\", "/")))
        if _ELSEWHERE.match(name) or before.startswith(".."):
            continue
        now = moves.place_of(before)
        if now == before and (parent(new) == parent(old) or not is_there(before)):
            continue
        path = os.path.relpath(now, parent(new) or ".")
        path = path.replace("/", "\\") if "\\" in name else path
        if path == name:
            continue
        start += len(raw(text[at : match.start("name")]))
        at = match.start("name")
        was, becomes = (raw(part).decode("utf-8", "surrogateescape") for part in (name, path))
        yield TextEdit(start, was, becomes, now)


def _edited(data: bytes, edits: Sequence[TextEdit]) -> str:
    """Return a text in which all edits were made; bytes that are not UTF-8 stand in it as surrogates."""
    for one in reversed(edits):
        old, new = (text.encode("utf-8", "surrogateescape") for text in (one.old, one.new))
        data = data[: one.start] + new + data[one.start + len(old) :]
    return data.decode("utf-8", "surrogateescape")
