"""Facts of tracker modules, which hold notes and samples: ProTracker (MOD), S3M, XM, IT.

| fact | what it is |
|---|---|
| header_title | the title as the module says it |
| length | seconds until it ends or comes back to a row that was played, by its orders and its effects of speed |
| channels | how many, where the format says so |

The layouts are those that the makers of the formats wrote down with them: Scream Tracker 3's TECH.DOC, FastTracker 2's
XM.TXT, Impulse Tracker's ITTECH.TXT. All are read to one shape, which is played without sound.
"""

from __future__ import annotations

import functools
import re
import struct
from collections.abc import Callable, Sequence
from contextlib import suppress
from typing import NamedTuple

from lazy_magpie.model import Value

ENDINGS = frozenset(".mod .s3m .xm .it".split())
_LARGEST = 64 << 20
_CHANNELS = re.compile(rb"(\d{1,2})CH[NS]?")
_FOUR = (b"M.K.", b"M!K!", b"FLT4", b"N.T.")
_SPEED, _TEMPO, _JUMP, _BREAK, _LOOP, _DELAY = range(6)
"""Effects that change how long a module lasts: ticks a row, beats a minute, to another order, to a row of the next one,
a part of a pattern again, a row that lasts longer."""
_END, _SKIP = 255, 254
"""Orders that are no patterns, in S3M and IT."""
_TICK = 2.5
"""Seconds of a tick at one beat a minute."""
_MOST_ROWS = 200_000

Row = list[tuple[int, int, int]]
"""Effects of a row: which channel, which effect, its number."""


class Score(NamedTuple):
    """What has to be known to say how long a module lasts."""

    orders: Sequence[int]
    pattern: Callable[[int], Sequence[Row]]
    """The rows of a pattern. Raises struct.error and IndexError where it is cut off."""
    speed: int
    tempo: int


def read(path: str) -> dict[str, Value]:
    """Return the facts of the module at `path`. Raises ValueError for what is none."""
    with open(path, "rb") as file:
        data = file.read(_LARGEST)
    for is_one, read_one in _FORMATS:
        if is_one(data):
            title, channels, score = read_one(data)
            return _facts(title, channels, score)
    raise ValueError("no module of notes and samples that is known")


def _facts(title: bytes, channels: int, score: Callable[[], Score]) -> dict[str, Value]:
    text = " ".join(title.split(b"\0")[0].decode("cp437", "replace").split())
    facts: dict[str, Value] = {"header_title": text} if any(c.isalnum() for c in text) else {}
    facts |= {"channels": channels} if channels else {}
    with suppress(struct.error, IndexError):  # cut off within its notes: what it is called is known all the same
        if seconds := length_of(score()):
            facts["length"] = round(seconds, 1)
    return facts


def length_of(score: Score) -> float:
    """Return how many seconds a module is played until it ends or comes back; raises as its patterns do."""
    player = _Player(score)
    for _ in range(_MOST_ROWS):
        if not player.goes_on():
            break
    return player.seconds


