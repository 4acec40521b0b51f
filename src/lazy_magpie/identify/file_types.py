"""What a file may be by its ending."""

from __future__ import annotations

from collections.abc import Sequence

from lazy_magpie.model import Kind
from lazy_magpie.paths import name_of, split_ending
from lazy_magpie.patterns import pattern
from lazy_magpie.split_archives import whole_name
from lazy_magpie.words import is_junk


def _endings(text: str) -> frozenset[str]:
    return frozenset("." + ending for ending in text.split())


VIDEO = _endings(
    "mkv mp4 avi m4v mov wmv mpg mpeg ts m2ts mts webm flv f4v ogv vob 3gp divx asf rm rmvb m2v mxf wtv iso img"
)
DATA = _endings("nfo xmp xml jsonld json yaml")
"""Endings of data about a thing, beside it; which of them are, their names and contents say."""
DISC_IMAGES = _endings("iso img")
SUBTITLES = _endings("srt sub idx ass ssa vtt sup smi sbv ttml dfxp")
METRICS = _endings("afm pfm")
"""Endings of how wide the letters of a Type 1 font are, which lies beside them."""
PICTURES = _endings("jpg jpeg png gif webp bmp tif tiff tbn heic heif hif avif jp2 xpm tga pcx ico")
CAMERA_RAW = _endings("cr2 cr3 crw nef nrw arw sr2 orf rw2 raf pef srw dng")
PROGRAMS = _endings("jar whl deb apk")
"""Endings of archives that programs are: what they hold is listed, and stays where it is."""
BESIDE_SONGS = {".cue": "cue", ".log": "info", ".m3u": "other", ".m3u8": "other", ".lrc": "other"}
"""What lies beside the songs of a record, and its role there."""

BY_ENDING: dict[str, Kind] = {
    **dict.fromkeys(VIDEO - DISC_IMAGES, Kind.MOVIE),
    **dict.fromkeys(
        _endings(
            "mp3 mp2 flac ogg oga opus spx m4a aac wav wma aif aiff ape wv mka m4b m4r shn tta tak mpc dsf dff ac3 dts "
            "mid midi kar mod s3m xm it mo3 mtm stm okt sid nsf spc vgm vgz gbs sap ra amr caf au"
        ),
        Kind.TRACK,
    ),
    **dict.fromkeys(_endings("ch8 c8 sc8 xo8 cue chd nes gb gbc gba sfc smc md gen"), Kind.GAME),
    **dict.fromkeys(_endings("ttf otf ttc otc woff woff2 pfb pfa t1"), Kind.FONT),
    **dict.fromkeys(
        _endings("pes dst jef exp vp3 vp4 hus xxx sew pec vip u01 jpx shv phb phc pcs csd dsb dsz ksm emd zhs"),
        Kind.DESIGN,
    ),
    **dict.fromkeys(PICTURES | CAMERA_RAW, Kind.PICTURE),
    **dict.fromkeys(
        _endings(
            "pdf txt md doc docx odt rtf html htm csv xls xlsx ods ppt pptx pps ppsx odp hwp hwpx xps chm vcf ics eml "
            "epub mobi azw azw3 fb2 djvu cbz cbr cb7"
        ),
        Kind.DOCUMENT,
    ),
    **dict.fromkeys(_endings("zip 7z tar gz tgz bz2 xz rar zst tzst tbz2 txz") | PROGRAMS, Kind.ARCHIVE),
    **dict.fromkeys(SUBTITLES | METRICS | _endings("nfo sfv xmp jsonld cdg moi thm edl md5 ffp st5"), Kind.COMPANION),
}
"""The kind that an ending makes likely; names, folders and contents decide."""

IMAGES = _endings("bin rom img iso mdf nrg ccd cdi gdi dsk tap")
"""Endings of images of discs and memories: a game's where the name or the folder says so."""
PARTS_OF_KITS = _endings("psd svg ai eps abr pat asl cut studio dxf")
"""Endings of drawings, brushes and templates that kits hold besides pictures."""

DRAWINGS = _endings("svg svgz psd ai eps")
"""Endings of drawings that are pictures where pictures are: elsewhere they may be a design to cut, or part of a kit."""

_TWICE = "mkv mp4 avi m4v mov wmv mpg mpeg mp3 flac ogg m4a jpg jpeg png"
_SECOND_ENDING = pattern(
    rf"(?<=[^\W_])(\.(?:{'|'.join(_TWICE.split())}|{'|'.join(_TWICE.upper().split())}))(?=$|[ _]?[(\[ _])"
)
"""An ending of a film, a song or a picture that is followed by the real one, and perhaps by a copy's number."""
_PAPERS = pattern(
    r"(?i)(readme|license|licence|copying|changelog|changes|authors|todo|install|news|credits|thanks|fontlog)"
)


def junk_in(paths: Sequence[str]) -> list[str]:
    """Return those of many paths that are left over by an operating system or a web page."""
    return [path for path in paths if path.startswith("__MACOSX/") or is_junk(name_of(path))]


def without_second_ending(stem: str, ending: str) -> str:
    """Return a stem without an ending of the same kind as the last one: "The Ferry.mp4" of "The Ferry.mp4.mkv"."""
    match = _SECOND_ENDING.search(stem) if "." in stem else None
    twice = match is not None and BY_ENDING[match[1].lower()] is BY_ENDING.get(ending.lower())
    return f"{stem[: match.start()]}{stem[match.end() :]}" if match and twice else stem


def is_archive(name: str) -> bool:
    """Say whether a name is that of an archive that may be taken apart, or of a volume of one."""
    ending = split_ending(whole_name(name))[1].lower()
    return BY_ENDING.get(ending) is Kind.ARCHIVE and ending not in PROGRAMS


def is_packed_paper(stem: str, ending: str) -> bool:
    """Say whether what is packed alone under this name is a document: "manual.txt.gz", "changelog.Debian.gz"."""
    inner = split_ending(stem)[1].lower()
    return ending in _PACKED_ALONE and (BY_ENDING.get(inner) is Kind.DOCUMENT or is_paper(stem.partition(".")[0]))


_PACKED_ALONE = _endings("gz bz2 xz zst")


def is_paper(name: str) -> bool:
    """Say whether a name without ending is that of a text that comes with programs and kits."""
    return _PAPERS.fullmatch(name) is not None
