"""Readings of an audio file: artist, album, disc, track and title from its name and the folders above it."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from lazy_magpie.identify.candidates import Candidate, CandidateBuilder
from lazy_magpie.identify.folders import Folder, FolderContext, FolderRole
from lazy_magpie.identify.title_text import match_key, normalize_title
from lazy_magpie.identify.title_year import BRACKETED, FOLLOWED
from lazy_magpie.identify.tokenizer import LAST_YEAR
from lazy_magpie.model import Kind, Value
from lazy_magpie.patterns import pattern
from lazy_magpie.words import meaning

MANY = frozenset(["variousartists", "various", "va", "compilations", "soundtracks", "soundtrack", "ost"])
"""Folders in the artist's place that say the artist stands in each file's name, folded."""
GENRES = frozenset(
    (
        "acoustic alternative ambient baroque bluegrass blues brass celtic chanson children choral christmas classic "
        "classical comedy country dance disco dub electro electronic electronica experimental flamenco folk folkrock "
        "funk gospel gothic grunge hardrock hiphop house indie industrial instrumental jazz karaoke kids latin "
        "lounge medieval metal modern newage opera other polka pop poprock progressive psychedelic punk rap reggae rnb "
        "rock rocknroll schlager singersongwriter ska soul swing synthpop tango techno traditional trance triphop wave "
        "world worldmusic"
    ).split()
)
"""Folders in the artist's place that say of what sort the music is, folded."""
VARIOUS = "Various Artists"
"""The artist of an album on which each song is by somebody else."""
ORDER = ("artist", "album_artist", "album", "year", "disc", "track", "title")
"""The fields of a song, in their order."""
_ALBUM_TAIL = pattern(
    r"(?i)[ ._-]*[\[({](?:flac[ ,-]+\d\d(?:[-/ .]\d{2,3}(?:k?hz)?)?|"
    r"mp3[ ,-]+(?:\d{2,3}|v0|cbr|vbr)(?: ?k(?:bps|bit)?)?|"
    r"flac|mp3|ogg|opus|aac|alac|lossless|v0|web|cd|vinyl|lp|ep|single|\d{2,3} ?k(?:bps|bit)?|"
    r"\d{3}|"
    r"\d[ x]?(?:cds?|discs?)|"
    r"(?:16|24)(?:[ -]?bit)?(?:[ /.-]\d{2,3}(?:\.\d)?(?:k?hz)?)?)[\])}][ ._-]*$"
)
_ALL_OF = pattern(r"(?i)[ ._-]+[(\[]?(?:complete )?discography[)\]]?(?:[ ._-].*)?$")
"""What stands behind an artist's name on a folder of all records."""
_SORTS = frozenset(f"{role} albums" for role in ("studio", "live")) | {
    "albums",
    "singles",
    "eps",
    "lps",
    "records",
    "live",
}
"""Folders between an artist and the records that say of what sort these are."""
_DISC_TAIL = pattern(r"(?i)[ ._-]*[(\[]?(?<![^\W_])(?:cd|dis[ck])[ ._-]?\d{1,2}[)\]]?$")
_RATE = pattern(r"(?i)[ ._-]*[\[(](\d{2,3}) ?(?:k|kbps|kbit/?s?)[\])]$")
_LEADING = pattern(
    r"(?i)^(?:track ?|#)?[\[(]?"
    r"(?:(?:(?:cd|dis[ck]|d)? ?(?P<disc>\d)(?: ?[-.] ?)|(?P<x>\d)x)(?P<of_disc>\d\d)|(?P<track>\d{1,3}))"
    r"(?P<gap>[\])]?(?:\s*[-.:)–—]+\s*|\s+))"
    r"(?P<rest>.*\S.*)$"
)
_NUMBER_ALONE = pattern(r"(?i)^(?:track|titel|piste|pista) ?(\d{1,2})$")
"""A name that a ripping program gives where it knows no title."""
_COPY_BEHIND = pattern(r" \(\d\)$")
_COPY = pattern(r"(?i)^copy(?: \(\d+\))? of |(?: - copy(?: ?\(\d+\))?)+$")
_FEATURING = pattern(r"(?i) (?:feat\.?|ft\.?|featuring|with|and|&|vs\.?|x) |, ")
"""What stands between an artist and a guest."""
_FORMATS = pattern(r"(?i)^(?:flac|mp3|ogg|opus|aac|alac|wav|web|vinyl|lossless|320|v0|cd|\d{2,3} ?k(?:bps)?)$")
"""A folder between a record and its songs that says in what form they are."""
_SURNAME_FIRST = pattern(r"^[^\W\d_]+, [^\W\d_]+$")
_SEPARATOR = pattern(r"\s+[-–—]+\s+")
_PADDED = pattern(r"^0\d$")
_RELEASE = pattern(
    r"(?i)^(?P<artist>[^-\s]+)-(?P<album>\S+?)-(?:(?:\d?cds?|cd[mrs]|ep|lp|web|vinyl|promo|reissue|remastered|flac)-)*"
    r"(?P<year>(?:19|20)\d\d)-(?P<group>[a-z0-9_]+)$"
)
"""The folder of a record as release groups write it: Ida_Marrow-Low_Lights-WEB-2009-BRINE."""
_YEAR_IN_BRACKETS = pattern(r"[ _-]*[(\[{]((?:19|20)\d\d)[)\]}][ ._-]*")
_REMARK_AND_YEAR = pattern(r"[(\[][^()\[\]]*[^\W\d_][^()\[\]]*(?:19|20)\d\d[)\]]")
"""A year that is no record's but of what is said beside it: "(Remaster 2011)"."""
_YEAR_DOTTED = pattern(r"^((?:19|20)\d\d)\. *(?=\D)")
_YEAR_FIRST = pattern(r"^(?:19|20)\d\d[ _](?=\D)")
_SIDE = pattern(r"^(?P<side>[A-H])(?P<track>\d{1,2})[ ._-]+(?!\d\d[ ._-])(?P<rest>.*\S.*)$")
_YEARS = pattern(r"^[(\[]?((?:19|20)\d\d)[)\]]?$")
_WEIGHT = 2.0
_MOST_TRACKS = 30
"""A bare number in front above this is taken for a word of the title ("99 Buoys")."""


