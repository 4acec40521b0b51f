"""What zip archives say of themselves (PKWARE APPNOTE 6.3): their directory at a glance, names, volumes."""

from __future__ import annotations

import os
import struct
import zipfile
from collections.abc import Iterable, Sequence
from contextlib import suppress
from typing import IO, NamedTuple

from lazy_magpie.change.run_context import DamagedArchive, Skip

MOST_MEMBERS = 200_000
_LONGEST_DIRECTORY = 128 << 20
_END_MARK, _FAR_MARK, _ENTRY_MARK = b"PK\5\6", b"PK\6\6", b"PK\1\2"
_END = struct.Struct("<4s4H2LH")
"""The directory's end (4.3.16): mark, disks, members here and in all, bytes and place of the directory, comment."""
_FAR_END = struct.Struct("<4sQ2H2L4Q")
"""The same for large zips (4.3.14): mark, size, versions, disks, members here and in all, bytes and place."""
_FAR = struct.Struct("<4sLQL")
"""Where that one is (4.3.15), in front of the end."""
_ENTRY = struct.Struct("<4s6H3L5H2L")
"""A member in the directory (4.3.12): mark, two versions, flags, method, time, date, CRC, two sizes, lengths of name,
extra and comment, disk, marks inside and outside, place."""
_NAME_LENGTH = 10
"""Where in a member's row the length of its name is; those of extra and comment stand behind it."""
_ENCRYPTED, _UTF8 = 1, 1 << 11
_LINK, _SORT = 0o120000, 0o170000
_MANY, _FAR_SIZE = 0xFFFF, 0xFFFFFFFF


class End(NamedTuple):
    """What the end of a zip says: how many volumes are before this one, and its directory's place in its own volume."""

    volumes: int
    place: int


class Listed(NamedTuple):
    """The files that an archive lists, all in one order: names, sizes in bytes, and CRC-32, None where it has none."""

    names: Sequence[str]
    sizes: Sequence[int]
    crcs: Sequence[int | None]


def glance(file: IO[bytes]) -> Listed | None:
    """Return what the directory of a zip lists, where it is as plain as most are; None where it needs a closer look.

    Plain is: no comment, one volume, nothing before it, no more than 4 GiB, names that are ASCII or marked as UTF-8, no
    link, nothing encrypted. It is several times as quick as the closer look, which a heap of a thousand archives feels.
    """
    size = file.seek(0, os.SEEK_END)
    if size < _END.size:
        return None
    file.seek(size - _END.size)
    mark, disk, first, here, count, length, place, comment = _END.unpack(file.read(_END.size))
    whole = mark == _END_MARK and not (disk or first or comment) and 0 < here == count < MOST_MEMBERS
    if not whole or length > _LONGEST_DIRECTORY or place + length + _END.size != size:
        return None
    file.seek(place)
    try:
        return _listed(file.read(length), count)
    except (struct.error, UnicodeDecodeError):
        return None


def _listed(directory: bytes, count: int) -> Listed | None:
    """Return the members of a whole directory, None where any of them needs a closer look."""
    rows, raw = [], []
    at = 0
    for _ in range(count):
        row = _ENTRY.unpack_from(directory, at)
        start = at + _ENTRY.size
        end = start + row[_NAME_LENGTH]
        at = end + row[_NAME_LENGTH + 1] + row[_NAME_LENGTH + 2]
        rows.append(row)
        raw.append(directory[start:end])
    marks, _, _, flags, _, _, _, crcs, packed, sizes, _, _, _, _, _, outside, _ = zip(*rows, strict=True)
    text = b"\0".join(raw)
    is_plain = set(marks) == {_ENTRY_MARK} and not any(flag & _ENCRYPTED for flag in set(flags))
    has_link = any(map(_marks_a_link, set(outside)))
    is_near = max(sizes) < _FAR_SIZE and max(packed) < _FAR_SIZE and at == len(directory)
    is_text = text.isascii() or all(name.isascii() or flag & _UTF8 for name, flag in zip(raw, flags, strict=True))
    if not is_plain or has_link or not is_near or not is_text:
        return None
    names = text.decode().split("\0")
    if len(names) != count:
        return None
    if b"/\0" in text or text.endswith(b"/"):
        files = [at for at, name in enumerate(names) if name[-1:] != "/"]
        return Listed([names[at] for at in files], [sizes[at] for at in files], [crcs[at] for at in files])
    return Listed(names, sizes, crcs)


