"""Names that were damaged, decorated or made by odd habits, and what lies beside films and episodes."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from benchmarks.corpus.chance import Chance, Truth
from benchmarks.corpus.words import ADJECTIVES, FIRST, GROUPS, NAMES, NOUNS, RESOLUTIONS, SOURCES

MONTHS = "January February March April May June July August September October November December".split()


def plain_title(chance: Chance) -> str:
    """Return a title without numbers, in two or three words."""
    return f"The {chance.choice(ADJECTIVES)} {chance.choice(NOUNS)}"


def _film_forms(chance: Chance, title: str, year: int) -> tuple[tuple[str, dict[str, Any], bool], ...]:
    """Return (stem, fields, clear) of each odd habit for one film."""
    whole = {"title": title, "year": year}
    dotted, other = title.replace(" ", "."), f"{chance.choice(NOUNS)} {chance.choice(NOUNS)}"
    resolution, source = chance.choice(RESOLUTIONS), chance.choice(SOURCES)
    number = chance.randrange(1, 10)
    return (
        (f"{title} ({year}", whole, True),
        (f"{title} {year}) {resolution}", whole, True),
        (f"{title} (({year}))", whole, True),
        (f"{title} [{source}] ({year})", whole, True),
        (f"{title} ({year}) ({resolution} {source} x265)", whole, True),
        (f"[{chance.choice(GROUPS)}] {title} ({year}) [{resolution}]", whole, True),
        (f"{title} ({year}) [id-{chance.randrange(10**5)}]", whole, True),
        (f"{title} aka {other} ({year})", whole, True),
        (f"{title} ({other}) ({year})", {}, False),
        (f"0{number} - {title} ({year})", whole, True),
        (f"0{number} {title} ({year})", whole, True),
        (f"{number}. {title} ({year})", whole, False),
        (title.replace(" ", "+") + f"+({year})", whole, True),
        (title.replace(" ", "%20") + f"%20({year})", whole, True),
        (title.replace(" ", "-").lower() + f"-{year}-{resolution}", whole, True),
        (f"{dotted}.{resolution}.{source}.{year}.x264-{chance.choice(GROUPS)}", whole, True),
        (f"{title}. {year}. {resolution}", whole, True),
        (f"{title} (Director's Cut) ({year})", {**whole, "edition": "Director's Cut"}, True),
        (f"{title} (Extended) {year}", {**whole, "edition": "Extended"}, True),
        (f"{dotted}.{year}.{number}of9.{source}", {}, False),
        (f"{title} ({year}) Disc {number} of 9", {**whole, "part": number}, True),
        (f"{title} ({year}) CD {number}", {**whole, "part": number}, True),
        (f"{title} ({year}) part {number}", {**whole, "part": number}, True),
        (f"{title}, {year}", whole, False),
        (f"{title} - {year}", whole, False),
        (f"{title.replace(' ', '')}.{year}.{resolution}", whole, False),
        (f"{title} ({year}) - Copy", whole, True),
        (f"{title} ({year}) (2)", whole, True),
        (
            f"{title} ({year}).{chance.choice(['eng', 'multi'])}".removesuffix(".eng").removesuffix(".multi"),
            whole,
            True,
        ),
        (f"{title} {year} {resolution} {source} - {chance.choice(GROUPS)}", whole, True),
        (f"{dotted}.{year}.iNTERNAL.{resolution}.{source}", whole, True),
        (f"{title.upper()} {year} {resolution.upper()}", whole, True),
        (f"{title} {chance.choice(['II', 'III', 'IV'])} ({year})", {}, False),
        (f"{title} [{year}, {resolution}, x264]", whole, True),
        (f"{dotted}.{year}.REPACK2.{resolution}.{source}", whole, True),
        (f"{title} ({year}) [En+Fr]", {**whole, "languages": ["en", "fr"]}, True),
        (f"{dotted}.{year}.VOSTFR.{resolution}", whole, True),
        (f"[{number}] {title} ({year})", whole, False),
        (f"[seafilms.example] {title} ({year})", whole, True),
        (f"Mr..{other.replace(' ', '.')}.{year}.{resolution}", {**whole, "title": f"Mr. {other}"}, True),
    )


def film(chance: Chance) -> Truth:
    """A film whose name is damaged, decorated, or odd."""
    year = chance.randrange(1925, 2026)
    stem, fields, clear = chance.choice(_film_forms(chance, plain_title(chance), year))
    folder = chance.choice(["", "Films/", "Heap/", "Old disk/New folder/"])
    return Truth(f"{folder}{stem}.mkv", "movie", fields, clear, "odd film")


def _episode_forms(chance: Chance, show: str, season: int, first: int) -> tuple[tuple[str, dict[str, Any], bool], ...]:
    """Return (path, fields, clear) of each odd habit for one episode."""
    counted = {"show": show, "season": season, "episode": first}
    two = {**counted, "last_episode": first + 1}
    title = f"The {chance.choice(NOUNS)} {chance.choice(NOUNS)}"
    titled = {**counted, "episode_title": title}
    year, month, day = chance.randrange(1990, 2026), chance.randrange(1, 13), chance.randrange(13, 29)
    dated = {"show": show, "air_date": f"{year}-{month:02}-{day:02}"}
    short = {"show": show, "season": 1, "episode": first}
    return (
        (f"{show} S{season:02}E{first:02} to E{first + 1:02}", two, True),
        (f"{show} S{season:02}E{first:02},{first + 1:02}", two, True),
        (f"{show} S{season:02} E{first:02} & E{first + 1:02}", two, True),
        (f"{show} {season}x{first:02}+{season}x{first + 1:02}", two, True),
        (f"{show} S{season:02}E{first:02}v2", counted, True),
        (f"{show} S{season:02}E{first:02}b", {**counted, "part": 2}, True),
        (f"{show} (Season {season}) (Episode {first})", counted, True),
        (f"{show} [S{season:02}] [E{first:02}] {title}", titled, True),
        (f"{show}, Season {season}, Episode {first}", counted, True),
        (f"{show} Season {season} - {first:02} - {title}", titled, True),
        (f"{show} S{season:02}EP{first:02} - {title}", titled, True),
        (f"{show} {season}x{first}" if first < 10 else f"{show} {season}x{first:02}", counted, first > 9),
        (f"{show} {season}{first:02}", counted, False),
        (f"{show} E{first:02}", short, False),
        (f"{show} - Episode {first} - {title}", {**short, "episode_title": title}, False),
        (f"{show} Special {first}", {"show": show, "season": 0, "episode": first}, False),
        (f"{show} S00E{first:02} - {title}", {**titled, "season": 0}, True),
        (f"{show} {first} of 30", short, True),
        (f"{show} Part {first}", short, False),
        (f"{show} {day} {chance.choice(MONTHS[month - 1 : month])} {year}", dated, True),
        (f"{show} {MONTHS[month - 1]} {day}, {year} - {title}", {**dated, "episode_title": title}, True),
        (f"{show} ({year}-{month:02}-{day:02}) {title}", {**dated, "episode_title": title}, True),
        (f"{year}-{month:02}-{day:02} - {show} - {title}", {**dated, "episode_title": title}, False),
        (f"[{chance.choice(GROUPS)}][{show}][{first:02}][1080p]", {"show": show, "running": first}, True),
        (f"[{chance.choice(GROUPS)}] {show} - {first:02} END [720p]", {"show": show, "running": first}, True),
        (f"[{chance.choice(GROUPS)}] {show} {first:02} [720p]", {"show": show, "running": first}, False),
        (f"[{chance.choice(GROUPS)}] {show} S{season} - {first:02} (1080p)", counted, True),
        (f"{show}/Season {season}/{season}{first:02} - {title}", titled, True),
        (f"{show}/Season {season}/{season}.{first:02} {title}", titled, True),
        (f"{show}/Season {season}/{first:02}-{first + 1:02} {title}", {**two, "episode_title": title}, True),
        (f"{show}/Season {season}/{show} {first:02} {title}", titled, True),
        (f"{show}/Season {season}/{title}", {"show": show, "season": season, "episode_title": title}, False),
        (f"{show}/Specials/{first:02} - {title}", {**titled, "season": 0}, True),
        (f"{show}/Specials/{title}", {"show": show, "season": 0, "episode_title": title}, False),
        (f"{show}/0{season}/{first:02}" if season < 10 else f"{show}/Season {season}/{first:02}", counted, season > 9),
        (f"{show} Complete/Season {season}/S{season:02}E{first:02}", counted, True),
        (f"{show} S01-S09/Season {season}/S{season:02}E{first:02}", counted, True),
        (f"{show} (1987-1991)/Season {season}/S{season:02}E{first:02}", {**counted, "show_year": 1987}, True),
        (f"{show}/Season {season}/{show} S{season + 1:02}E{first:02}", {**counted, "season": season + 1}, False),
        (f"{show}/Season {season}/Disc 1/{first:02} - {title}", titled, True),
        (f"S{season:02}E{first:02} - {title} - {show}", titled, False),
        (f"[S{season:02}E{first:02}] {show} - {title}", titled, False),
        (f"{show} - Staffel {season} Folge {first}", counted, True),
        (f"{show} - Saison {season} Épisode {first} - {title}", titled, True),
        (f"{show} Temporada {season} Capítulo {first}", counted, True),
        (f"{show} Сезон {season} Серия {first}", counted, True),
        (f"{show} 第{season}季 第{first:02}集", counted, True),
        (f"{show} S{season:02} - {first:02} - {title}", titled, True),
        (f"{show} Season {season} Episodes {first}-{first + 1}", two, True),
        (f"{show} S{season:02}E{first:02} (Part 2)", {**counted, "part": 2}, True),
        (f"{show} S{season:02}E{first:02} CD1", {**counted, "part": 1}, True),
        (f"{show} S{season:02}E{first:02} ({title})", titled, False),
        (f"{show}/Season {season}/{first} of 30 - {title}", titled, True),
        (f"{show}/Season {season}/[{first:02}] {title}", titled, True),
        (f"{show}/{season}. Staffel/{first:02} {title}", titled, True),
        (f"{show}/Season {season}/#{first:02} {title}", titled, True),
        (f"{show}/Season {season}/{show} - {title}",
         {"show": show, "season": season, "episode_title": title}, False),
    )  # fmt: skip


def episode(chance: Chance) -> Truth:
    """An episode by an odd habit."""
    path, fields, clear = chance.choice(
        _episode_forms(chance, plain_title(chance), chance.randrange(1, 12), chance.randrange(1, 24))
    )
    folder = chance.choice(["", "Series/", "TV/"])
    return Truth(f"{folder}{path}.mkv", "episode", fields, clear, "odd episode")


def beside(chance: Chance) -> Truth:
    """An extra or a companion of a film or an episode."""
    title, year = plain_title(chance), chance.randrange(1930, 2026)
    home, of = f"{title} ({year})", {"of": title, "year": year}
    name = f"{chance.choice(FIRST)} {chance.choice(NAMES)}"
    code, word = chance.choice([("en", "en"), ("fr", "fr"), ("de", "german"), ("es", "spa"), ("pt", "pt-BR")])
    make: Callable[[str, str, dict[str, Any]], Truth] = lambda kind, path, fields: Truth(  # noqa: E731
        f"{chance.choice(['', 'Films/'])}{home}/{path}", kind, {**fields, **of}, True, f"beside {kind}"
    )
    return chance.choice(
        (
            make("extra", f"Extras/{name}.mkv", {"extra": "other", "title": name}),
            make("extra", f"Deleted Scenes/{name}.mkv", {"extra": "deleted scene", "title": name}),
            make("extra", f"{home}-trailer.mkv", {"extra": "trailer"}),
            make("extra", "Trailer 2.mp4", {"extra": "trailer"}),
            make("extra", f"{title} Official Trailer.mp4", {"extra": "trailer"}),
            make("extra", "Making of.mkv", {"extra": "behind the scenes"}),
            make("extra", f"Sample/{chance.choice(GROUPS).lower()}-sample.mkv", {"extra": "sample"}),
            make("extra", f"{title.replace(' ', '.')}.{year}.720p.sample.mkv", {"extra": "sample"}),
            make("companion", f"{home}.{word}.srt", {"role": "subtitles", "language": code}),
            make("companion", f"{home}.{word}.forced.srt", {"role": "subtitles", "language": code, "forced": True}),
            make("companion", f"Subs/2_{word}.srt", {"role": "subtitles", "language": code}),
            make("companion", "poster.jpg", {"role": "cover"}),
            make("companion", f"{home}-fanart.jpg", {"role": "backdrop"}),
            make("companion", f"{chance.choice(GROUPS).lower()}.nfo", {"role": "info"}),
        )
    )