@dataclass(frozen=True)
class _Album:
    """What the folders say: each "" or 0 where they do not. `sure` says that artist and album stand for themselves."""

    artist: str = ""
    album: str = ""
    year: int = 0
    disc: int = 0
    many: bool = False
    sure: bool = True
    texts: tuple[str, str] = ("", "")
    group: str = ""


def _is_many(text: str) -> bool:
    """Say whether a name in the artist's place says that there are several."""
    if match_key(text) in MANY:
        return True
    said = meaning(text)
    return any(said.get(concept) == 2 for concept in ("various_artists", "shelf.compilations", "shelf.soundtracks"))


def readings(stem: str, place: FolderContext, known: frozenset[str] = frozenset()) -> Iterator[Candidate]:
    """Yield the readings of an audio file called `stem` (without its ending); `known` are artists, folded."""
    text, facts = _without_rate(_COPY.sub("", _spaced(stem)))
    album = _album(place)
    if album.group and text.lower().endswith(f" - {album.group.lower()}"):
        text = text[: text.rindex(" - ")]
    found = CandidateBuilder(_WEIGHT)
    parts = [part.strip() for part in _SEPARATOR.split(text) if part.strip()]
    if not parts:
        return
    _put_album(found, album)
    number = _LEADING.match(text)
    alone = _NUMBER_ALONE.match(text)
    behind = next((n for n in range(1, len(parts) - 1) if parts[n].isdecimal()), 0)
    behind = behind or next((n for n in range(1, len(parts)) if _LEADING.match(parts[n])), 0)
    if alone:
        found.put("track", int(alone[1]), "name", text)
    elif (side := _SIDE.match(text)) and album.album:  # of a record: the third on side A is no third of all
        found.put("title", normalize_title(side["rest"]), "name", side["rest"])
        found.doubts.append(f"bare number: {side['side']}{side['track']} counts on one side of a record")
    elif number and not _is_word(number):
        _put_number(found, number, album)
        _named(found, [p.strip() for p in _SEPARATOR.split(number["rest"]) if p.strip()], album, known)
    elif behind and _numbered_inside(found, parts, behind, album):
        pass
    else:
        if len(parts) > 1 and _PADDED.match(parts[-1]):  # "Ida Marrow - Slack Water - 03"
            found.put("track", int(parts.pop()), "name", text)
        _named(found, parts, album, known)
    if copy := _COPY_BEHIND.search(text):
        found.put("title", normalize_title(_COPY_BEHIND.sub("", str(found.fields["title"]))), "name", text)
        found.doubts.append(f"copy or title: “{copy.group().strip()}” may belong to the title")
    _order_of_disc(found, album)
    yield found.reading(Kind.TRACK, facts)


