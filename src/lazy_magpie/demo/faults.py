"""Faults planted in the demo, one or two for each rule of `check`, with the list that says what is to be found.

They lie on the shelves of a demo that is tidy already, or beside them; each is real: files that are cut off, songs
whose tags contradict, links to nowhere.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from lazy_magpie.demo import craft_files, media
from lazy_magpie.paths import written

LIST = "faults.csv"
"""The file in the collection that says which faults were planted."""
SETTINGS = """
# Standards, and a player that reads less than others: “magpie check” says what does not meet them.
[standard.track]
bitrate = "96k"
[standard.movie]
subtitles = ["en", "fr", "de"]
[player.stick]
lines = "up to 100"
beside = ["subtitles", "cover", "backdrop", "thumbnail", "info", "cue", "chart", "instructions", "licence"]
"""
"""What magpie.toml says besides where faults are planted."""

_TIDY, _HELD = "tidy files it", "it is taken away, into the holding area"
Maker = Callable[[Path], None]


class Fault(NamedTuple):
    """What a rule is to find at a path, with what mends it ("": a person decides), and the files that make it so."""

    rule: str
    path: str
    fix: str
    files: dict[str, Maker]


def _film(height: int = 72) -> Maker:
    return lambda path: media.film(path, height)


def _song(kilobits: int, **tags: str) -> Maker:
    def make(path: Path) -> None:
        media.song(path, kilobits)
        media.retag(path, tags)

    return make


def _text(text: str) -> Maker:
    return _data(text.encode())


def _data(data: bytes) -> Maker:
    def make(path: Path) -> None:
        path.write_bytes(data)

    return make


def _cut(path: Path) -> None:
    media.film(path)
    path.write_bytes(path.read_bytes()[:40])


def _picture(path: Path) -> None:
    path.write_bytes(craft_files.picture_bytes(path.name))


def _renamed(path: Path) -> None:
    """Make a film that says to be something else than it is."""
    real = path.with_suffix(".mkv")
    media.film(real)
    real.rename(path)


def _font(path: Path) -> None:
    craft_files.font(path, 99, licence="")


def _link(path: Path) -> None:
    path.symlink_to("Films 2019/gone")


_SUBTITLE = _text("1\n00:00:00,000 --> 00:00:01,000\nThe line is cut.\n")
FAULTS = (
    Fault("unreadable", "Films/Cut Short (1971)/Cut Short (1971).mkv", "", {
        "Films/Cut Short (1971)/Cut Short (1971).mkv": _cut,
    }),
    Fault("player", "Films/High Tide (1972)/High Tide (1972).mkv", "", {
        "Films/High Tide (1972)/High Tide (1972).mkv": _film(144),
    }),
    Fault("beside", "Films/Long Reach (1973)/Long Reach (1973)-banner.jpg", "", {
        "Films/Long Reach (1973)/Long Reach (1973).mkv": _film(),
        "Films/Long Reach (1973)/Long Reach (1973)-banner.jpg": _picture,
    }),
    Fault("missing-part", "Films/Two Ends (1974)/Two Ends (1974) - part 1.avi", "", {
        "Films/Two Ends (1974)/Two Ends (1974) - part 1.avi": _film(),
        "Films/Two Ends (1974)/Two Ends (1974) - part 3.avi": _film(),
    }),
    Fault("lost-reference", "Music/Ida Marrow/Low Lights (2009)/Low Lights.m3u", "", {
        "Music/Ida Marrow/Low Lights (2009)/Low Lights.m3u": _text("04 - Never Recorded.flac\n"),
    }),
    Fault("wrong-shelf", "Films/Spring Line S01E01.mkv", _TIDY, {"Films/Spring Line S01E01.mkv": _film()}),
    Fault("in-doubt", "Films/Bare Poles.mkv", "", {"Films/Bare Poles.mkv": _film()}),
    Fault("in-doubt", "Films/Neap Days (1976)/Neap Days (1977).mkv", "", {
        "Films/Neap Days (1976)/Neap Days (1977).mkv": _film(),
    }),
    Fault("wrong-ending", "Films/Odd One (1978)/Odd One (1978).avi", "it becomes", {
        "Films/Odd One (1978)/Odd One (1978).avi": _renamed,
    }),
    Fault("missing-episode", "Series/Quay 28/Season 01/Quay 28 S01E01.mkv", "", {
        "Series/Quay 28/Season 01/Quay 28 S01E01.mkv": _film(),
        "Series/Quay 28/Season 01/Quay 28 S01E04.mkv": _film(),
    }),
    Fault("title-twice", "Films/Kelp Twice (1979) - copy/Kelp Twice (1979).avi", "", {
        "Films/Kelp Twice (1979)/Kelp Twice (1979).mkv": _film(),
        "Films/Kelp Twice (1979) - copy/Kelp Twice (1979).avi": _film(),
    }),
    Fault("song-tags", "Music/Ida Marrow/Slack/03 - Long Pull.mp3", "", {
        "Music/Ida Marrow/Slack/01 - Rope Walk.mp3": _song(128),
        "Music/Ida Marrow/Slack/03 - Long Pull.mp3": _song(128, tracknumber="2"),
    }),
    Fault("wrong-folder", "Series/Quay 27/Quay 27 S01E03.mkv", _TIDY, {"Series/Quay 27/Quay 27 S01E03.mkv": _film()}),
    Fault("wrong-name", "Series/Quay 27/Season 01/quay 27 1x4.mkv", _TIDY, {
        "Series/Quay 27/Season 01/quay 27 1x4.mkv": _film(),
    }),
    Fault("not-filed", "New/Fog Signal (1980).mkv", _TIDY, {"New/Fog Signal (1980).mkv": _film()}),
    Fault("empty", "Films/Blank (1981)/Blank (1981).mkv", _HELD, {"Films/Blank (1981)/Blank (1981).mkv": _data(b"")}),
    Fault("unsafe-name", "Club/What now?.txt", "it becomes", {"Club/What now?.txt": _text("Nobody knows.\n")}),
    Fault("same-but-for-case", "Club/minutes.TXT", "", {
        "Club/Minutes.txt": _text("One kite was lost.\n"), "Club/minutes.TXT": _text("None was.\n"),
    }),
    Fault("number-style", "Club/Lessons/Lesson 2", "", {
        f"Club/Lessons/Lesson {number}/notes.txt": _text(f"Knots {number}.\n") for number in ("01", "2", "03")
    }),
    Fault("spelling", "Music/The Pier-heads/Slipway/01 - Winch.mp3", "", {
        "Music/The Pier-heads/Slipway/01 - Winch.mp3": _song(128),
    }),
    Fault("below-standard", "Music/Ida Marrow/Thin (2012)/01 - Thin.mp3", "", {
        "Music/Ida Marrow/Thin (2012)/01 - Thin.mp3": _song(32),
    }),
    Fault("subtitle-language", "Films/Polder (1982)/Polder (1982).mkv", "", {
        "Films/Polder (1982)/Polder (1982).mkv": _film(), "Films/Polder (1982)/Polder (1982).nl.srt": _SUBTITLE,
    }),
    Fault("shared-subtitle", "Films/Ropes (1983)/English.srt", "", {
        "Films/Ropes (1983)/Ropes (1983) - Extended.mkv": _film(),
        "Films/Ropes (1983)/Ropes (1983).mkv": _film(90),
        "Films/Ropes (1983)/English.srt": _SUBTITLE,
    }),
    Fault("no-preview", "Kits/Fennick Paper Co/Net Loft/elements/cork.png", "", {
        f"Kits/Fennick Paper Co/Net Loft/elements/{name}.png": _picture for name in ("cork", "needle", "twine")
    }),
    Fault("no-licence", "Fonts/Halyard/Halyard-Regular.ttf", "", {"Fonts/Halyard/Halyard-Regular.ttf": _font}),
    Fault("unfinished", "New/half a film.mkv.part", "", {"New/half a film.mkv.part": _data(b"half")}),
    Fault("lone-companion", "Papers/Old/Nobody.en.srt", "", {"Papers/Old/Nobody.en.srt": _SUBTITLE}),
    Fault("dead-link", "Club/last year", "", {"Club/last year": _link}),
    Fault("sample", "Films/Fair Lead (1984)/Sample/fair.lead.sample.mkv", _HELD, {
        "Films/Fair Lead (1984)/Fair Lead (1984).mkv": _film(),
        "Films/Fair Lead (1984)/Sample/fair.lead.sample.mkv": _film(),
    }),
    Fault("empty-folder", "Club/Nothing here", "the folder is removed", {}),
    Fault("junk", "Club/Thumbs.db", _HELD, {"Club/Thumbs.db": _data(b"\xd0\xcf\x11\xe0")}),
)  # fmt: skip


def plant(folder: Path) -> int:
    """Plant the faults in a demo collection, with the list of them; return how many."""
    for fault in FAULTS:
        for name, make in fault.files.items():
            path = folder / name
            path.parent.mkdir(parents=True, exist_ok=True)
            make(path)
        if not fault.files:
            (folder / fault.path).mkdir(parents=True)
    rows = io.StringIO()
    table = csv.writer(rows, lineterminator="\n")
    table.writerow(("rule", "path", "fix"))
    table.writerows((fault.rule, written(fault.path), fault.fix) for fault in FAULTS)
    (folder / LIST).write_text(rows.getvalue(), encoding="utf-8")
    config = folder / "magpie.toml"
    if config.exists():
        with config.open("a", encoding="utf-8") as file:
            file.write(SETTINGS)
    return len(FAULTS)
