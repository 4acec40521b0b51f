"""Decodes a file from its beginning to its end: whether it can be played, seen or unpacked whole.
unpacked.

Films and songs by PyAV, pictures by Pillow, zips by the checksums that they carry. What is of another kind is passed
by.
"""

from __future__ import annotations

import os
import zipfile
from typing import Any

from lazy_magpie import picture_files
from lazy_magpie.readers import audio, pictures, video

ZIPS = frozenset([".zip", ".cbz", ".epub", ".jar", ".docx", ".xlsx", ".ods", ".odt"])
ENDINGS = video.ENDINGS | audio.ENDINGS | pictures.ENDINGS | ZIPS
"""The endings of files that can be decoded."""
_SLACK, _SHARE = 0.5, 0.03
"""By how much, in seconds and of the whole, a file may end before it says."""


def answer(path: str) -> dict[str, object]:
    """Answer {"wrong": why}, {} where nothing is. Raises whatever a decoder does with damage."""
    ending = os.path.splitext(path)[1].lower()
    if ending in ZIPS:
        with zipfile.ZipFile(path) as archive:
            bad = archive.testzip()
        return {"wrong": f"its member {bad} is damaged"} if bad else {}
    if ending in pictures.ENDINGS:
        with picture_files.opened(path) as picture:
            picture.load()
        return {}
    return _played(path)


def _played(path: str) -> dict[str, object]:
    """Decode the first picture and the first sound of a file, all of both."""
    import av

    end = 0.0
    with av.open(path) as container:
        whole = (container.duration or 0) / av.time_base
        for packet in container.demux([*container.streams.video[:1], *container.streams.audio[:1]]):
            try:
                frames: list[Any] = list(packet.decode())
            except av.FFmpegError as error:
                return {"wrong": f"after {end:.0f} s: {error.strerror}"}
            for frame in frames:
                if frame.is_corrupt:
                    return {"wrong": f"a picture or sound after {end:.0f} s is damaged"}
                end = max(end, frame.time or 0.0)
    is_short = end < whole - max(_SLACK, whole * _SHARE)
    return {"wrong": f"it ends after {end:.0f} of {whole:.0f} s"} if is_short else {}