def _spaced(stem: str) -> str:
    """Return a name with spaces for its separators; hyphens without spaces part it where nothing else does."""
    text = stem.replace("_", " ")
    if " " not in text and text.count(".") > 1:
        text = text.replace(".", " ")
    if not _SEPARATOR.search(_COPY.sub("", text)) and "-" in text and ("_" in stem or " " not in text):
        text = re.sub(r"(?<=\w)-(?=\w)", " - ", text) if not re.match(r"^\d-\d\d", text) else text
    return " ".join(text.split())


def _without_rate(text: str) -> tuple[str, dict[str, Value]]:
    match = _RATE.search(text)
    return (text[: match.start()], {"bitrate": int(match[1]) * 1000}) if match else (text, {})


def _album(place: FolderContext) -> _Album:
    """Read the folders: artist / album, or "artist - album" in one, with a year before or behind."""
    chain = place.titles()
    disc = place.disc_number.season if place.disc_number else 0
    if len(chain) > 2 and chain[0].guess and chain[0].text.isdecimal():  # a number alone below artist and album
        disc, chain = chain[0].season, chain[1:]
    if len(chain) > 1 and _FORMATS.match(chain[0].text) and (len(chain) > 2 or chain[1].year):
        chain = chain[1:]
    if not chain:
        return _Album(disc=disc)
    here, above, sure = chain[0], *_artist(place, chain)
    parts, year = _parts(here)
    disc = disc or here.part
    if above is not None and match_key(parts[0]) == match_key(above.title) and len(parts) > 1:
        parts = parts[1:]
    sorted_by_genre = above is not None and match_key(above.text) in GENRES
    if sorted_by_genre:
        above = None
    many = above is not None and _is_many(above.title)
    if len(parts) > 1 and (above is None or many):
        artist, album = parts[0], " - ".join(parts[1:])
        many = _is_many(artist)
        sure = bool(year) or sorted_by_genre or place.shelf is Kind.TRACK
        release = _RELEASE.match(here.text)
        return _Album(
            artist, album, year, disc, many, sure, (here.text, here.text), release["group"] if release else ""
        )
    if above is None:
        many = _is_many(parts[0])
        return _Album("", " - ".join(parts), year, disc, many, False, ("", here.text))
    remarks = above.year_weight >= BRACKETED or "(" in above.text or "[" in above.text  # "Cabin 1907" is a name
    artist = above.title if remarks and not _ALL_OF.search(above.text) else normalize_title(_ALL_OF.sub("", above.text))
    return _Album(artist, " - ".join(parts), year, disc, many, sure, (above.text, here.text))


