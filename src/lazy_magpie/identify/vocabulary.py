"""The words that names are read by: closed lists, as data. A new word is a new row.

Keys are as `marks.words_of` cuts them: lower case, without apostrophes, one entry a run of words. A STRONG
word never stands in a title; a WEAK one may (Web, French, Extended), so it counts only where a title has ended.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from lazy_magpie.patterns import pattern
from lazy_magpie.words import behind_titles, remembered

STRONG, WEAK = 2, 1
_WORD = pattern(r"[^\W_]+")


class Row(NamedTuple):
    """What a run of words means: the field it fills, its value there, and how strongly it says so."""

    field: str
    value: str
    strength: int


def _rows(field: str, strength: int, table: dict[str, str]) -> dict[tuple[str, ...], Row]:
    return {
        tuple(words.split()): Row(field, value, strength)
        for value, spellings in table.items()
        for words in spellings.split(", ")
    }


SOURCES = {
    "bluray": "bluray, blu ray, bdrip, brrip, bdremux, bd rip, bdscr, uhdrip, bluray rip, bd25, bd50",
    "web": "webrip, webdl, web dl, web rip, webscr, webhd, web hd, dlmux, webmux, web mux",
    "tv": "hdtv, hdtvmux, pdtv, dsr, dsrip, tvrip, tv rip, satrip, dvbrip, hdtvrip, dthrip, uhdtv, iptvrip",
    "dvd": "dvdrip, dvd rip, dvdscr, dvdscreener, dvd5, dvd9, hddvd, hd dvd, hddvdrip, dvd r, dvdremux",
    "vhs": "vhsrip, vhs rip",
    "cam": "hdcam, camrip, telesync, telecine, hdts, hd ts, hdtc, hd cam",
}
WEAK_SOURCES = {"bluray": "bd, remux", "web": "web", "tv": "tv", "dvd": "dvd", "vhs": "vhs", "cam": "cam, ts"}
CODECS = {
    "h264": "x264, h264, h 264, x 264, avc",
    "h265": "x265, h265, hevc, h 265, x 265",
    "av1": "av1",
    "vp9": "vp9",
    "mpeg2": "mpeg2, mpeg 2",
    "mpeg4": "xvid, divx, mpeg4, mpeg 4",
    "h266": "h266, h 266, vvc",
    "wmv": "wmv, wmv9",
    "vc1": "vc1, vc 1",
}
SOUND = {
    "aac": "aac, aac2, heaac, he aac",
    "ac3": "ac3, ac 3, dd5, ddp5, ddp, eac3, e ac3, dd2, dd 5 1, dd 2 0, dd 7 1, ddpa, ddpa5",
    "dts": "dts, dtshd, dts hd, dts ma, dtsx, dts x, dts es, dtses",
    "truehd": "truehd",
}
WEAK_SOUND = {"flac": "flac", "mp3": "mp3", "opus": "opus", "pcm": "pcm, lpcm", "vorbis": "vorbis", "atmos": "atmos"}
RANGES = {"hdr": "hdr10, hdr10plus, hdr 10, dovi"}
WEAK_RANGES = {"hdr": "hdr, dv, hlg, dolby vision", "sdr": "sdr"}
STEREO = {"3d": "hsbs, h sbs, sbs, fsbs, f sbs, hou, h ou, htab, h tab, half sbs, half ou, half tab, full sbs, full ou"}
WEAK_STEREO = {"3d": "3d, anaglyph"}
DEPTHS = {"10": "10bit, 10bits, hi10p, hi10", "8": "8bits", "12": "12bit, 12bits"}
WEAK_DEPTHS = {"10": "10 bit, 10 bits", "8": "8bit, 8 bit, 8 bits", "12": "12 bit"}
RIPS = {"rip": "hdrip, hd rip, webcap, ppvrip, vodrip, dvdr, bdr, ldrip, vcdrip, svcd, mhd"}
RELEASES = {
    "proper": "proper, real proper, proper2",
    "repack": "repack, rerip, repack2, repack3, rerip2",
    "internal": "internal",
    "limited": "limited",
    "multi": "multi, multilang, multisub, multisubs",
    "dual": "dual, dual audio, dual lang, dl",
    "dubbed": "dubbed, dub, dublado, doblado",
    "subbed": "subbed, sub, subs, subtitles, subtitled, hardsub, hardsubbed, hardsubs, softsubs, hc, esub, esubs, "
    "msubs, subtitulado, subtitulada, legendado, legendada, sottotitolato, omu, vose",
    "hd": "hd, fhd, uhd, sd, qhd, fullhd, full hd, hq, lq, vcd",
    "complete": "complete",
    "hybrid": "hybrid",
    "unaired": "unaired",
    "imported": "retail, ntsc, pal",
    "screener": "scr, screener, r5, r6",
    "original": "ov",
    "mended": "read nfo, nfofix, nfo fix, dirfix, syncfix, sync fix, samplefix",
    "shape": "ws, widescreen, fullscreen, letterbox",
}
EDITIONS = {
    "Director's Cut": "directors cut, director s cut, dir cut, dc",
    "Extended": "extended, extended cut, extended edition, extended version",
    "Remastered": "remastered, digitally remastered, remaster",
    "Restored": "restored",
    "Unrated": "unrated, unrated cut, unrated version",
    "Uncut": "uncut, uncut version",
    "Uncensored": "uncensored",
    "Theatrical": "theatrical, theatrical cut, theatrical version, theatrical edition",
    "Final Cut": "final cut, the final cut",
    "Special Edition": "special edition",
    "Collector's Edition": "collectors edition, collector s edition",
    "Ultimate Edition": "ultimate edition, ultimate cut",
    "Anniversary Edition": "anniversary edition",
    "Alternate Cut": "alternate cut, alternative cut",
    "Workprint": "workprint, work print",
    "Redux": "redux",
    "Colorized": "colorized, colourized, colorised, colourised",
    "Open Matte": "open matte",
}
SURE_EDITIONS = frozenset("remastered remaster unrated theatrical extended".split())
"""Editions of one word that stand in front of a year, too, and end no title."""
LANGUAGES = {
    "en": "english, eng",
    "fr": "french, fre, fra, vf",
    "de": "german, deutsch, ger, deu",
    "es": "spanish, espanol, castellano, spa, latino",
    "it": "italian, italiano, ita",
    "pt": "portuguese, por, ptbr",
    "nl": "dutch, nld, dut, nl gesproken, nederlands gesproken",
    "sv": "swedish, swe",
    "no": "norwegian, nor",
    "da": "danish, dan",
    "fi": "finnish, fin",
    "pl": "polish, pol, lektor",
    "cs": "czech, cze, ces, cz dabing, czdabing, cz dub, czdub, cz",
    "hu": "hungarian, hun",
    "ru": "russian, rus",
    "ja": "japanese, jpn, jap",
    "ko": "korean, kor",
    "zh": "chinese, chi, zho, mandarin",
    "ar": "arabic, ara",
    "tr": "turkish, tur, turkce dublaj, türkçe dublaj, turkce, türkçe",
    "el": "greek, gre, ell",
    "he": "hebrew, heb",
    "hi": "hindi, hin",
    "uk": "ukrainian, ukr",
    "ro": "romanian",
    "bg": "bulgarian",
    "hr": "croatian, hrv",
    "sr": "serbian, srp",
    "sk": "slovak, slk, sk dabing, skdabing, sk dub, skdub, sk",
    "sl": "slovenian, slovene",
    "is": "icelandic",
    "th": "thai",
    "vi": "vietnamese",
    "ca": "catalan",
    "fa": "persian, farsi",
    "nordic": "nordic",
}
MORE_LANGUAGES = {
    "gu": "gujarati", "ta": "tamil", "te": "telugu", "ml": "malayalam", "kn": "kannada", "bn": "bengali",
    "mr": "marathi", "pa": "punjabi", "ur": "urdu", "id": "indonesian", "et": "estonian", "lv": "latvian",
    "lt": "lithuanian",
}  # fmt: skip
"""Languages whose codes are words as often."""
STRONG_LANGUAGES = {"fr": "truefrench, vff, vfq"}
"""Words for a language that stand in no title."""
SUBTITLED = {"subbed": "vostfr, vost, subfrench, fastsub, engsub, engsubs, subita"}
"""Words for the language of subtitles: they say nothing of the sound's, and stand in no title."""
LANGUAGE_CODES = frozenset(LANGUAGES) - {"nordic"} | {
    "uk",
    "ro",
    "bg",
    "hr",
    "sr",
    "sk",
    "sl",
    "et",
    "lv",
    "lt",
}
LANGUAGE_CODES |= {"th", "vi", "id", "ca", "is", "ga", "cy", "gd", "fa"}

