"""Readings of game images: the title in front, and in brackets regions, languages, revision, disc and status."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace

from lazy_magpie.identify.candidates import Candidate
from lazy_magpie.identify.context import Systems
from lazy_magpie.identify.folders import FolderContext
from lazy_magpie.identify.game_words import (
    COUNTRIES,
    DUMPS,
    LANGUAGE_CODES,
    OF_ENDING,
    OF_HEADER,
    REGION_LETTERS,
    REGIONS,
    STATUS,
    SYSTEMS,
)
from lazy_magpie.identify.title_text import match_key, normalize_title
from lazy_magpie.identify.tokenizer import FIRST_YEAR, LAST_YEAR
from lazy_magpie.model import Evidence, Identity, Kind, State, Value
from lazy_magpie.patterns import pattern
from lazy_magpie.words import meaning

_GROUP = pattern(r"\(([^()]*)\)|\[([^\[\]]*)\]")
_DISC = pattern(r"(?i)^(?:dis[ck]|cd|dvd|tape|side)[ ._-]?(\d{1,2}|[a-h])(?:[ ._]?of[ ._]?\d{1,2})?$")
_REVISION = pattern(
    r"(?i)^(?:rev(?:ision)?[ ._-]?([0-9a-z.]+)|v(?:er(?:sion)?)?[ ._]?(\d+(?:\.\d+)*[a-z]?)|(\d+\.\d+))$"
)
_TRACK = pattern(r"(?i)^track[ ._-]?\d{1,2}$")
_STATUS = pattern(r"(?i)^([a-z][a-z ]*?)[ ._-]?\d*$")
_VERSION_BEHIND = pattern(r"(?i)[ ._]+v(\d+\.\d+[a-z]?)$")
_LETTERS = pattern(r"(?i)\((?:rev )?[uejw]{1,3}\)|\(rev [a-z]\)")
_LANGUAGES = pattern(rf"\((?:{'|'.join(LANGUAGE_CODES)})(?:,(?:{'|'.join(LANGUAGE_CODES)}))*\)", re.IGNORECASE)
_LISTED = pattern(r"^(?:0\d{2,3} - |(?!18|19|20)[1-9]\d{3} - |\d{2,3}\. )(?=\D)")
"""A number in a list before a game's title; four digits that are no year."""
_STARTS = frozenset(("bios", "boot", "bootrom", "firmware", "ipl"))
"""Words for what a system starts with."""
_NO_SYSTEM = "no system"
_MODIFIES = frozenset(["possible", "tech"])
"""Words in front of a status that change nothing of it."""
_NO_TITLE = pattern(r"(?i)^(?:dis[ck]|cd|track|game|rom|image|side)[ ._-]?(?:\d{1,2}|[a-d])?$")
"""What says nothing of the game, whose folder does."""
_DISC_BEHIND = pattern(r"(?i)[ ._-]+(?:dis[ck]|cd)[ ._-]?(\d{1,2})$")


@dataclass
class Game:
    """What a name says of a game; `marked` counts the brackets that only game images have."""

    title: str = ""
    fields: dict[str, Value] = field(default_factory=dict)
    facts: dict[str, Value] = field(default_factory=dict)
    why: list[Evidence] = field(default_factory=list)
    strange: list[str] = field(default_factory=list)
    marked: int = 0

    def put(self, name: str, value: Value, source: str, text: str) -> None:
        self.fields[name] = value
        self.why.append(Evidence(name, value, source, text))


def parse(stem: str) -> Game:
    """Take a game image's name apart."""
    game = Game()
    if stem.isupper() or stem.islower():  # codes are told from each other by their case
        stem = _LANGUAGES.sub(lambda match: match.group().title(), stem)
        stem = _LETTERS.sub(lambda match: match.group().upper(), stem)
    first = _GROUP.search(stem)
    head = stem[: first.start()] if first and stem[: first.start()].strip(" ._-") else stem
    if head is stem and first:
        head = _GROUP.sub("", stem)
    head = head.strip(" _-").lstrip(".")
    head = _LISTED.sub("", head)
    if " " not in head and "_" not in head and head.islower():
        head = head.replace("-", " ")
    behind = stem[stem.rfind(")") + 1 :] if first and first.group() != stem else ""
    if match := _VERSION_BEHIND.search(head) or _VERSION_BEHIND.fullmatch(behind):
        game.put("revision", match[1], "name", match.group().strip())
        head = head.removesuffix(match.group())
    if match := _DISC_BEHIND.search(head):
        game.put("disc", int(match[1]), "name", match.group().strip())
        head = head[: match.start()]
    game.title = normalize_title(head)
    if game.title:
        game.put("title", game.title, "name", head)
    for match in _GROUP.finditer(stem):
        if match[1] is not None:
            _round(game, match[1].strip())
        else:
            _square(game, match[2].strip())
    return game


