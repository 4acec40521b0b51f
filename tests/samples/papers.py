"""Type 1 fonts with their metrics, and packages of programs."""

from __future__ import annotations

import io
import struct
import tarfile
import zipfile
from collections.abc import Callable, Mapping

from tests.samples.sample import Sample

_PFA = rb"""%!PS-AdobeFont-1.0: GullwickSans-BoldItalic 1.2
/FontInfo 9 dict dup begin
/version (1.2) readonly def
/Notice (Copyright \(c\) 2011 the kite club. SIL Open Font License.) readonly def
/FullName (Gullwick Sans Bold Italic) readonly def
/FamilyName (Gullwick Sans) readonly def
/Weight (Bold) readonly def
end readonly def
/FontName /GullwickSans-BoldItalic def
currentfile eexec
"""
_PFB = b"\x80\x01" + struct.pack("<I", len(_PFA)) + _PFA + b"\x80\x02" + struct.pack("<I", 32) + bytes(32) + b"\x80\x03"
_AFM = b"""StartFontMetrics 4.1
FontName GullwickSans-Light
FullName Gullwick Sans Light
FamilyName Gullwick Sans
Weight Light
Version 001.005
Notice Free for personal use only.
StartCharMetrics 229
"""
_OFL = r"Copyright (c) 2011 the kite club. SIL Open Font License."


def _pfm() -> bytes:
    head = bytearray(117)
    struct.pack_into("<HI", head, 0, 0x100, 117 + 14)
    struct.pack_into("<H", head, 83, 700)
    struct.pack_into("<I", head, 105, 117)
    return bytes(head) + b"Gullwick Sans\0"


def _deb() -> bytes:
    def tar(name: str, text: bytes) -> bytes:
        into = io.BytesIO()
        with tarfile.open(fileobj=into, mode="w:xz") as packed:
            entry = tarfile.TarInfo(name)
            entry.size = len(text)
            packed.addfile(entry, io.BytesIO(text))
        return into.getvalue()

    data = b"!<arch>\n"
    members = (("debian-binary", b"2.0\n"), ("control.tar.xz", tar("./control", b"Package: kite\n")))
    for name, text in (*members, ("data.tar.xz", tar("./usr/share/kite.txt", b"kite" * 100))):
        data += (
            f"{name:<16}{0:<12}{0:<6}{0:<6}{'100644':<8}{len(text):<10}`\n".encode() + text + b"\n" * (len(text) % 2)
        )
    return data


def _zip(name: str) -> Callable[[], bytes]:
    def data() -> bytes:
        into = io.BytesIO()
        with zipfile.ZipFile(into, "w") as packed:
            packed.writestr(name, b"x" * 400)
        return into.getvalue()

    return data


_SANS = {"family": "Gullwick Sans"}
_CRC = 0x6ECB3F72


SAMPLES: Mapping[str, Sample] = {
    "a.pfa": Sample(
        lambda: _PFA,
        _SANS | {"style": "Bold Italic", "weight": 700, "version": "1.2", "licence": _OFL, "licence_name": "OFL"},
    ),
    "a.pfb": Sample(
        lambda: _PFB,
        _SANS | {"style": "Bold Italic", "weight": 700, "version": "1.2", "licence": _OFL, "licence_name": "OFL"},
    ),
    "a.afm": Sample(
        lambda: _AFM,
        _SANS
        | {"style": "Light", "weight": 300, "version": "001.005", "glyphs": 229}
        | {"licence": "Free for personal use only.", "licence_name": "free for personal use"},
    ),
    "a.pfm": Sample(_pfm, _SANS | {"weight": 700}),
    "a.deb": Sample(
        _deb, {"members": 1, "unpacked": 400, "top": "usr", "contents": [["usr/share/kite.txt", 400, None]]}
    ),
    "a.jar": Sample(
        _zip("kite/Kite.class"),
        {"members": 1, "unpacked": 400, "holds": ".class", "top": "kite"}
        | {"contents": [["kite/Kite.class", 400, _CRC]]},
    ),
    "a.whl": Sample(
        _zip("kite.py"),
        {"members": 1, "unpacked": 400, "holds": ".py", "contents": [["kite.py", 400, _CRC]]},
    ),
}
