"""Names with known truth: made-up titles, written by messy habits drawn at random. `names(count, seed)` yields them."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any

SMALL = {"a", "an", "and", "at", "by", "for", "from", "in", "of", "on", "the", "to", "de", "des", "la", "le", "du"}
NOUNS = (
    "Orchard Tide Lantern Kelp Gull Ferry Harbour Weir Beacon Sandbar Skipper Mussel Groyne Squall Rope Anchor Driftwood "
    "Kite Sailmaker Heron Mudflat Estuary Lobster Barnacle Foghorn Jetty Oar Bollard Shingle Marram Plover Curlew Tern "
    "Sluice Dredger Tiller Mast Bowsprit Net Cockle Samphire Saltmarsh Breakwater Chandler Pilot Warden Signal Winch"
).split()
ADJECTIVES = (
    "Salt Low Quiet Broken Last Second Silver Bitter Green Hollow Distant Patient Crooked Tall Wet Pale Northern Narrow "
    "Sunken Idle Honest Rusted Double Early Late Slow"
).split()
NAMES = "Pell Marrow Halloway Gale Fennick Tarn Osprey Brine Wick Loom Dunlin Sedge Teal Quill Hask Mere Rook".split()
FIRST = "Ida Wren Mabel Otto Juno Silas Edda Bram Clove Hesper Linus Petra Tove Alder Nell".split()
AWKWARD = (
    "The French Pilot", "Web of Kelp", "Cam", "The Complete Skipper", "Extended Leave", "A Season of Fog", "X",
    "Episode at Low Water", "The Part Timers", "Uncut Rope", "TV Mast", "Disc of Brass", "Remastered Hearts", "9 Oars",
    "The Trailer Park Gull", "Half-Tide", "Up-River", "2031", "Summer of 1962", "Platform 2040", "1066 Herrings",
    "Nine and a Half Knots", "What Now, Skipper", "Dr. Pell's Lamp", "Mr. Wick Sails", "S.T.O.R.M.", "Salt & Rope",
    "Sandpiper - The Return", "Lanterns II", "Gale III", "Lanterns 2", "The German Buoy", "Danish for Sailors",
    "Élan des Mouettes", "Die Möwe", "El Niño del Muelle", "Маяк", "Ночной паром", "灯台の夜", "港の朝", "Τα Καράβια",
    "Proper Weather", "Limited Visibility", "The Internal Harbour", "Dual Keels", "Series of Squalls", "Full Sail Ahead",
    "The Sample Keeper", "Director of the Pier", "Bonus Tide", "Kelp, Salt and Rope", "O Barco", "Retail Fish", "Opus 9",
    "The Final Cutter", "Theatrical Waters", "Special Delivery to Wick", "Vol de Nuit", "Ten Minutes to Ebb", "HD Gull",
)  # fmt: skip
SHOWS = (
    "Pier 13", "24 Knots", "The 100 Buoys", "Route 66 to the Sea", "9-1-1 Lifeboat", "Half-Tide Hotel", "Keeper's Log",
    "Harbour (UK)", "Wharf (US)", "Tidewater Lane", "The Harbour Report", "Marlow & Tern", "Dr. Sedge", "Паром", "灯台守",
    "Late at the Lock", "Room 9", "Part of the Crew", "Season Ticket", "The Web Menders", "A French Wharf", "Ten Bells",
)  # fmt: skip
GROUPS = "BRINE GULL KELPiE TiDE SaLT KN0T".split()
SOURCES = (
    "BluRay",
    "WEB-DL",
    "WEBRip",
    "HDTV",
    "DVDRip",
    "BDRip",
    "BRRip",
    "HDRip.WEB-DL",
    "WEB",
    "UHD.BluRay",
    "PDTV",
    "VHSRip",
)
CODECS = "x264 x265 H.264 H264 HEVC XviD AV1 h265".split()
SOUNDS = "DTS AAC AC3 DD5.1 DDP5.1 AAC2.0 TrueHD FLAC".split()
RESOLUTIONS = "1080p 720p 2160p 576p 480p 1080i".split()
EDITIONS = {
    "Director's Cut": ("Directors Cut", "Director's Cut"),
    "Extended": ("EXTENDED", "Extended", "Extended Edition", "Extended Cut"),
    "Remastered": ("REMASTERED", "Remastered"),
    "Unrated": ("UNRATED", "Unrated"),
    "Uncut": ("UNCUT",),
    "Theatrical": ("THEATRICAL", "Theatrical Cut"),
}
LANGUAGES = {"fr": "FRENCH", "de": "GERMAN", "es": "SPANISH", "it": "ITALIAN", "nl": "DUTCH", "sv": "SWEDISH"}


@dataclass
class Truth:
    """A name and what it is: `clear` says that a careful person would be sure of it."""

    path: str
    kind: str
    fields: dict[str, Any] = field(default_factory=dict)
    clear: bool = True
    habit: str = ""


class Chance(random.Random):
    """Draws words, titles and habits."""

    def maybe(self, share: float) -> bool:
        return self.random() < share

    def title(self) -> str:
        """Return a made-up title in written case."""
        n, a = self.choice(NOUNS), self.choice(ADJECTIVES)
        m = self.choice([other for other in NOUNS if other != n])
        forms = (
            f"The {a} {n}", f"{a} {n}", f"{n} and {m}", f"The {n} of {m}", f"{n} at {self.choice(NAMES)} {m}", f"A {a} {n}",
            f"{self.choice(NAMES)}'s {n}", f"{self.choice(FIRST)} {self.choice(NAMES)}", f"The {n} {m}s", f"{n} {a}",
            f"{a} {n} {self.randrange(2, 9)}", f"{n} {self.choice(['II', 'III', 'IV'])}", f"{n} in the {m}", f"{n}",
            f"{self.randrange(2, 99)} {n}s", f"{n} of {self.randrange(1890, 2010)}", f"{self.randrange(1890, 2010)} {n}s",
            f"No {n} for the {m}", f"Who Took the {n}", f"{a} {n}, {self.choice(ADJECTIVES)} {m}",
        )  # fmt: skip
        return self.choice(forms)


def names(count: int, seed: int = 0) -> Iterator[Truth]:
    """Yield `count` names with their truth."""
    chance = Chance(seed)
    for _ in range(count):
        maker = chance.choices(MAKERS, WEIGHTS)[0]
        yield maker(chance)


def written(chance: Chance, text: str) -> tuple[str, str, str]:
    """Return a title as a habit writes it, the separator, and the title as it can then be read again."""
    separator = chance.choices([" ", ".", "_"], [5, 4, 2])[0]
    if separator == "." and ("." in text or " - " in text):
        separator = " "
    cased = text
    if len(text) > 4 and text.isascii() and not any(letter in text for letter in ".'-&,()") and "HD" not in text:
        cased = chance.choices([text, text.lower(), text.upper()], [8, 2, 1])[0]
    if chance.maybe(0.1) and separator == " " and "," not in text:
        for article in ("The ", "A "):
            if cased.startswith(article) and " - " not in text and "(" not in text:
                cased = f"{cased[len(article) :]}, {article.strip()}"
    if separator == "." and "'" in text:
        return cased.replace("'", "").replace(",", "").replace(" ", "."), ".", text.replace("'", "").replace(",", "")
    if separator == ".":
        return cased.replace(", ", ".").replace(" ", "."), ".", text.replace(",", "")
    return cased.replace(" ", separator), separator, text


def release(chance: Chance, separator: str) -> str:
    """Return release words as groups write them, "" for none."""
    kind = chance.randrange(4)
    if kind == 0:
        return ""
    if kind == 1 and separator == " ":
        return "".join(
            f" [{word}]"
            for word in chance.sample([chance.choice(RESOLUTIONS), chance.choice(CODECS), chance.choice(SOUNDS)], 2)
        )
    words = []
    if chance.maybe(0.1):
        words.append(chance.choice(["PROPER", "REPACK", "iNTERNAL"]))
    if chance.maybe(0.85):
        words.append(chance.choice(RESOLUTIONS))
    words.append(chance.choice(SOURCES))
    if chance.maybe(0.5):
        words.append(chance.choice(SOUNDS))
    if chance.maybe(0.7):
        words.append(chance.choice(CODECS))
    text = separator.join(
        word.replace(".", separator) if separator == " " and "5.1" not in word and "2.0" not in word else word
        for word in words
    )
    return separator + text + (f"-{chance.choice(GROUPS)}" if chance.maybe(0.6) else "")


def film(chance: Chance) -> Truth:
    """A film in one of the habits of naming."""
    title = chance.choice(AWKWARD) if chance.maybe(0.25) else chance.title()
    year = chance.randrange(1925, 2026)
    text, sep, title = written(chance, title)
    tail = release(chance, sep)
    fields: dict[str, Any] = {"title": title, "year": year}
    middle = ""
    if chance.maybe(0.12):
        fields["edition"] = chance.choice(list(EDITIONS))
        word = chance.choice(EDITIONS[fields["edition"]])
        middle = (
            f" ({word})"
            if sep == " " and chance.maybe(0.4)
            else sep + word.replace("'", "" if sep != " " else "'").replace(" ", sep)
        )
    if chance.maybe(0.08):
        code = chance.choice(list(LANGUAGES))
        fields["languages"] = [code]
        middle += sep + LANGUAGES[code]
        tail = tail or sep + chance.choice(SOURCES)
    if chance.maybe(0.06):
        fields["part"] = chance.randrange(1, 4)
        tail = (
            chance.choice([f"{sep}CD{fields['part']}", f"{sep}cd{fields['part']}", f"{sep}disc{sep}{fields['part']}"])
            if not tail
            else tail
        )
        if not tail.lower().startswith((f"{sep}cd", f"{sep}disc")):
            del fields["part"]
    style = chance.choices(["round", "square", "bare", "first", "dash", "none"], [8, 2, 6, 1, 1, 1])[0]
    clear = True
    if sep != " " and style in ("square", "first", "dash"):
        style = "bare"
    ending = chance.choice(["mkv", "mp4", "avi", "m4v"])
    if style == "round":
        stem = f"{text}{sep}({year}){middle}{tail}"
    elif style == "square":
        stem = f"{text} [{year}]{middle}{tail}"
    elif style == "bare":
        stem = f"{text}{sep}{year}{middle}{tail}"
        clear = bool(middle.strip(" ()._") or tail)
    elif style == "first":
        fields = {key: fields[key] for key in ("title", "year")}
        stem = f"({year}) {text}"
    elif style == "dash":
        fields = {key: fields[key] for key in ("title", "year")}
        stem, clear = f"{year} - {text}", False
    else:
        stem = f"{text}{release(chance, sep)}"
        fields = {"title": title}
        clear = False
        if title.split()[-1].isdigit() or title[:4].isdigit():  # its number could be a year: only a look would tell
            fields = {}
    if style != "none" and chance.maybe(0.05):
        stem = chance.choice(["[www.example.org] ", "www.example.org - ", "Copy of "]) + stem
        clear = clear or (style == "bare" and not stem.startswith("Copy"))
    folder = chance.choices(
        ["", "Films", "Heap/New folder (2)", f"Movies/{title[0]}" if title[0].isascii() else "Movies", "own"],
        [5, 3, 2, 2, 2],
    )[0]
    if folder == "own":
        own = f"{title} ({year})"
        folder = f"Films/{own}"
        if style == "none":
            fields = {"title": title, "year": year}
            clear = True
        elif style in ("bare", "dash"):
            clear = True
    return Truth(f"{folder}/{stem}.{ending}".lstrip("/"), "movie", fields, clear, f"film {style}{sep}")


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


def song(chance: Chance) -> Truth:
    """A song, with its album's folders or all in its name."""
    artist, album, title = f"{chance.choice(FIRST)} {chance.choice(NAMES)}", chance.title(), chance.title()
    track, year = chance.randrange(1, 20), chance.randrange(1960, 2026)
    fields: dict[str, Any] = {"artist": artist, "album": album, "track": track, "title": title}
    style = chance.randrange(7)
    top = chance.choice(["", "Music/", f"Music/{artist[0]}/"])
    ending = chance.choice(["mp3", "flac", "ogg", "m4a"])
    gap = chance.choice([" - ", ". ", " "])
    number = f"{track:02}{gap}"
    clear = True
    if style == 0:
        path = f"{top}{artist}/{album} ({year})/{number}{title}"
        fields["year"] = year
    elif style == 1:
        path = f"{top}{artist}/{year} - {album}/{number}{title}"
        fields["year"] = year
    elif style == 2:
        fields["disc"] = chance.randrange(1, 4)
        path = f"{top}{artist}/{album}/{chance.choice(['CD', 'Disc '])}{fields['disc']}/{number}{title}"
    elif style == 3:
        path = f"{artist} - {album} - {track:02} - {title}"
    elif style == 4:
        path, clear = f"{artist} - {title}", False
        fields = {"artist": artist, "title": title}
    elif style == 5:
        other = f"{chance.choice(FIRST)} {chance.choice(NAMES)}"
        path = f"{top}Various Artists/{album}/{track:02} - {other} - {title}"
        fields |= {"artist": other, "album_artist": "Various Artists"}
    else:
        path = f"Music/{artist} - {album} ({year})/{track:02}{chance.choice([' - ', '. '])}{title}"
        fields["year"] = year
    if style in (0, 1, 2, 6) and album[-1].isdigit():
        path = path.replace(album, "Low Lights")
        fields["album"] = "Low Lights"
    if style in (3, 4) and title[0].isdigit():
        return song(chance)
    return Truth(f"{path}.{ending}", "track", fields, clear, f"song {style}")


