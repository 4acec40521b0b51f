"""Files as people keep them: in folders of versions, forms, sorts and whole series, between those that tell more."""

from __future__ import annotations

from typing import Any

from benchmarks.corpus.chance import Chance, Truth
from benchmarks.corpus.odd import plain_title
from benchmarks.corpus.words import FIRST, GROUPS, NAMES, NOUNS

_BETWEEN = (
    "Complete Series|The Complete Series|All Seasons|Seasons|Episodes|DVD|Web|HD|1080p|mkv|avi|English|Uncut|Original|"
    "2004-2009|(2004-2009)|Old|Watched|DVD 2|Box Set"
).split("|")
_BELOW = "720p|mkv|English|Watched|New folder|Part 2|Disc 1|Video".split("|")
_GENRES = "Folk|Jazz|Rock|Classical|Blues|Metal|Soul|Electronic".split("|")
_FORMS = "FLAC|MP3|Web|320|Vinyl|Lossless".split("|")


def episode(chance: Chance) -> Truth:
    """An episode with other folders between the show's, the season's and the file."""
    show, season, first = plain_title(chance), chance.randrange(1, 12), chance.randrange(1, 24)
    title = f"The {chance.choice(NOUNS)} {chance.choice(NOUNS)}"
    fields: dict[str, Any] = {"show": show, "season": season, "episode": first, "episode_title": title}
    above = f"{show}/{chance.choice(_BETWEEN)}" if chance.maybe(0.6) else show
    below = f"Season {season}/{chance.choice(_BELOW)}" if chance.maybe(0.4) else f"Season {season}"
    stem = chance.choice(
        (
            f"{first:02} - {title}",
            f"S{season:02}E{first:02} - {title}",
            f"{show} {season}x{first:02} {title}",
            f"{show} {season}-{first:02} {title}",
            f"{show} - {first:02} - {title}.mp4",
            f"{title} (S{season:02}E{first:02})",
            f"{show} Episode {season}x{first:02} {title}",
        )
    )
    return Truth(
        f"{chance.choice(['TV', 'Series'])}/{above}/{below}/{stem}.mkv", "episode", fields, True, "kept episode"
    )


def film(chance: Chance) -> Truth:
    """A film, or an extra of it, in a folder of its version or sort below its own."""
    title, year, name = (
        plain_title(chance),
        chance.randrange(1930, 2026),
        f"{chance.choice(FIRST)} {chance.choice(NAMES)}",
    )
    home, of, whole = f"Films/{title} ({year})", {"of": title, "year": year}, {"title": title, "year": year}
    kind, path, fields = chance.choice(
        (
            ("movie", f"Director's Cut/{title}", {**whole, "edition": "Director's Cut"}),
            ("movie", f"Extended/{title} ({year})", {**whole, "edition": "Extended"}),
            ("movie", "Theatrical", {**whole, "edition": "Theatrical"}),
            ("movie", f"German/{title}", {**whole, "languages": ["de"]}),
            ("movie", f"mkv/{title}", whole),
            ("movie", f"{title} ({year}).mp4", whole),
            ("movie", f"{title} ({year}) The Director's Cut", {**whole, "edition": "Director's Cut"}),
            ("extra", f"Extras/{name}-interview", {**of, "extra": "interview", "title": name}),
            ("extra", f"Extras/0{chance.randrange(1, 10)} - {name}", {**of, "extra": "other", "title": name}),
            ("extra", "Extras/Trailer", {**of, "extra": "trailer"}),
            ("extra", f"Trailers/{title} ({year}) Trailer 1", {**of, "extra": "trailer", "title": "Trailer 1"}),
            ("extra", f"{title}.{year}.720p.x264-sample-{chance.choice(GROUPS)}", {**of, "extra": "sample"}),
        )
    )
    return Truth(f"{home}/{path}.mkv", kind, fields, True, f"kept {kind}")


def song(chance: Chance) -> Truth:
    """A song below a genre, or in a folder that says in what form the record is."""
    artist, album, title = (f"{chance.choice(FIRST)} {chance.choice(NAMES)}", plain_title(chance), plain_title(chance))
    track, year, guest = chance.randrange(1, 20), chance.randrange(1960, 2026), f"{chance.choice(FIRST)} Osk"
    fields: dict[str, Any] = {"artist": artist, "album": album, "year": year, "track": track, "title": title}
    stem = f"{track:02} - {title}"
    if chance.maybe(0.3):
        stem = f"{track:02} - {artist} & {guest} - {title}"
        fields |= {"artist": f"{artist} & {guest}", "album_artist": artist}
        return Truth(f"Music/{artist}/{album} ({year})/{stem}.mp3", "track", fields, True, "kept song")
    folder = chance.choice(
        (
            f"{chance.choice(_GENRES)}/{artist} - {album} ({year})",
            f"{chance.choice(_GENRES)}/{artist}/{album} ({year})",
            f"{artist}/{album} ({year})/{chance.choice(_FORMS)}",
            f"{artist} - {album} ({year})/{chance.choice(_FORMS)}",
        )
    )
    return Truth(f"Music/{folder}/{stem}.flac", "track", fields, True, "kept song")
