"""Rules of players and devices: what one of them would not read, and the firmware that it needs."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from lazy_magpie.checks.findings import Check, Finding, Rule, Sight, each
from lazy_magpie.checks.quality import lines_of
from lazy_magpie.config import Player
from lazy_magpie.model import Item, Kind
from lazy_magpie.paths import name_of, split_ending

_PLAYED = (Kind.MOVIE, Kind.EPISODE, Kind.EXTRA, Kind.TRACK, Kind.GAME, Kind.DESIGN)


def _unplayable(item: Item, sight: Sight) -> Iterator[Finding]:
    for player in sight.players:
        if item.kind in _PLAYED and (why := why_unread(item, player)):
            yield Finding("player", item.path, f"{player.name} does not read it: {why}")


def why_unread(item: Item, player: Player) -> str:
    """Say why a player does not read an item, "" where nothing is known against it."""
    endings = {split_ending(file.path)[1].lower()[1:] for file in item.files if file.role == "main"}
    if player.reads and not endings & player.reads:
        return f"its ending is {', '.join(sorted(endings))}"
    for field, allowed in (("picture_codec", player.picture_codecs), ("sound_codec", player.sound_codecs)):
        codec = item.facts.get(field)
        if allowed and isinstance(codec, str) and codec.lower() not in allowed:
            return f"its {field.replace('_', ' ')} is {codec}"
    if player.lines and (lines := lines_of(item)) > player.lines:
        return f"it has {lines} lines, more than {player.lines}"
    length = len(name_of(item.path).encode("utf-8", "surrogateescape"))
    if player.longest_name and length > player.longest_name:
        return f"its name has {length} bytes, more than {player.longest_name}"
    return ""


def _unwanted(item: Item, sight: Sight) -> Iterator[Finding]:
    for player in sight.players:
        if player.beside is None or item.kind not in _PLAYED:
            continue
        for file in item.files:
            if file.role not in ("main", *player.beside):
                yield Finding("beside", file.path, f"is {file.role}, which {player.name} does not want beside things")


class _Firmware(Check):
    """Firmware that is not there, or is damaged, by the lists of firmware."""

    def end(self) -> Iterable[Finding]:
        """Return what a list has that is not right."""
        for path, text in self.sight.firmware():
            yield Finding("missing-firmware", path, text)


RULES = (
    Rule("player", "not read by a player", each(_unplayable)),
    Rule("beside", "what a player does not want beside things", each(_unwanted)),
    Rule("missing-firmware", "firmware that is not there, or not right", _Firmware),
)