def _artist(place: FolderContext, chain: Sequence[Folder]) -> tuple[Folder | None, bool]:
    """Return the folder in the artist's place, above the record's, and whether that is sure."""
    folders = place.folders[place.folders.index(chain[0]) + 1 :]
    if not folders:
        return None, True
    if folders[0].role is not FolderRole.TITLE and _is_many(folders[0].text):
        return replace(folders[0], title=folders[0].text), True
    if folders[0].text.lower() in _SORTS and len(folders) > 1 and folders[1].role is FolderRole.TITLE:
        return folders[1], folders[0].role is FolderRole.TITLE
    return (chain[1] if len(chain) > 1 else None), True


def _parts(folder: Folder) -> tuple[list[str], int]:
    """Return the parts of an album's folder without year, and the year (0: none) where it is no part of the name."""
    text = folder.text.replace("_-_", " - ")
    if release := _RELEASE.match(text):
        return [normalize_title(release["artist"]), normalize_title(release["album"])], int(release["year"])
    while cut := _ALBUM_TAIL.search(text) or (_DISC_TAIL.search(text) if folder.part else None):
        text = text[: cut.start()]
    parts = [part for part in _SEPARATOR.split(text.replace("_", " ")) if part.strip()]
    years = [year for part in parts if (match := _YEARS.match(part.strip())) and (year := int(match[1])) <= LAST_YEAR]
    bracketed = _YEAR_IN_BRACKETS.search(text)
    if years and len(parts) > 1 and not (bracketed and bracketed[1] != str(years[0])):
        return [normalize_title(part) for part in parts if not _YEARS.match(part.strip())] or [folder.title], years[0]
    if match := bracketed:
        before = text[: match.start()] if " " in text else text[: match.start()].rstrip(".")
        before = _DISC_TAIL.sub("", before) if folder.part else before
        rest = f"{before}{' - ' if ' - ' in match.group() else ' '}{text[match.end() :]}"
        return [normalize_title(part) for part in _SEPARATOR.split(rest) if normalize_title(part)] or [
            folder.title
        ], int(match[1])
    if match := _YEAR_DOTTED.match(text):
        return [normalize_title(text[match.end() :])], int(match[1])
    if folder.year and folder.year_weight >= FOLLOWED and not _REMARK_AND_YEAR.search(text):
        return [normalize_title(part) for part in _SEPARATOR.split(folder.title)], folder.year
    parts = [normalize_title(part) for part in _SEPARATOR.split(text)]
    return [part for part in parts if part] or [folder.text], 0


def _put_album(found: CandidateBuilder, album: _Album) -> None:
    if album.many and album.artist:
        found.put("album_artist", VARIOUS, "folder", album.texts[0])
    elif album.artist:
        found.put("artist", album.artist, "folder", album.texts[0])
        if not album.sure:
            found.doubts.append(f"order of names: “{album.artist}” or “{album.album}” may be the artist")
        elif _SURNAME_FIRST.match(album.artist):
            found.doubts.append(f"order of names: in “{album.artist}” the surname seems to stand first")
    if album.album:
        found.put("album", album.album, "folder", album.texts[1])
    if album.year:
        found.put("year", album.year, "folder", album.texts[1])
    elif first := _YEAR_FIRST.match(album.album):
        found.put("album", album.album[first.end() :], "folder", album.texts[1])
        found.put("year", int(album.album[:4]), "folder", album.texts[1])
        found.doubts.append(f"bare year: {album.album[:4]} may be the album's year or belong to its title")


def _is_word(number: re.Match[str]) -> bool:
    """Say whether a number in front is more likely a word of the title: large, with nothing but a space behind."""
    if number["of_disc"] or not number["gap"].isspace():
        return False
    digits = number["track"]
    return not digits.startswith("0") and (int(digits) > _MOST_TRACKS or len(digits) == 1)


def _put_number(found: CandidateBuilder, number: re.Match[str], album: _Album) -> None:
    if disc := number["disc"] or number["x"]:
        found.put("disc", int(disc), "name", disc)
        found.put("track", int(number["of_disc"]), "name", number["of_disc"])
        return
    digits = number["track"]
    if len(digits) == 3 and not digits.startswith("0"):
        found.put("disc", int(digits[0]), "name", digits)
        found.put("track", int(digits[1:]), "name", digits)
        if album.disc != int(digits[0]):
            found.doubts.append(f"bare number: {digits} may be disc {digits[0]} track {digits[1:]}, or a number")
    else:
        found.put("track", int(digits), "name", digits)


