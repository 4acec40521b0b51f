"""Films that are the same in another coding, size or bit rate.

The print has the length, and a hash (as of pictures) and the mean colour of eight frames at even shares of it. Prints
of nearly one length that share enough of these hashes are candidates. A second look decides: at other places of both
films the frames must show the same, as pictures do, and where both have sound it must be the same recording.
"""

from __future__ import annotations

from collections.abc import Iterator
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
    Kept = NDArray[np.uint8]

_FRAMES, _LOOKS = 8, 7
"""Frames of a print, and of the second look."""
_ENOUGH, _AGREE = 0.6, 0.7
"""Shares of the frames that must be alike: for candidates, for the second look."""
_AROUND, _SHARE_AROUND, _MOST = 0.15, 0.0125, 6
"""Seconds by which frames of one film may stand elsewhere in another, which has fewer or more of them a second; the
share of its length that is most; so many of these frames are looked at."""
_LONGER, _OF_SHORT, _LONGER_SHARE = 1.0, 0.1, 0.01
"""Seconds by which candidates may differ in length: no more of a short one, no less of a long one, than a share."""
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

    length, places = _frames(path, _FRAMES)
    frames = [place[0] for place in places]
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
    longest = lengths[pairs[:, 0]]
    near = apart <= np.maximum(np.minimum(_LONGER, _OF_SHORT * longest), _LONGER_SHARE * longest)
    differ = np.abs(colours[pairs[:, 0]].astype(np.int16) - colours[pairs[:, 1]]).max(axis=2)
    coloured = (differ <= _COLOURS_APART).mean(axis=1) >= _ENOUGH
    close: Pairs = pairs[near & coloured & (shared >= np.maximum(_ENOUGH * known.sum(axis=1), 1))]
    return close


def confirm(one: str, other: str) -> Likeness:
    """Say, by a second look at both films, whether they are the same. Raises what PyAV does."""
    left, right = _looked_at(one), _looked_at(other)
    agree = [_show_the_same(here, there) for here, there in zip(left, right, strict=False)]
    if not agree or sum(agree) < _AGREE * len(agree):
        return Likeness.NOT
    heard, said = _sound(one), _sound(other)
    return surely(not (len(heard) and len(said)) or audio.same(heard, said))


def _show_the_same(here: list[Kept], there: list[Kept]) -> bool:
    """Say whether a frame shows what one of the other film shows then, or just before or after: rates differ."""
    one, other = _as_levels(here), _as_levels(there)
    return any(pictures.agree(one[0], frame) for frame in other) or any(
        pictures.agree(other[0], frame) for frame in one[1:]
    )


def _as_levels(frames: list[Kept]) -> list[Levels]:
    import numpy as np

    return [frame.astype(np.float32) for frame in frames]


@lru_cache(maxsize=32)
def _looked_at(path: str) -> list[list[Kept]]:
    import numpy as np

    places = _frames(path, _LOOKS, _AROUND)[1]
    return [
        [np.round(pictures.levels_of(frame, pictures.LOOK)).astype(np.uint8) for frame in place] for place in places
    ]


@lru_cache(maxsize=64)
def _sound(path: str) -> audio.Bands:
    return audio.heard(path, _HEARD)


def _frames(path: str, count: int, around: float = 0.0) -> tuple[float, list[list[Any]]]:
    """Return a film's length in seconds, and frames of it at `count` even shares.

    Of each place that is the last frame up to there, and behind it those that are `around` seconds before or after.
    """
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
            if place := _around(container.decode(stream), wanted, int(min(around, _SHARE_AROUND * length) / base)):
                found.append([frame.to_image() for frame in place])
    return length, found


def _around(decoded: Iterator[Any], wanted: int, reach: int) -> list[Any]:
    """Return the last frame up to a time, then the others at most `reach` before or after it."""
    last, others = None, []
    for frame in decoded:
        if frame.pts is not None and frame.pts > wanted:
            if last is None:
                last = frame
            elif frame.pts > wanted + reach:
                break
            else:
                others.append(frame)
            continue
        if last is not None and last.pts is not None and last.pts >= wanted - reach:
            others.append(last)
        last = frame
    return [last, *others[:: 1 + len(others) // _MOST]] if last is not None else []


def _length(container: Any, stream: Any) -> float:
    if stream.duration:
        return float(stream.duration * stream.time_base)
    return float(container.duration or 0) / 1_000_000