_RUNS: dict[tuple[str, ...], Row] = {
    **_rows("source", STRONG, SOURCES),
    **_rows("source", WEAK, WEAK_SOURCES),
    **_rows("codec", STRONG, CODECS),
    **_rows("sound", STRONG, SOUND),
    **_rows("sound", WEAK, WEAK_SOUND),
    **_rows("range", STRONG, RANGES),
    **_rows("range", WEAK, WEAK_RANGES),
    **_rows("stereo", STRONG, STEREO),
    **_rows("stereo", WEAK, WEAK_STEREO),
    **_rows("depth", STRONG, DEPTHS),
    **_rows("depth", WEAK, WEAK_DEPTHS),
    **_rows("release", STRONG, RIPS),
    **_rows("release", WEAK, RELEASES),
    **_rows("edition", WEAK, EDITIONS),
    **_rows("languages", STRONG, STRONG_LANGUAGES),
    **_rows("release", STRONG, SUBTITLED),
    **_rows("languages", WEAK, LANGUAGES),
    **_rows("languages", WEAK, MORE_LANGUAGES),
    ("4k",): Row("resolution", "2160p", WEAK),
    ("8k",): Row("resolution", "4320p", WEAK),
}
_BY_CONCEPT = {
    "edition.directors_cut": "Director's Cut", "edition.extended": "Extended", "edition.restored": "Restored",
    "edition.remastered": "Remastered", "edition.uncut": "Uncut", "edition.theatrical": "Theatrical",
    "edition.final_cut": "Final Cut", "edition.special": "Special Edition", "edition.ultimate": "Ultimate Edition",
    "edition.collectors": "Collector's Edition", "edition.anniversary": "Anniversary Edition",
    "edition.alternative": "Alternate Cut", "edition.colourised": "Colorized",
}  # fmt: skip
_RELEASED = {"audio.dubbed": "dubbed", "audio.original_subbed": "subbed", "subtitles.hard": "subbed"}