class _Player:
    """Where a module is being played, and how fast."""

    def __init__(self, score: Score) -> None:
        self.seconds = 0.0
        self._orders, self._rows_of = score.orders, functools.cache(score.pattern)
        self._ticks, self._tempo = score.speed or 6, score.tempo or 125
        self._at = self._row = 0
        self._played: set[tuple[int, int]] = set()
        self._loops: dict[int, tuple[int, int]] = {}
        """Of each channel the row that its loop begins with, and how often it is still to be played."""

    def goes_on(self) -> bool:
        """Play a row; say whether there was one that had not been played."""
        while self._at < len(self._orders) and self._orders[self._at] != _END:
            order = self._orders[self._at]
            rows = self._rows_of(order) if order != _SKIP else ()
            if self._row < len(rows):
                if (self._at, self._row) in self._played:
                    return False
                self._play(rows[self._row])
                return True
            self._go(self._at + 1, 0)
        return False

    def _play(self, row: Row) -> None:
        self._played.add((self._at, self._row))
        jump = into = again = -1
        delay = 0
        for channel, effect, number in row:
            if effect == _SPEED:
                self._ticks = number or self._ticks
            elif effect == _TEMPO:
                self._tempo = number
            elif effect == _JUMP:
                jump = number
            elif effect == _BREAK:
                into = number
            elif effect == _DELAY:
                delay = delay or number
            else:
                again = max(again, self._loop(channel, number))
        self.seconds += self._ticks * (1 + delay) * _TICK / self._tempo
        if again >= 0:
            self._played -= {(self._at, one) for one in range(again, self._row + 1)}
            self._row = again
        elif jump >= 0 or into >= 0:
            self._go(jump if jump >= 0 else self._at + 1, max(into, 0))
        else:
            self._row += 1

    def _loop(self, channel: int, times: int) -> int:
        """Return the row that a loop goes back to, -1 where it begins or has ended."""
        start, left = self._loops.get(channel, (0, -1))
        if not times:
            self._loops[channel] = (self._row, left)
            return -1
        left = times if left < 0 else left
        self._loops[channel] = (start, left - 1) if left else (self._row + 1, -1)
        return start if left else -1

    def _go(self, at: int, row: int) -> None:
        self._at, self._row = at, row
        self._loops = {}


Read = tuple[bytes, int, Callable[[], Score]]
"""The title, the number of channels (0 where it is not told), and what reads the rest."""
_OF_MOD_MORE = {0x6: _LOOP, 0xE: _DELAY}
_FIRST_TEMPO = 0x20
"""What the one effect for both means: below it the speed, from it on the tempo."""


def _mod_effect(effect: int, number: int) -> tuple[int, int] | None:
    """Return what an effect of MOD and XM means, None where it has nothing to do with time."""
    if effect == 0xF:
        return (_SPEED, number) if number < _FIRST_TEMPO else (_TEMPO, number)
    if effect == 0xE and number >> 4 in _OF_MOD_MORE:
        return _OF_MOD_MORE[number >> 4], number & 0xF
    if effect == 0xD:
        return _BREAK, (number >> 4) * 10 + (number & 0xF)
    return (_JUMP, number) if effect == 0xB else None


