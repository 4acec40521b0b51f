"""The demo collection: some 150 small real files in one heap, always the same, made without any network."""

from __future__ import annotations

import json
import os
import shutil
import sys
from collections.abc import Callable
from pathlib import Path

from lazy_magpie.demo import craft_files, game_lists, media
from lazy_magpie.demo import scenario as told
from lazy_magpie.identify import identify
from lazy_magpie.paths import written

__all__ = ["TITLES_FILE", "TRUTH", "declare", "make"]

TITLES_FILE = told.TITLES_FILE
TRUTH = "demo-truth.jsonl"
"""The file that says, for every film and episode, where the naming `screen` puts it."""

_SUBTITLE = "1\n00:00:00,000 --> 00:00:01,000\nThe kite is up.\n"
_FIRST_TIME = 1_420_070_400  # 2015-01-01


def make(folder: Path) -> int:
    """Make the collection in the empty or missing `folder` and return how many files it has."""
    _videos(folder)
    _beside(folder)
    _music(folder)
    _crafts(folder)
    _kits(folder)
    _games(folder)
    _listed_games(folder)
    _club(folder)
    _write(folder / told.TITLES_FILE, told.TITLES)
    for copy, original in told.DUPLICATES.items():
        _write(folder / copy, (folder / original).read_bytes())
    _backup(folder)
    for empty in told.EMPTY_FOLDERS:
        (folder / empty).mkdir(parents=True)
    _write_truth(folder)
    _set_times(folder)
    return sum(len(files) for _, _, files in os.walk(folder))


def declare(config: Path) -> None:
    """Declare in a magpie.toml what the demo shows besides: a converter, folders for projects, reference lists."""
    packer = [sys.executable, "-m", "lazy_magpie.demo.disc_packer"]
    ways = {"command": [*packer, "{source}", "{result}"], "back": [*packer, "--extract", "{source}", "{result}"]}
    lines = ["", "# A program that turns discs in parts into one file each: a stand-in that comes with the demo."]
    lines += ["[convert.discs]", 'takes = ["cue"]', 'makes = "gdisc"']
    lines += [f"{key} = {json.dumps(words)}" for key, words in ways.items()]
    lines += ["", "# Folders for work to come.", "[new.project]", 'path = "{number:03} {title}"']
    lines += ['folders = ["Ideas", "Finished"]', 'in = "Projects"']
    lines += ["", "# Reference lists, and where what they list lies."]
    for name, (source, home, *more) in _LISTS.items():
        lines += [f"[list.{name}]", f'file = "{source}"', f'folder = "{home}"', *more]
    lines += ["", "# One of each game is preferred.", "[prefer.game]", 'regions = ["Europe", "World", "USA"]']
    lines += ["", "# The player of the old games shows a game of several discs as one.", "[player.corner]"]
    lines += ['play_lists = ["lantern"]', 'discs = ".discs"', 'folders = { chip8 = "C8", default = "{system}" }']
    lines += [
        'firmware = "bios"',
        "",
        "# What goes to the handheld's card, the sewing machine's stick, the music player.",
    ]
    for name, settings in _TARGETS.items():
        (config.parent / name.title()).mkdir(exist_ok=True)
        lines += [f"[target.{name}]", f'folder = "{name.title()}"', *settings, ""]
    with config.open("a", encoding="utf-8") as file:
        file.write("\n".join(lines))


_LISTS = {
    "reef4": (told.NEWER, "Games/reef4"),
    "wharf": (told.WHARF_LIST, "Games/wharf", 'pack = "zip"'),
    "firmware": (told.FIRMWARE_LIST, "Firmware", 'pack = "loose"', 'kind = "firmware"'),
}


_TARGETS = {
    "card": (
        'player = "corner"',
        "items = 'kind is game preferred is yes not tag is finished'",
        'space = "512K"',
        'unit = "4K"',
        'order = ["system is chip8", "newest"]',
        'archives = "unpack"',
    ),
    "stick": ('items = "kind is design"', 'formats = ["pes", "dst", "make"]', 'hoop = "130x180"', "short = true"),
    "player": ('items = "kind is track"', 'leave = "100M"'),
}


def _write(path: Path, data: bytes | str) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(data.encode() if isinstance(data, str) else data)


def _made(path: Path, maker: Callable[..., None], *args: object) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    maker(path, *args)


def _videos(folder: Path) -> None:
    for name in (*told.VIDEOS, *told.EXTRAS):
        path = folder / name
        if path.name == "VIDEO_TS":
            for part in ("VIDEO_TS.IFO", "VTS_01_0.IFO"):
                _write(path / part, b"DVDVIDEO-VMG" + bytes(500))
            _made(path / "VTS_01_1.VOB", media.film, 96)
        else:
            _made(path, media.film, 90 if "90p" in name else 72)


def _beside(folder: Path) -> None:
    for name in told.BESIDE:
        path = folder / name
        match path.suffix:
            case ".srt":
                _write(path, _SUBTITLE)
            case ".jpg":
                _write(path, craft_files.picture_bytes(name))
            case ".nfo":
                _write(path, "Packed for the film evening.\n")
            case _:
                _write(path, b"\0" * 64)