@remembered(None)
def runs() -> Mapping[tuple[str, ...], Row]:
    """Return every run of words that means something by itself, with those of all languages behind a title."""
    found: dict[tuple[str, ...], Row] = {}
    for phrase, concept in sorted(behind_titles().items()):
        words = tuple(_WORD.findall(phrase.replace("'", "")))
        language = concept.removeprefix("language.")
        if edition := _BY_CONCEPT.get(concept):
            found[words] = Row("edition", edition, WEAK)
        elif len(words) == 1 and (released := _RELEASED.get(concept)):
            found[words] = Row("release", released, WEAK)
        elif language != concept and len(language) == 2:
            found[words] = Row("languages", language, WEAK)
    return found | _RUNS


SMALL_WORDS = frozenset(
    (
        "a an and as at but by de des del der die das du en et for from in into la le les nor of off on or over per "
        "the to und up upon van via von vs with y"
    ).split()
)
"""Words that stay small inside a title set in title case."""

ACRONYMS = frozenset("tv uk usa fm hms uss sos dj".split())
"""Words that stay in capitals where a title is set in title case."""

SEASONS = frozenset("spring summer autumn winter".split())
CONNECTING = SEASONS | frozenset(
    (
        "a after an and around at before between by circa during for from in into of on or since "
        "the through till to toward until was year year"
    ).split()
)
"""Words that a year after them belongs to: in "Summer of 1962" it is part of the title."""