def _mod(data: bytes) -> Read:
    mark = data[1080:1084]
    channels = 4 if mark in _FOUR else int(mark[:2].rstrip(b"CHN"))
    size = 64 * channels * 4

    def pattern(number: int) -> list[Row]:
        cells = data[1084 + number * size : 1084 + (number + 1) * size]
        if len(cells) < size:
            raise IndexError("cut off")
        rows: list[Row] = [[] for _ in range(64)]
        for at in range(0, size, 4):
            if told := _mod_effect(cells[at + 2] & 0xF, cells[at + 3]):
                rows[at // 4 // channels].append((at // 4 % channels, *told))
        return rows

    return data[:20], channels, lambda: Score(data[952 : 952 + data[950]], pattern, 6, 125)


def _xm(data: bytes) -> Read:
    (channels,) = struct.unpack_from("<H", data.ljust(70, b"\0"), 68)

    def score() -> Score:
        size, length, _, _, count, _, _, speed, tempo = struct.unpack_from("<I8H", data, 60)
        places = []
        at = 60 + size
        for _ in range(count):
            head, _, rows, packed = struct.unpack_from("<IBHH", data, at)
            places.append((at + head, rows, packed))
            at += head + packed
        orders = data[80 : 80 + min(length, 256)]

        def pattern(number: int) -> list[Row]:
            start, rows, packed = places[number] if number < len(places) else (0, 64, 0)
            return _xm_rows(data[start : start + packed], rows, channels)

        return Score(orders, pattern, speed, tempo)

    return data[17:37], channels, score


def _xm_rows(cells: bytes, count: int, channels: int) -> list[Row]:
    rows: list[Row] = [[] for _ in range(count)]
    at = cell = 0
    while at < len(cells) and cell < count * channels:
        has = cells[at] & 0x1F if cells[at] & 0x80 else 0x1F
        at += cells[at] >> 7
        values = [0] * 5
        for bit in range(5):
            if has >> bit & 1:
                values[bit] = cells[at]
                at += 1
        if told := _mod_effect(values[3], values[4]):
            rows[cell // channels].append((cell % channels, *told))
        cell += 1
    return rows


def _letter_effect(effect: int, number: int, *, decimal: bool) -> tuple[int, int] | None:
    """Return what an effect of S3M and IT means (A is 1), None where it has nothing to do with time."""
    if effect == 1:
        return _SPEED, number
    if effect == 2:
        return _JUMP, number
    if effect == 3:
        return _BREAK, (number >> 4) * 10 + (number & 0xF) if decimal else number
    if effect == 19 and number >> 4 in (0xB, 0xE):
        return (_LOOP if number >> 4 == 0xB else _DELAY), number & 0xF
    return (_TEMPO, number) if effect == 20 and number >= _FIRST_TEMPO else None


def _s3m(data: bytes) -> Read:
    def score() -> Score:
        orders, instruments, patterns = struct.unpack_from("<3H", data, 32)
        places = struct.unpack_from(f"<{patterns}H", data, 96 + orders + 2 * instruments)

        def pattern(number: int) -> list[Row]:
            place = places[number] * 16 if number < len(places) else 0
            return _s3m_rows(data, place + 2) if place else [[]] * 64

        return Score(data[96 : 96 + orders], pattern, data[49], data[50])

    return data[:28], sum(one < 16 for one in data[64:96]), score


def _s3m_rows(data: bytes, at: int) -> list[Row]:
    rows: list[Row] = [[]]
    while len(rows) <= 64:
        what = data[at]
        at += 1
        if not what:
            rows.append([])
            continue
        at += 2 * (what >> 5 & 1) + (what >> 6 & 1)
        if what & 0x80:
            if told := _letter_effect(data[at], data[at + 1], decimal=True):
                rows[-1].append((what & 31, *told))
            at += 2
    return rows[:64]


def _it(data: bytes) -> Read:
    def score() -> Score:
        orders, instruments, samples, patterns = struct.unpack_from("<4H", data, 32)
        places = struct.unpack_from(f"<{patterns}I", data, 192 + orders + 4 * (instruments + samples))

        def pattern(number: int) -> list[Row]:
            place = places[number] if number < len(places) else 0
            return _it_rows(data, place) if place else [[]] * 64

        return Score(data[192 : 192 + orders], pattern, data[50], data[51])

    return data[4:30], 0, score


def _it_rows(data: bytes, at: int) -> list[Row]:
    _, count = struct.unpack_from("<HH", data, at)
    at += 8
    rows: list[Row] = [[]]
    masks, last = [0] * 64, [(0, 0)] * 64
    while len(rows) <= count:
        what = data[at]
        at += 1
        if not what:
            rows.append([])
            continue
        channel = (what - 1) & 63
        if what & 0x80:
            masks[channel] = data[at]
            at += 1
        mask = masks[channel]
        at += (mask & 1) + (mask >> 1 & 1) + (mask >> 2 & 1)
        if mask & 8:
            last[channel] = data[at], data[at + 1]
            at += 2
        if mask & 0x88 and (told := _letter_effect(*last[channel], decimal=False)):
            rows[-1].append((channel, *told))
    return rows[:count]


_FORMATS: Sequence[tuple[Callable[[bytes], bool], Callable[[bytes], Read]]] = (
    (lambda data: data.startswith(b"Extended Module: "), _xm),
    (lambda data: data.startswith(b"IMPM"), _it),
    (lambda data: data[44:48] == b"SCRM", _s3m),
    (lambda data: data[1080:1084] in _FOUR or bool(_CHANNELS.fullmatch(data[1080:1084])), _mod),
)
"""What a module of each format is known by, and what reads it."""