def _music(folder: Path) -> None:
    for name, kilobits in told.SONGS.items():
        if kilobits < 0:
            _write(folder / name, craft_files.picture_bytes(name))
        else:
            _made(folder / name, media.song, kilobits)


def _crafts(folder: Path) -> None:
    for name, width in told.FONTS.items():
        _made(folder / name, craft_files.font, width)
    for home, endings in told.DESIGNS.items():
        title = Path(home).name
        for ending in endings:
            _made(folder / home / f"{title}.{ending}", craft_files.design, title)
        craft_files.chart(folder / home / f"{title} colour chart.pdf", title)
        _write(folder / home / f"{title}.png", craft_files.picture_bytes(f"{title}.png"))
    for letter in told.STITCH_LETTERS:
        _made(folder / told.STITCH_FONT / f"{letter}.dst", craft_files.design, letter)


def _kits(folder: Path) -> None:
    for name, members in told.KIT_PARTS.items():
        path = folder / "Downloads" / name
        _made(path, craft_files.archive, [(member, craft_files.picture_bytes(member)) for member in members])
    for home, pictures in told.KIT_FOLDER.items():
        for name in pictures:
            _write(folder / home / name, craft_files.picture_bytes(name))


def _games(folder: Path) -> None:
    for name in told.CHIP8_GAMES:
        _write(folder / name, craft_files.chip8_game(name))
    for name in told.CARTRIDGES:
        _write(folder / name, craft_files.cartridge(Path(name).stem))
    for number in range(1, told.DISCS + 1):
        home = f"{told.DISC_GAME} (Disc {number})"
        image, track = craft_files.disc(f"TRAWLER_SAGA_{number}")
        _write(folder / f"{home}.bin", image)
        _write(folder / f"{home}.cue", f'FILE "{Path(home).name}.bin" BINARY\n{track}')


def _listed_games(folder: Path) -> None:
    """Make the games that reference lists have, with the lists: renamed, damaged, packed wrongly, inside an archive."""
    data = {name: craft_files.cartridge(name) for name in (*told.REEF, *told.FIRMWARE.values())}
    data |= {name: craft_files.cartridge(name) for names in told.WHARF.values() for name in names}
    newer = [game_lists.Game(name, {f"{name}.rf4": data[name]}, parent) for name, (_, parent) in told.REEF.items()]
    older = [game_lists.Game(old, {f"{old}.rf4": data[name]}, "") for name, (old, _) in told.REEF.items()]
    wharf = [game_lists.Game(name, {file: data[file] for file in files}, "") for name, files in told.WHARF.items()]
    firmware = [game_lists.Game(name, {file: data[file]}, "") for name, file in told.FIRMWARE.items()]
    _write(folder / told.NEWER, game_lists.xml("Reef 4", "2026-03", newer))
    _write(folder / told.OLDER, game_lists.xml("Reef 4", "2025-10", older))
    _write(folder / told.WHARF_LIST, game_lists.table("Wharf", wharf))
    _write(folder / told.FIRMWARE_LIST, game_lists.table("Firmware", firmware))
    for path, name in told.REEF_FILES.items():
        _write(folder / path, data[name] if name else data["Sandbank Solo (Europe)"][:-9] + b"saltwater")
    crab = [(f"CRAB/{name.upper()}", data[name]) for name in told.WHARF["Crab Census (Europe)"]]
    _made(folder / "Games/wharf/crab.zip", craft_files.archive, crab)
    inside = [("WINCH.RF4", data["Winch Winder (World)"]), ("MAST.WRF", data["mast.wrf"])]
    _made(folder / told.ELSEWHERE, craft_files.archive, inside)
    _write(folder / "Firmware/reef4boot.rom", data["wharfboot.rom"])


def _club(folder: Path) -> None:
    for name in told.CLUB_FILES:
        is_picture = name.endswith(".jpg")
        text = f"Gullwick Kite Society\n{Path(name).stem}\n"
        _write(folder / name, craft_files.picture_bytes(name) if is_picture else text)


def _backup(folder: Path) -> None:
    shutil.copytree(folder / told.BACKED_UP, folder / told.BACKUP / told.BACKED_UP)
    (folder / told.BACKUP / told.MISSING_IN_BACKUP).unlink()
    changed = folder / told.BACKUP / told.CHANGED_IN_BACKUP
    data = bytearray(changed.read_bytes())
    data[600] ^= 1
    changed.write_bytes(data)


def _write_truth(folder: Path) -> None:
    """Write where each film and episode belongs; the fields are those that its place by `screen` says."""
    lines = []
    for path, place in told.VIDEOS.items():
        record: dict[str, object] = {"path": written(path), "screen": written(place) or None}
        if place:
            meant = identify(place)
            record |= {"kind": meant.kind.value, "fields": dict(meant.fields)}
        lines.append(json.dumps(record, ensure_ascii=False))
    _write(folder / TRUTH, "\n".join(lines) + "\n")


def _set_times(folder: Path) -> None:
    """Give every file and folder a time of its own between 2015 and 2023."""
    for top, folders, files in os.walk(folder, topdown=False):
        for name in (*files, *folders):
            path = Path(top, name)
            moment = _FIRST_TIME + media.seed_of(str(path.relative_to(folder))) % 250_000_000
            os.utime(path, (moment, moment))
    os.utime(folder, (_FIRST_TIME, _FIRST_TIME))
