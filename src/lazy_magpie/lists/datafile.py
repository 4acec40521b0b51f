"""Reads the XML that publishers of sets share: a `datafile` with a `header`, then sets with their files.

    <datafile>
      <header><name>…</name><description>…</description><version>…</version><date>…</date></header>
      <game name="…" cloneof="…">
        <description>…</description>
        <rom name="…" size="…" crc="…" md5="…" sha1="…" sha256="…" status="baddump"/>
        <disk name="…" sha1="…"/>
      </game>
    </datafile>

It is read in pieces, in flat memory, whatever its size. Entities are refused, and nothing outside is ever asked for.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import IO
from xml.parsers import expat

from lazy_magpie.lists.checks import ListError, checked, crc, digest, number, set_of
from lazy_magpie.lists.disc_images import DISC_IMAGES
from lazy_magpie.model.reference import BAD, MISSING, ListedFile, ListedSet, ListHeader

_PIECE = 1 << 18
_LONGEST_MARK = 1 << 24
"""Bytes that a single tag or text may take: far more than any name."""
_LONGEST_TEXT = 1 << 12
_HEADER = {"name": "name", "description": "about", "version": "version", "date": "date"}
_STATUS = {"baddump": BAD, "nodump": MISSING}
_DISC = DISC_IMAGES[0].ending
"""Lists give discs no ending: it is that of the format that carries their digests."""
_FILES = frozenset(["rom", "disk"])


class _Reader:
    """Takes what the parser meets, and gathers whole sets."""

    def __init__(self, path: str) -> None:
        self.path = path
        self.parser = expat.ParserCreate()
        self.parser.buffer_text = True
        self.parser.StartElementHandler = self._start
        self.parser.EndElementHandler = self._end
        self.parser.EntityDeclHandler = self._entity
        self.done: list[ListHeader | ListedSet] = []
        self._above: list[str] = []
        self._header: dict[str, str] = {}
        self._has_header = False
        self._set: dict[str, str] = {}
        self._line = 0
        self._about: list[str] = []
        self._text: list[str] = []
        self._files: list[ListedFile] = []

    def feed(self, data: bytes, *, last: bool = False) -> None:
        """Read a further piece. Raises ListError."""
        try:
            self.parser.Parse(data, last)
        except expat.ExpatError as error:
            what = expat.errors.messages.get(error.code, "it is damaged")
            raise ListError(self.path, error.lineno, f"this is no XML that can be read: {what}.") from None

    def _entity(self, *_: object) -> None:
        self._wrong("it declares an entity, which no list needs; the list is not read.")

    def _wrong(self, what: str) -> None:
        raise ListError(self.path, self.parser.CurrentLineNumber, what)

    def _start(self, name: str, attributes: dict[str, str]) -> None:
        depth = len(self._above)
        self._above.append(name)
        if depth == 0:
            if name != "datafile":
                self._wrong(f"the list begins with <{name[:40]}>, not with <datafile>.")
        elif depth == 1:
            self._begin(name, attributes)
        elif depth == 2:
            if name in _FILES:
                if self._set:
                    self._file(name, attributes)
            elif name == "description" or (self._above[1] == "header" and name in _HEADER):
                self._text = []
                self.parser.CharacterDataHandler = self._take

    def _take(self, text: str) -> None:
        if sum(map(len, self._text)) < _LONGEST_TEXT:
            self._text.append(text[:_LONGEST_TEXT])

    def _begin(self, name: str, attributes: dict[str, str]) -> None:
        """Begin the header or a set."""
        self._about = []
        if name == "header":
            return
        self.finish_header()
        if "name" not in attributes:
            self._wrong(f"a <{name[:40]}> has no name; correct the list.")
        self._set, self._line, self._files = attributes, self.parser.CurrentLineNumber, []

    def finish_header(self) -> None:
        """Hand the header over, once: before the first set, or at the end."""
        if not self._has_header:
            self._has_header = True
            self.done.append(ListHeader(**self._header))

    def _file(self, kind: str, attributes: dict[str, str]) -> None:
        path, line = self.path, self.parser.CurrentLineNumber
        get = attributes.get
        if "name" not in attributes:
            self._wrong(f"a <{kind}> has no name; correct the list.")
        size, sum32, md5, sha1, sha256 = map(get, ("size", "crc", "md5", "sha1", "sha256"))
        self._files.append(
            ListedFile(
                checked(path, line, "file", attributes["name"] + (_DISC if kind == "disk" else "")),
                number(path, line, size) if size else -1,
                crc(path, line, sum32) if sum32 else None,
                digest(path, line, "md5", md5) if md5 else b"",
                digest(path, line, "sha1", sha1) if sha1 else b"",
                digest(path, line, "sha256", sha256) if sha256 else b"",
                _STATUS.get(get("status", ""), ""),
            )
        )

    def _end(self, name: str) -> None:
        self._above.pop()
        depth = len(self._above)
        if depth == 2 and self.parser.CharacterDataHandler:
            self.parser.CharacterDataHandler = None
            text = " ".join("".join(self._text).split())
            if self._above[1] == "header":
                self._header[_HEADER.get(name, "about")] = text
            else:
                self._about = [text]
        elif depth == 1 and self._set:
            one = ListedSet(
                checked(self.path, self._line, "set", self._set["name"]),
                tuple(self._files),
                self._about[0] if self._about else "",
                self._set.get("cloneof", ""),
                self._line,
                in_folder=len(self._files) > 1 or any(file.name.endswith(_DISC) for file in self._files),
            )
            self.done.append(set_of(self.path, self._line, one))
            self._set = {}


def read(path: str, file: IO[bytes]) -> Iterator[ListHeader | ListedSet]:
    """Yield the header of a list, then its sets. Raises ListError with the line of what is wrong."""
    reader = _Reader(path)
    given = 0
    while piece := file.read(_PIECE):
        given += len(piece)
        reader.feed(piece)
        yield from reader.done
        reader.done.clear()
        if given - max(reader.parser.CurrentByteIndex, 0) > _LONGEST_MARK:
            raise ListError(path, reader.parser.CurrentLineNumber, "a single tag is longer than any list needs.")
    reader.feed(b"", last=True)
    reader.finish_header()
    yield from reader.done