def game(chance: Chance) -> Truth:
    """A game image with what stands in its brackets."""
    title = chance.title()
    regions = chance.choice([["Europe"], ["USA"], ["Japan"], ["World"], ["USA", "Europe"], ["Germany"]])
    fields: dict[str, Any] = {"title": title, "regions": regions, "system": "chip8"}
    shown = title
    if title.startswith(("The ", "A ")) and "," not in title:
        article, rest = title.split(" ", 1)
        shown = f"{rest}, {article}"
    stem = f"{shown} ({', '.join(regions)})"
    if chance.maybe(0.2):
        fields["languages"] = chance.sample(["en", "fr", "de", "es"], 2)
        stem += f" ({','.join(code.title() for code in fields['languages'])})"
    if chance.maybe(0.2):
        fields["disc"] = chance.randrange(1, 4)
        stem += f" (Disc {fields['disc']})"
    if chance.maybe(0.2):
        fields["revision"] = chance.choice(["1", "A", "1.2"])
        stem += f" (v{fields['revision']})" if "." in fields["revision"] else f" (Rev {fields['revision']})"
    if chance.maybe(0.2):
        word, status = chance.choice([("Beta", "beta"), ("Proto", "proto"), ("Demo", "demo"), ("Unl", "unlicensed")])
        fields["status"] = [status]
        stem += f" ({word})"
    stem += chance.choice(["", "", " [!]", " [b1]"])
    if chance.maybe(0.7):
        return Truth(
            f"{chance.choice(['Games/', ''])}chip8/{stem}.{chance.choice(['ch8', 'zip'])}", "game", fields, True, "game"
        )
    del fields["system"]
    return Truth(f"{stem}.{chance.choice(['zip', '7z', 'bin'])}", "game", fields, False, "game without system")


