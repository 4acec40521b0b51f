"""Songs, games, kits, designs and fonts."""

from __future__ import annotations

from typing import Any

from benchmarks.corpus.chance import Chance, Truth
from benchmarks.corpus.words import ADJECTIVES, FIRST, NAMES, NOUNS


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
            f"{chance.choice(['', f'Fonts/{family}/'])}{family.replace(' ', '')}-{style.replace(' ', '')}.otf",
            "font",
            fields,
            True,
            "font",
        )
    return Truth(f"{family} {style}.ttf", "font", fields, True, "font")
