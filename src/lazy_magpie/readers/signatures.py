"""What a file really is, from its first bytes: a table of signatures, each from its format's specification."""

from __future__ import annotations

from typing import NamedTuple

LONGEST = 0x8006
"""Bytes that have to be read at the most: the volume descriptor of ISO 9660 begins at sector 16."""


class Signature(NamedTuple):
    """Bytes at an offset, and the ending that files of this format have."""

    offset: int
    data: bytes
    ending: str


SIGNATURES = (
    Signature(0, b"\x1a\x45\xdf\xa3", ".mkv"),  # EBML (RFC 8794)
    Signature(4, b"ftypheic", ".heic"),  # ISO/IEC 23008-12
    Signature(4, b"ftypheix", ".heic"),
    Signature(4, b"ftyphevc", ".heic"),
    Signature(4, b"ftypmif1", ".heic"),
    Signature(4, b"ftypmsf1", ".heic"),
    Signature(4, b"ftypavif", ".avif"),
    Signature(4, b"ftypavis", ".avif"),
    Signature(4, b"ftypcrx ", ".cr3"),
    Signature(4, b"ftyp", ".mp4"),  # ISO/IEC 14496-12
    Signature(8, b"AVI LIST", ".avi"),  # RIFF
    Signature(8, b"WAVE", ".wav"),
    Signature(8, b"WEBP", ".webp"),
    Signature(0, b"\x00\x00\x01\xba", ".mpg"),  # ISO/IEC 11172-1
    Signature(0, b"FLV\x01", ".flv"),
    Signature(0, b"fLaC", ".flac"),  # RFC 9639
    Signature(0, b"OggS", ".ogg"),  # RFC 3533
    Signature(0, b"ID3", ".mp3"),
    Signature(0, b"\xff\xfb", ".mp3"),  # ISO/IEC 11172-3, layer III
    Signature(0, b"\xff\xf3", ".mp3"),
    Signature(0, b"\xff\xf2", ".mp3"),
    Signature(0, b"MAC ", ".ape"),
    Signature(0, b"DSD ", ".dsf"),
    Signature(0, b"FRM8", ".dff"),
    Signature(0, b"TTA1", ".tta"),
    Signature(0, b"tBaK", ".tak"),
    Signature(0, b"MPCK", ".mpc"),
    Signature(0, b"MThd", ".mid"),
    Signature(0, b"wvpk", ".wv"),
    Signature(0, b"\x89PNG\r\n\x1a\n", ".png"),  # ISO/IEC 15948
    Signature(0, b"\xff\xd8\xff", ".jpg"),  # ISO/IEC 10918-1
    Signature(0, b"GIF8", ".gif"),
    Signature(0, b"BM", ".bmp"),
    Signature(0, b"II*\x00", ".tif"),
    Signature(0, b"MM\x00*", ".tif"),
    Signature(0, b"8BPS", ".psd"),
    Signature(0, b"/* XPM */", ".xpm"),
    Signature(0, b"\x00\x00\x00\x0cjP  ", ".jp2"),  # ISO/IEC 15444-1
    Signature(6, b"%!PS-AdobeFont", ".pfb"),  # a Type 1 font, in segments and as text
    Signature(0, b"%!PS-AdobeFont", ".pfa"),
    Signature(0, b"\x00\x01\x00\x00\x00", ".ttf"),  # OpenType
    Signature(0, b"OTTO", ".otf"),
    Signature(0, b"ttcf", ".ttc"),
    Signature(0, b"wOFF", ".woff"),  # W3C WOFF 1.0
    Signature(0, b"wOF2", ".woff2"),  # W3C WOFF 2.0
    Signature(0, b"LA:", ".dst"),  # stitch files
    Signature(0, b"#PES", ".pes"),
    Signature(0, b"%vsm%", ".vp3"),
    Signature(0, b"!<arch>\ndebian", ".deb"),
    Signature(0, b"PK\x03\x04", ".zip"),
    Signature(0, b"PK\x05\x06", ".zip"),
    Signature(0, b"7z\xbc\xaf\x27\x1c", ".7z"),
    Signature(0, b"Rar!\x1a\x07", ".rar"),
    Signature(257, b"ustar", ".tar"),  # POSIX.1
    Signature(0, b"\x1f\x8b", ".gz"),  # RFC 1952
    Signature(0, b"BZh", ".bz2"),
    Signature(0, b"\xfd7zXZ\x00", ".xz"),
    Signature(0, b"\x28\xb5\x2f\xfd", ".zst"),  # RFC 8878
    Signature(0, b"%PDF-", ".pdf"),  # ISO 32000
    Signature(0x8001, b"CD001", ".iso"),  # ECMA-119
)
SAME = (
    frozenset([".mkv", ".webm", ".mka"]),
    frozenset([".mp3", ".mp2", ".aac", ".tta", ".tak", ".mpc", ".ape"]),  # behind a long ID3 tag
    frozenset([".mp4", ".m4v", ".m4a", ".m4b", ".mov", ".3gp", ".aac"]),
    frozenset([".ogg", ".oga", ".opus", ".ogv", ".spx"]),
    frozenset([".jpg", ".jpeg", ".tbn"]),
    frozenset([".tif", ".tiff", ".dng", ".nef", ".nrw", ".cr2", ".arw", ".sr2", ".pef", ".srw"]),
    frozenset([".heic", ".heif", ".hif", ".avif"]),
    frozenset([".pfb", ".pfa", ".t1"]),
    frozenset([".mid", ".midi", ".kar"]),
    frozenset([".pdf", ".ai"]),
    frozenset([".mpg", ".mpeg", ".vob"]),
    frozenset([".ttf", ".otf"]),
    frozenset([".ttc", ".otc"]),
    frozenset([".gz", ".tgz", ".svgz", ".vgz", ".vgm"]),
    frozenset([".bz2", ".tbz2"]),
    frozenset([".xz", ".txz"]),
    frozenset([".zst", ".tzst"]),
    frozenset([".iso", ".img", ".bin", ".udf"]),
    frozenset([".zip", ".epub", ".docx", ".xlsx", ".odt", ".ods", ".cbz", ".studio", ".jar", ".whl"]),
)
"""Endings of one container, which the signature can't tell apart."""