def end_of(file: IO[bytes]) -> End:
    """Return what the end of a zip says. Raises Skip where its directory would be far too long to be read."""
    size = file.seek(0, os.SEEK_END)
    start = max(size - _END.size - (1 << 16) - _FAR.size - _FAR_END.size, 0)
    file.seek(start)
    tail = file.read()
    at = tail.rfind(_END_MARK)
    if at < 0 or at + _END.size > len(tail):
        return End(0, 0)
    _, disk, _, _, count, length, place, _ = _END.unpack_from(tail, at)
    far = tail.rfind(_FAR_MARK, 0, at)
    if far >= 0 and far + _FAR_END.size <= len(tail):
        count, length = max(count, _FAR_END.unpack_from(tail, far)[7]), _FAR_END.unpack_from(tail, far)[8]
    if count > MOST_MEMBERS or length > _LONGEST_DIRECTORY:
        raise Skip(f"the archive has more than {MOST_MEMBERS:,} members")
    return End(disk if disk < _MANY else 0, place)


def place_in_volumes(packed: zipfile.ZipFile, place: int, starts: Sequence[int]) -> None:
    """Correct the offsets of a split zip's members for its joined volumes, which begin at `starts`.

    What a member's entry has is its place in its own volume; zipfile takes it for one in the last. `place` is the
    directory's, as the end says it.
    """
    shift = packed.start_dir - place
    for info in packed.infolist():
        if info.volume >= len(starts):
            raise DamagedArchive("the archive is damaged: it names a volume that it does not have")
        info.header_offset += starts[info.volume] - shift
        if hasattr(info, "_end_offset"):  # where the next member begins, of which newer versions make sure
            info._end_offset = None


_OLD = (
    "cp437 cp850 cp852 cp866 cp1250 cp1251 cp1252 cp1253 cp1254 cp932 gb18030 big5 euc_kr koi8_r mac_roman shift_jis"
).split()
"""The encodings that names in old archives may have."""
_SURE_LETTERS = 24
"""So many letters that are no ASCII say which encoding they are in; fewer say too little."""


def encoding_of(infos: Iterable[zipfile.ZipInfo]) -> str:
    """Return the encoding that the names of a zip most likely have that are not marked as UTF-8 (4.4.4), "" for none.

    All of them together are looked at (charset-normalizer); too few letters say nothing.
    """
    raw = b"\n".join(
        info.filename.encode("cp437", "replace")
        for info in infos
        if not info.flag_bits & _UTF8 and not info.filename.isascii()
    )
    if sum(byte > 127 for byte in raw) < _SURE_LETTERS:
        return ""
    with suppress(UnicodeDecodeError):
        raw.decode()
        return "utf-8"
    from charset_normalizer import from_bytes

    best = from_bytes(raw, cp_isolation=_OLD).best()
    return best.encoding if best else ""


def zip_name(info: zipfile.ZipInfo, encoding: str = "") -> str:
    """Return a member's name in the encoding that its archive's names have.

    Where that is not known ("") it is UTF-8 or Shift JIS where it can be, else of Windows where that gives letters,
    else of the first PCs, as the format has it.
    """
    if info.flag_bits & _UTF8 or info.filename.isascii():
        return info.filename
    raw = info.filename.encode("cp437", "replace")
    if encoding:
        with suppress(UnicodeDecodeError):
            return raw.decode(encoding)
    for guess in ("utf-8", "cp932"):
        try:
            text = raw.decode(guess)
        except UnicodeDecodeError:
            continue
        if guess == "utf-8" or any("\u3040" <= letter <= "\u30ff" for letter in text):
            return text
    drawn = any("\u2500" <= letter <= "\u259f" for letter in info.filename)
    return raw.decode("cp1252", "replace") if drawn else info.filename


def is_link(info: zipfile.ZipInfo) -> bool:
    """Say whether a member is a link, as Unix marks it."""
    return _marks_a_link(info.external_attr)


def _marks_a_link(outside: int) -> bool:
    """Say whether what a directory notes of a member for the system outside, as Unix does, is a link."""
    return (outside >> 16) & _SORT == _LINK


def is_encrypted(info: zipfile.ZipInfo) -> bool:
    """Say whether a member can't be read without a password (4.4.4)."""
    return bool(info.flag_bits & _ENCRYPTED)
