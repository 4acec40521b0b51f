"""Sizes, lengths and counts as people read them."""

from __future__ import annotations

import datetime
import re
from functools import lru_cache

_NANOSECONDS_A_DAY = 86_400 * 10**9
_FIRST_DAY = datetime.date(1970, 1, 1).toordinal()


def size_text(size: int) -> str:
    """Return bytes as 700M or 4G (1024); at most three digits, one decimal below 10."""
    value = float(max(size, 0))
    for unit in ("", "K", "M", "G", "T"):
        if value < 999.5 or unit == "T":
            return f"{value:.1f}{unit}" if unit and value < 9.95 else f"{value:.0f}{unit}"
        value /= 1024
    raise AssertionError


def bytes_text(size: int) -> str:
    """Return bytes as a sentence has them: `1 byte`, `29 bytes`, `1.5K`."""
    return size_text(size) if size >= _AS_NUMBER else count_text(max(size, 0), "byte")


_AS_NUMBER = 1000


def bitrate_text(bits: int) -> str:
    """Return bits a second as 192k or 4.2M (1000)."""
    value = float(max(bits, 0))
    for unit in ("", "k", "M", "G"):
        if value < 999.5 or unit == "G":
            return f"{value:.1f}{unit}" if unit in ("M", "G") and value < 9.95 else f"{value:.0f}{unit}"
        value /= 1000
    raise AssertionError


def duration_text(seconds: float) -> str:
    """Return seconds as 1:42:07 or 2:05."""
    whole = round(seconds)
    hours, minutes = divmod(whole // 60, 60)
    return f"{hours}:{minutes:02}:{whole % 60:02}" if hours else f"{minutes}:{whole % 60:02}"


def day_text(nanoseconds: int) -> str:
    """Return the day, in UTC, of a time since 1970 as 2019-03-21."""
    return _day(nanoseconds // _NANOSECONDS_A_DAY)


@lru_cache(maxsize=4096)
def _day(number: int) -> str:
    return datetime.date.fromordinal(_FIRST_DAY + number).isoformat()


def now_text(timespec: str = "seconds") -> str:
    """Return this moment as ISO 8601, in UTC."""
    return datetime.datetime.now(datetime.UTC).isoformat(timespec=timespec)


def time_text(moment: str) -> str:
    """Return a moment (ISO 8601) in local time as 2019-03-21 14:05, "" for none."""
    return f"{datetime.datetime.fromisoformat(moment).astimezone():%Y-%m-%d %H:%M}" if moment else ""


def count_text(count: int, one: str, many: str = "") -> str:
    """Return `1 file`, `3 files`, `1,240 files`."""
    return f"{count:,} {one if count == 1 else many or one + 's'}"


_DURATION = re.compile(r"(?i)(\d+(?:\.\d+)?)\s*(s|m|h|d)")
_SECONDS = {"s": 1, "m": 60, "h": 3600, "d": 86_400}


def duration_of(text: str) -> float | None:
    """Return the seconds that a time like 30m, 2h or 30d stands for, None for what is none."""
    match = _DURATION.fullmatch(text.strip())
    return float(match[1]) * _SECONDS[match[2].lower()] if match else None