ARTICLES = (
    "the",
    "a",
    "an",
    "le",
    "la",
    "les",
    "der",
    "die",
    "das",
    "el",
    "los",
    "las",
    "il",
    "lo",
    "gli",
    "de",
    "het",
    "l'",
    "l’",
)
MOVED_ARTICLES = (*ARTICLES, *"un une una uno ein eine een den det en ett os um uma".split())
"""Articles that stand behind a comma at a title's end."""
COUNTRIES = frozenset("us uk au nz ca ie".split())
PLACEHOLDERS = frozenset(
    "t cd dvd part movie film video feature main title untitled output new disc disk full index clip vts pt".split()
)
ORDINALS = {
    word: number
    for number, word in enumerate(
        [
            "first",
            "second",
            "third",
            "fourth",
            "fifth",
            "sixth",
            "seventh",
            "eighth",
            "ninth",
            "tenth",
            "eleventh",
            "twelfth",
        ],
        start=1,
    )
}
COUNTED = {
    word: n
    for n, word in enumerate(
        "one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen".split(),
        start=1,
    )
}
ROMAN_COUNTED = {word: n for n, word in enumerate("i ii iii iv v vi vii viii ix x".split(), start=1)}
HAN_COUNTED = {word: n for n, word in enumerate("一二三四五六七八九十", start=1)}
EXTRA_FOLDERS = {
    "extras": "other", "extra": "other", "bonus": "other", "bonus features": "other", "special features": "other",
    "featurettes": "featurette", "featurette": "featurette",
    "behind the scenes": "behind the scenes", "making of": "behind the scenes", "the making of": "behind the scenes",
    "bts": "behind the scenes",
    "deleted scenes": "deleted scene", "deleted": "deleted scene", "outtakes": "other", "bloopers": "other",
    "bonusmaterial": "other", "bonus material": "other", "extra material": "other", "bonus disc": "other",
    "gag reel": "other", "clips": "other", "promos": "trailer", "teasers": "trailer", "others": "other",
    "interviews": "interview", "interview": "interview",
    "scenes": "scene", "shorts": "short", "trailers": "trailer", "trailer": "trailer",
    "sample": "sample", "samples": "sample", "other": "other",
}  # fmt: skip
"""Folders below a film's or a show's, and which extra lies in them."""

EXTRA_NAMES = {
    "making of": "behind the scenes", "the making of": "behind the scenes", "behind the scenes": "behind the scenes",
    "deleted scenes": "deleted scene", "deleted scene": "deleted scene", "outtakes": "other", "bloopers": "other",
    "gag reel": "other", "interviews": "interview", "interview": "interview", "featurette": "featurette",
    "trailer": "trailer", "theatrical trailer": "trailer", "teaser": "trailer", "teaser trailer": "trailer",
    "sample": "sample", "promo": "trailer", "featurettes": "featurette",
}  # fmt: skip
"""Whole names, perhaps with a number, that an extra has in the folder of its film or show."""

EXTRA_SUFFIXES = {
    "trailer": "trailer", "sample": "sample", "behindthescenes": "behind the scenes", "deleted": "deleted scene",
    "deletedscene": "deleted scene", "featurette": "featurette", "interview": "interview", "scene": "scene",
    "short": "short", "extra": "other", "bonus": "other", "other": "other",
}  # fmt: skip
"""Words that stand behind a hyphen at the end of a film's name and make it an extra."""

COMPANION_FOLDERS = frozenset(
    (
        "subs sub subtitles subtitle srt cover covers artwork art images pictures posters scans proof screens "
        "screenshots booklet"
    ).split()
)
"""Folders that hold only what belongs to the film or show above them."""

DISC_FOLDERS = frozenset("video_ts bdmv hvdvd_ts".split())
"""Folders whose inside is one disc, laid out by the disc's standard: one item, never renamed inside."""

SHELF_WORDS = {
    "movie": "films, film, movies, movie, feature films, cinema, my films, my movies, filme, pelis, peliculas",
    "episode": "tv, tv shows, shows, series, television, tv series, episodes, programmes, serien, tv-shows, "
    "my shows, box sets, boxsets",
    "track": "music, songs, audio, albums, my music, podcasts, audiobooks, audio books",
    "game": "games, roms, old games, game images, my games",
    "font": "fonts, typefaces, stitch fonts, embroidery fonts, my fonts",
    "design": "designs, embroidery, stitch designs",
    "firmware": "firmware, bios, system files",
    "kit": "kits, craft kits, paper craft, papercraft",
    "picture": "pictures, photos, images, my pictures",
    "document": "documents, manuals, my documents",
}
SHELVES = {word: kind for kind, words in SHELF_WORDS.items() for word in words.split(", ")}
"""Folder names that tell what is kept below them."""

GENERIC_WORDS = frozenset(
    (
        "download downloads downloaded new folder untitled incoming finished unsorted sort to misc miscellaneous "
        "various stuff things temp tmp inbox attic desktop media video videos collection collections my old disk disc "
        "drive usb hdd backup backups home data files shared public watched unwatched seen unseen todo done the of "
        "from on heap archive archives storage torrents library recent added latest copy external internal "
        "complete discs disks isos cds carts cartridges sets mkv mp4 avi wmv mpg original originals"
    ).split()
)
"""Folder names made of these words and numbers alone say nothing about what lies in them."""