def _numbered_inside(found: CandidateBuilder, parts: Sequence[str], at: int, album: _Album) -> bool:
    """Read "artist - album - 03 - title" and "artist - 03 - title", the number perhaps in front of the title."""
    number = _LEADING.match(parts[at])
    alone = parts[at].isdecimal() and len(parts[at]) <= 2
    if not alone and (number is None or number["of_disc"] or not number["track"].startswith("0")):
        return False
    before = [normalize_title(part) for part in parts[:at]]
    title = " - ".join(parts[at + 1 :]) if alone else str(number and number["rest"])
    if len(before) > 2 or not title:
        return False
    if (
        album.artist
        and not album.many
        and match_key(before[0]) not in (match_key(album.artist), match_key(album.album))
    ):
        return False
    if len(before) == 2:
        found.put("artist", before[0], "name", parts[0])
        name = before[1]
        if match := _YEAR_IN_BRACKETS.search(name):
            name = name[: match.start()]
            found.put("year", int(match[1]), "name", match.group().strip())
        found.put("album", album.album if match_key(album.album) == match_key(name) else name, "name", parts[1])
        found.doubts.clear()
    elif match_key(before[0]) != match_key(album.album) or not album.artist:
        found.put("artist", before[0], "name", parts[0])
        if not album.sure and album.album and match_key(before[0]) != match_key(album.artist):
            found.doubts.clear()
    digits = parts[at] if alone else str(number and number["track"])
    found.put("track", int(digits), "name", digits)
    found.put("title", normalize_title(title), "name", title)
    return True


def _named(found: CandidateBuilder, parts: Sequence[str], album: _Album, known: frozenset[str]) -> None:
    """Read title, or artist and title, from what stands behind the number."""
    first = normalize_title(parts[0])
    rest = " - ".join(normalize_title(part) for part in parts[1:])
    if len(parts) == 1:
        found.put("title", first, "name", parts[0])
        _without_number(found, album)
        return
    alone = normalize_title(_FEATURING.split(parts[0])[0])
    is_artist = match_key(alone) in ({match_key(album.artist)} if album.artist and not album.many else set()) or (
        match_key(alone) in known
    )
    if album.artist and not album.many and not is_artist:
        found.put("title", f"{first} - {rest}", "name", " - ".join(parts))
        _without_number(found, album)
        return
    if len(parts) == 3 and album.album and match_key(parts[1]) == match_key(album.album):
        rest = normalize_title(parts[2])
    of_album = match_key(first) == match_key(album.artist)
    if first != alone and match_key(alone) == match_key(album.artist):
        found.put("album_artist", album.artist, "folder", album.texts[0])
    if of_album and not album.sure:
        found.doubts.clear()
    found.put("artist", album.artist if of_album else first, "name", parts[0])
    found.put("title", rest, "name", " - ".join(parts[1:]))
    if is_artist or ("track" in found.fields and album.album):
        return
    if match_key(rest) in known:
        found.put("artist", rest, "known", rest)
        found.put("title", first, "name", parts[0])
    else:
        found.doubts.append(f"order of names: “{first}” or “{rest}” may be the artist")


def _without_number(found: CandidateBuilder, album: _Album) -> None:
    """Without a track's number, two folders above may be a genre and an artist as well as an artist and an album."""
    if "track" not in found.fields and album.artist and not album.year and not album.disc:
        found.doubts.append(f"no track: “{album.texts[0]}” may be no artist")


def _order_of_disc(found: CandidateBuilder, album: _Album) -> None:
    if album.disc and "disc" not in found.fields:
        found.put("disc", album.disc, "folder", str(album.disc))
    found.fields = {key: found.fields[key] for key in ORDER if key in found.fields}