def _round(game: Game, text: str) -> None:
    """Read what stands in round brackets."""
    text = text.replace("_", " ")
    parts = [part.strip(" .") for part in re.split(r"[,;]", text) if part.strip(" .")]
    if not parts:
        return
    regions = [_region(part) for part in parts]
    if all(regions) and "regions" not in game.fields:
        game.put("regions", [name for group in regions for name in group], "name", text)
        game.marked += 1
    elif "languages" not in game.fields and all(_is_language(part) for part in parts):
        codes = [code.lower()[:2] for part in parts for code in part.split("+")]
        game.put("languages", list(dict.fromkeys(codes)), "name", text)
        game.marked += 1
    elif match := _DISC.match(text):
        number = match[1]
        game.put("disc", int(number) if number.isdecimal() else " abcdefgh".index(number.lower()), "name", text)
        game.marked += 1
    elif match := _REVISION.match(text):
        said = match[1] or match[2] or match[3]
        game.put("revision", str(int(said)) if said.isdecimal() else said, "name", text)
        game.marked += 1
    elif status := _status(text):
        known = game.fields.get("status", [])
        assert isinstance(known, list)
        game.put("status", [*known, *([status] if status not in known else [])], "name", text)
        game.marked += 1
    elif _TRACK.match(text):
        game.marked += 1
    elif re.fullmatch(r"\d{4}", text) and FIRST_YEAR <= int(text) <= LAST_YEAR:
        game.put("year", int(text), "name", text)
    else:
        game.strange.append(text)


def _square(game: Game, text: str) -> None:
    """Read what stands in square brackets: how good the image is, in one or a few letters."""
    letter = re.sub(r"\d+$", "", text.lower())
    if letter in DUMPS:
        game.facts["dump"] = DUMPS[letter]
        game.why.append(Evidence("dump", DUMPS[letter], "name", text))
        game.marked += 1
    elif re.fullmatch(r"\d{4}", text) and FIRST_YEAR <= int(text) <= LAST_YEAR:
        game.put("year", int(text), "name", text)
    elif _region(text) or _REVISION.match(text):
        _round(game, text)
    else:
        game.strange.append(text)


def _region(text: str) -> list[str]:
    """Return the regions that a word or a run of letters names, none where it names none."""
    if name := REGIONS.get(text.casefold()):
        return [name]
    if text in COUNTRIES:
        return [COUNTRIES[text]]
    if text.isupper() and 1 <= len(text) <= 3 and all(letter in REGION_LETTERS for letter in text):
        return [REGION_LETTERS[letter] for letter in text]
    return []


def _is_language(text: str) -> bool:
    codes = re.split(r"[+]", text)
    return all(
        re.fullmatch(r"[A-Z][a-z](?:-[A-Z][A-Za-z]+)?", code) and code[:2].lower() in LANGUAGE_CODES for code in codes
    )


def _status(text: str) -> str:
    match = _STATUS.match(text)
    words = [word for word in match[1].casefold().split() if word not in _MODIFIES] if match else []
    said = [STATUS.get(word, "") for word in words]
    return said[0] if said and all(said) else ""


def systems_named(name: str) -> frozenset[str]:
    """Return the systems, as concepts of the vocabulary, that a name or a short code may mean."""
    return frozenset(concept for concept in meaning(name) if concept.startswith("system."))


def system_of(place: FolderContext, ending: str, more: Systems) -> tuple[str, str, str]:
    """Return the system, where it was seen and what was seen there, ("", "", "") if nothing tells it.

    `more` are the systems that a person has added.
    """
    for folder in place.folders:
        name = match_key(folder.text)
        if system := more.folders.get(name):
            return system, "configuration", folder.text
        if system := SYSTEMS.get(name):
            return system, "folder", folder.text
    if system := more.endings.get(ending):
        return system, "configuration", ending
    if system := OF_ENDING.get(ending):
        return system, "ending", ending
    chain = place.titles()
    if chain and place.shelf is Kind.GAME:
        return chain[-1].text, "folder", chain[-1].text
    return "", "", ""


