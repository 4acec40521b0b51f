"""Episodes in many habits of naming."""

from __future__ import annotations

from typing import Any

from benchmarks.corpus.chance import Chance, Truth, release, written
from benchmarks.corpus.words import ADJECTIVES, GROUPS, NOUNS, SHOWS


def show_title(chance: Chance) -> str:
    return chance.choice(SHOWS) if chance.maybe(0.3) else chance.title()


def episode(chance: Chance) -> Truth:
    """An episode: its mark in the name, or its number below a season's folder."""
    show = show_title(chance)
    text, sep, read = written(chance, show)
    if ("(UK)" in show or "(US)" in show) and sep != " ":
        text, sep, read = show, " ", show
    season, first = chance.randrange(1, 12), chance.randrange(1, 25)
    fields: dict[str, Any] = {"show": read, "season": season, "episode": first}
    more = ""
    mark = chance.choice(["s02e05", "S02E05", "S02E05", "S02E05", "s2e5", "2x05", "[2x05]", "words", "S02.E05"])
    if sep == "_" and mark == "words":
        mark = "S02E05"
    if chance.maybe(0.1) and mark.lower() == "s02e05":
        fields["last_episode"] = first + 1
        more = chance.choice([f"E{first + 1:02}", f"-E{first + 1:02}", f"-{first + 1:02}"])
    count = {
        "s02e05": f"s{season:02}e{first:02}{more.lower()}", "S02E05": f"S{season:02}E{first:02}{more}",
        "s2e5": f"s{season}e{first}", "2x05": f"{season}x{first:02}", "[2x05]": f"[{season}x{first:02}]",
        "words": f"Season {season} Episode {first}".replace(" ", sep), "S02.E05": f"S{season:02}{sep}E{first:02}",
    }[mark]  # fmt: skip
    year = ""
    if chance.maybe(0.08) and sep == " " and not show.endswith(")") and not show[-1].isdigit():
        fields["show_year"] = chance.randrange(1950, 2026)
        year = f" ({fields['show_year']})"
    behind = ""
    if chance.maybe(0.5):
        title = chance.title()
        if title[0].isdigit() or (title[-1].isdigit() and sep != " "):
            title = f"The {chance.choice(NOUNS)} {chance.choice(NOUNS)}"
        own, _, shown = written_like(text, sep, title)
        fields["episode_title"] = shown
        behind = chance.choice([" - ", " "]) + own if sep == " " else sep + own
    dash = " -" if sep == " " and chance.maybe(0.4) else ""
    tail = release(chance, sep)
    stem = f"{text}{year}{dash}{sep}{count}{behind}{tail}"
    folder = chance.choice(
        ["", "Heap", "Series", f"TV Shows/{read}", f"Series/{read}/Season {season}", f"{read}/Season {season:02}"]
    )
    if "show_year" in fields:
        folder = chance.choice(["", "Series"])
    return Truth(
        f"{folder}/{stem}.{chance.choice(['mkv', 'avi', 'mp4'])}".lstrip("/"),
        "episode",
        fields,
        True,
        f"episode {mark}{sep}",
    )


def written_like(like: str, sep: str, title: str) -> tuple[str, str, str]:
    """Return a title written as another was: its separator and its case."""
    shown = title
    if sep == ".":
        shown = shown.replace("'", "").replace(",", "")
    own = shown.replace(" ", sep)
    if like.islower():
        own = own.lower()
    elif like.isupper() and len(like) > 3:
        own = own.upper()
    return own, sep, shown


def below_season(chance: Chance) -> Truth:
    """An episode whose season, and perhaps show, only the folders know."""
    show = show_title(chance)
    season, first = chance.randrange(1, 9), chance.randrange(1, 25)
    folder = chance.choice(
        [
            f"Season {season}",
            f"Season {season:02}",
            f"S{season:02}",
            f"Series {season}",
            f"{show} - Season {season}",
            f"{show} Season {season}",
        ]
    )
    fields: dict[str, Any] = {"show": show, "season": season, "episode": first}
    stem = chance.choice(
        [
            f"{first:02}",
            f"E{first:02}",
            f"Episode {first}",
            f"{season}x{first:02}",
            f"S{season:02}E{first:02}",
            f"{show} {season}{first:02}",
            f"{show} - {first:02}",
        ]
    )
    if chance.maybe(0.5) and not stem.startswith(show):
        title = f"The {chance.choice(ADJECTIVES)} {chance.choice(NOUNS)}"
        fields["episode_title"] = title
        stem += chance.choice([" - ", ". ", " "]) + title
    top = chance.choice(["", "Series/", "TV/M-Z/", "Old disk/"])
    return Truth(f"{top}{show}/{folder}/{stem}.mkv", "episode", fields, True, "episode below season")


def dated(chance: Chance) -> Truth:
    """An episode by its date."""
    show, month, day = show_title(chance), chance.randrange(1, 13), chance.randrange(1, 29)
    year = chance.randrange(1990, 2026)
    text, sep, read = written(chance, show)
    fields: dict[str, Any] = {"show": read, "air_date": f"{year}-{month:02}-{day:02}"}
    style = chance.randrange(3)
    clear = True
    if style == 2 and sep == " ":
        date = f"{day:02}.{month:02}.{year}"
        clear = day > 12 or day == month
    else:
        date = f"{year}{'.' if sep == '.' else '-'}{month:02}{'.' if sep == '.' else '-'}{day:02}"
    behind = ""
    if chance.maybe(0.4):
        own, _, shown = written_like(text, sep, f"The {chance.choice(ADJECTIVES)} {chance.choice(NOUNS)}")
        fields["episode_title"] = shown
        behind = sep + own
    return Truth(f"{text}{sep}{date}{behind}{release(chance, sep)}.mp4", "episode", fields, clear, "episode dated")


def running(chance: Chance) -> Truth:
    """An episode by a number that runs through all seasons, behind a group in brackets."""
    show, number = show_title(chance), chance.randrange(1, 400)
    text = show
    tail = chance.choice(["", " [1080p]", " (720p)", " [1080p][A1B2C3D4]", " [720p][HEVC]"])
    stem = f"[{chance.choice(GROUPS)}] {text} - {number:02}{chance.choice(['', '', 'v2'])}{tail}"
    if chance.maybe(0.2):
        stem = stem.replace(" ", "_")
    return Truth(f"{stem}.mkv", "episode", {"show": show, "running": number}, True, "episode running")