def craft(chance: Chance) -> Truth:
    """A kit's part, a stitch design or a font."""
    maker = f"{chance.choice(NAMES)} {chance.choice(NOUNS)} {chance.choice(['Co', 'Studio', 'Works'])}"
    title = f"{chance.choice(ADJECTIVES)} {chance.choice(NOUNS)}"
    plain, sort = title.lower().replace(" ", "-"), chance.randrange(5)
    both: dict[str, Any] = {"maker": maker, "title": title}
    if sort == 0:
        section, word = chance.choice(
            [("papers", "paper"), ("elements", "element"), ("alphabets", "alpha"), ("word art", "wa")]
        )
        home = chance.choice([f"{maker}/{title}", f"{maker} - {title}"])
        return Truth(
            f"Kits/{home}/{plain.replace('-', '')}_{word}_{chance.randrange(1, 30):02}.png",
            "kit",
            {**both, "section": section},
            True,
            "kit",
        )
    if sort == 1:
        section, word = chance.choice([("papers", "Papers"), ("elements", "Elements"), ("word art", "WordArt")])
        stem = f"{maker.replace(' ', '')}_{title.replace(' ', '')}_{word}"
        on_shelf = chance.maybe(0.5)
        return Truth(
            f"{f'Kits/{maker}/' if on_shelf else ''}{stem}.zip",
            "kit",
            {**both, "section": section},
            on_shelf,
            "kit archive",
        )
    if sort == 2:
        stem = chance.choice([f"{plain}-4x4", plain, plain.replace("-", "_"), f"{title} 5x7", title])
        return Truth(
            f"Designs/{maker}/{chance.choice(['', f'{title}/'])}{stem}.{chance.choice(['pes', 'dst', 'jef'])}",
            "design",
            both,
            True,
            "design",
        )
    style = chance.choice(["Regular", "Bold", "Bold Italic", "Light", "Semi Bold"])
    family = f"{chance.choice(NAMES)} {chance.choice(['Sans', 'Serif', 'Slab', 'Mono'])}"
    fields = {"family": family, "style": style}
    if sort == 3:
        return Truth(
            f"{chance.choice(['', f'Fonts/{family}/'])}{family.replace(' ', '')}-{style.replace(' ', '')}.{chance.choice(['ttf', 'otf'])}",
            "font",
            fields,
            True,
            "font",
        )
    return Truth(f"{family} {style}.ttf", "font", fields, True, "font")


MAKERS: tuple[Callable[[Chance], Truth], ...] = (film, episode, below_season, dated, running, song, game, craft)
WEIGHTS = (8, 8, 3, 1, 1, 3, 2, 3)