def readings(stem: str, ending: str, place: FolderContext, more: Systems, *, sure: bool) -> Iterator[Candidate]:
    """Yield the readings of a game image; `sure` says that its ending leaves no doubt that it is one.

    Without it the name's brackets, the shelf or a system's folder must speak for a game.
    """
    game = parse(stem)
    chain = place.titles()
    own = parse(chain[0].text) if chain else None
    if own and (own.marked or len(chain) > 1) and _tells_of(own, game, stem):
        game = _with_folder(game, own, chain[0].text)
    system, source, text = system_of(place, ending, more)
    in_system = bool(source) and text != ending
    if not (sure or in_system or place.shelf is Kind.GAME or game.marked):
        return
    weight = 2.0 + game.marked + 2.0 * (place.shelf is Kind.GAME) + 2.0 * in_system + 2.0 * sure
    if system:
        game.put("system", system, source, text)
    near = place.folders[0].text if place.folders else ""
    if "regions" not in game.fields and (region := REGIONS.get(near.casefold())):  # "chip8/Japan/Buoy Bandit"
        game.put("regions", [region], "folder", near)
    order = ("title", "year", "regions", "languages", "revision", "disc", "status", "system")
    fields = {key: game.fields[key] for key in order if key in game.fields}
    if game.strange:
        game.facts["remarks"] = list(game.strange)
    yield Candidate(Kind.GAME, weight, fields, tuple(game.why), (), game.facts)


def _tells_of(own: Game, game: Game, stem: str) -> bool:
    """Say whether a game's folder tells its title: the file has the same or none, "disc1"."""
    return bool(_NO_TITLE.match(stem)) or match_key(own.title) == match_key(game.title)


def _with_folder(game: Game, own: Game, text: str) -> Game:
    """Return what the file and its folder say of a game together; what the file says of the disc and region wins."""
    if _NO_TITLE.match(game.title):
        disc = _DISC.match(game.title)
        game = Game(marked=game.marked)
        if disc and disc[1].isdecimal():
            game.put("disc", int(disc[1]), "name", disc.group())
    for name, value in own.fields.items():
        if name not in game.fields:
            game.put(name, value, "folder", text)
    return game


def with_system(identity: Identity, told: Mapping[str, Value]) -> Identity:
    """Return a game's identity with the system that its header or its archive's contents tell, where nothing else did.

    `told` is what the file says of itself.
    """
    if identity.kind is not Kind.GAME or "system" in identity.fields:
        return identity
    header, holds = str(told.get("header", "")), str(told.get("holds", ""))
    system, text = OF_HEADER.get(header, ""), header
    if not system:
        system, text = OF_ENDING.get(holds, ""), holds
    if not system:
        return identity
    doubts = tuple(doubt for doubt in identity.doubts if doubt != _NO_SYSTEM)
    state = State.CLEAR if identity.doubts and not doubts else identity.state
    why = (*identity.why, Evidence("system", system, "contents", text))
    fields = {**identity.fields, "system": system}
    return replace(identity, fields=fields, why=why, doubts=doubts, state=state)


def is_firmware(stem: str) -> bool:
    """Say whether a name is that of a system's own file: the system with a word for what starts it."""
    words = re.split(r"[ ._-]+", stem.lower())
    return any(word in SYSTEMS for word in words) and not _STARTS.isdisjoint(words)


def firmware(stem: str, place: FolderContext, more: Systems) -> Candidate:
    """Read a system file: its name can only hint at the system, its contents would tell."""
    words = re.split(r"[ ._-]+", stem.lower())
    system = next((SYSTEMS[word] for word in words if word in SYSTEMS), "")
    source = "name"
    if not system:
        system, source, _ = system_of(place, "", more)
    fields: dict[str, Value] = {"system": system} if system else {}
    why = (Evidence("system", system, source, stem),) if system else ()
    return Candidate(Kind.FIRMWARE, 3.0, fields, why, ("name alone: only its contents would tell",))