def real_ending(head: bytes) -> str:
    """Return the ending that the first `LONGEST` bytes of a file ask for, "" where no signature fits."""
    if head.startswith(b"ID3") and len(head) > _ID3_HEAD:
        behind = head[_ID3_HEAD + sum((byte & 0x7F) << 7 * (3 - at) for at, byte in enumerate(head[6:10])) :]
        return real_ending(behind) or ".mp3"
    for offset, data, ending in SIGNATURES:
        if head[offset : offset + len(data)] == data:
            return ending
    return ""


_ID3_HEAD = 10
"""Bytes in front of an ID3v2 tag, of which the last four say how long it is, seven bits each."""


def is_lying(ending: str, real: str) -> bool:
    """Say whether a file's ending promises another format than the one its contents have."""
    return bool(real) and ending != real and not any(ending in same and real in same for same in SAME)


_BOXES = frozenset([b"ftyp", b"moov", b"mdat", b"free", b"skip", b"wide"])
_SURE = frozenset(
    (
        ".mkv .webm .mka .mp4 .m4v .m4a .avi .flv .flac .ogg .oga .opus .ogv .png .jpg .jpeg .gif .webp .woff "
        ".woff2 .7z"
    ).split()
)
"""Endings whose files always begin with their signature."""
HEAD = 64
"""Bytes that `refusal` looks at."""


def refusal(ending: str, head: bytes) -> str:
    """Say why a file can't be what its ending promises, by its first bytes alone, before any decoder sees it."""
    if ending not in _SURE or real_ending(head) or head[4:8] in _BOXES:
        return ""
    return "it holds nothing but zeros" if not head.strip(b"\0") else f"not a valid {ending} file"
