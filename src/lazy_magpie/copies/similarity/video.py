"""Films that are the same in another coding, size or bit rate.

The print has the length, and a hash (as of pictures) and the mean colour of eight frames at even shares of it. Prints
of nearly one length that share enough of these hashes are candidates. A second look decides: at other places of both
films the frames must show the same, as pictures do, and where both have sound it must be the same recording.
"""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, Any

from lazy_magpie.copies.hamming_index import pairs_within
from lazy_magpie.copies.similarity import audio, pictures
from lazy_magpie.copies.similarity.likeness import Likeness, surely
from lazy_magpie.readers.video import moving_pictures

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Pairs = NDArray[np.int64]
    Levels = NDArray[np.float32]

_FRAMES, _LOOKS = 8, 7
"""Frames of a print, and of the second look."""
_ENOUGH, _AGREE = 0.6, 0.7
"""Shares of the frames that must be alike: for candidates, for the second look."""
_LONGER, _LONGER_SHARE = 1.0, 0.01
"""Seconds, or a share of the length, by which candidates may differ in length."""
_COLOURS_APART = 20
"""Levels (of 255) by which the mean colour of a frame may differ."""
_HEARD = 60.0
"""Seconds of sound that are compared."""


def fingerprint(path: str) -> bytes:
    """Return the print of the film at `path`: its length in seconds, eight hashes, and the mean colours of the frames.

    These are a float64, eight uint64, and 24 bytes. 0 stands for a frame with hardly anything in it; b"" for a film
    without pictures. Raises what PyAV does.
    """
    import numpy as np

    length, frames = _frames(path, _FRAMES)
    hashes = [pictures.hash_of(frame) for frame in frames]
    if len(frames) < _FRAMES or not any(hashes):
        return b""
    colours = [pictures.levels_of(frame, 4).mean(axis=(0, 1)) for frame in frames]
    parts = np.array([length], np.float64), np.array(hashes, np.uint64), np.round(colours).astype(np.uint8)
    return b"".join(part.tobytes() for part in parts)


def candidates(prints: list[bytes]) -> Pairs:
    """Return the pairs of places of prints of nearly one length that share enough frames."""
    import numpy as np

    lengths = np.array([np.frombuffer(one[:8], np.float64)[0] for one in prints])
    hashes = np.array([np.frombuffer(one[8 : 8 + 8 * _FRAMES], np.uint64) for one in prints]).reshape(-1, _FRAMES)
    colours = np.array([np.frombuffer(one[8 + 8 * _FRAMES :], np.uint8) for one in prints]).reshape(-1, _FRAMES, 3)
    found = [np.empty((0, 2), np.int64)]
    for frame in range(_FRAMES):
        there = np.flatnonzero(hashes[:, frame])
        found.append(there[pairs_within(hashes[there, frame], pictures.DISTANCE)])
    pairs, shared = np.unique(np.concatenate(found), axis=0, return_counts=True)
    known = (hashes[pairs[:, 0]] != 0) & (hashes[pairs[:, 1]] != 0)
    apart = np.abs(lengths[pairs[:, 0]] - lengths[pairs[:, 1]])
    near = apart <= np.maximum(_LONGER, _LONGER_SHARE * lengths[pairs[:, 0]])
    differ = np.abs(colours[pairs[:, 0]].astype(np.int16) - colours[pairs[:, 1]]).max(axis=2)
    coloured = (differ <= _COLOURS_APART).mean(axis=1) >= _ENOUGH
    close: Pairs = pairs[near & coloured & (shared >= np.maximum(_ENOUGH * known.sum(axis=1), 1))]
    return close


def confirm(one: str, other: str) -> Likeness:
    """Say, by a second look at both films, whether they are the same. Raises what PyAV does."""
    left, right = _looked_at(one), _looked_at(other)
    agree = [pictures.agree(here, there) for here, there in zip(left, right, strict=False)]
    if not agree or sum(agree) < _AGREE * len(agree):
        return Likeness.NOT
    heard, said = _sound(one), _sound(other)
    return surely(not (len(heard) and len(said)) or audio.same(heard, said))


@lru_cache(maxsize=64)
def _looked_at(path: str) -> list[Levels]:
    return [pictures.levels_of(frame, pictures.LOOK) for frame in _frames(path, _LOOKS)[1]]


@lru_cache(maxsize=64)
def _sound(path: str) -> audio.Bands:
    return audio.heard(path, _HEARD)


def _frames(path: str, count: int) -> tuple[float, list[Any]]:
    """Return a film's length in seconds, and `count` frames of it at even shares, each the last up to there."""
    import av

    with av.open(path) as container:
        streams = moving_pictures(container)
        if not streams:
            return 0.0, []
        stream = streams[0]
        stream.thread_type = "AUTO"
        length = _length(container, stream)
        base, begin = stream.time_base or 1, stream.start_time or 0
        found = []
        for number in range(count):
            wanted = begin + int(length * (number + 0.5) / count / base)
            container.seek(wanted, stream=stream)
            last = None
            for frame in container.decode(stream):
                if last is not None and frame.pts is not None and frame.pts > wanted:
                    break
                last = frame
            if last is not None:
                found.append(last.to_image())
    return length, found


def _length(container: Any, stream: Any) -> float:
    if stream.duration:
        return float(stream.duration * stream.time_base)
    return float(container.duration or 0) / 1_000_000
