"""Sounds that are the same recording: in another coding or bit rate, louder or quieter, with some silence more.

The print has the length, the mean level of each band, and 16 bits for each 64 ms: whether the energy of each of 16
bands, against its neighbour's, rose or fell (Haitsma and Kalker, A highly robust audio fingerprinting system, ISMIR
2002). Lengths and levels are looked up in a tree; neighbours there whose bits agree, laid upon each other as they fit
best, are candidates. A second look at both sounds decides: their bands must run alike all along, and in each stretch
of three seconds.
"""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, TypeVar

from lazy_magpie.copies.similarity.likeness import Likeness, surely

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Samples = NDArray[np.float32]
    Bands = NDArray[np.float32]
    Words = NDArray[np.uint16]
    Pairs = NDArray[np.int64]

Rows = TypeVar("Rows", "Bands", "Words")

RATE = 8000
"""Samples a second that are looked at."""
_FRAME, _HOP, _STEP = 2048, 512, 256
"""Samples of a frame, from one to the next in a print, and in the second look."""
_BANDS = 17
_LOWEST, _HIGHEST = 200.0, 3600.0
"""Hertz."""
PRINTED, _LOOKED_AT = 60.0, 600.0
"""Seconds that the print and the second look take in at the most."""
_DIFFER = 0.34
"""The share of bits in which two candidates may differ; chance makes a half."""
_LEVELS_APART = 4.0
"""Decibels by which the mean level of a band may differ between candidates."""
_SILENT = 60.0
"""Decibels below the loudest frame: silence."""
_FLOOR = 45.0
"""Decibels below the loudest band: what is quieter counts as so quiet."""
_LONGER = 2.6
"""Seconds by which sounds may differ in length: one fades out, or was cut where hardly anything sounds."""
_FADED, _NOTHING = 20.0, 0.3
"""Decibels below the loudest that what only one of them has must be, and seconds of it that are not looked at."""
_SHORTEST = 12
"""Frames that a sound needs for a print."""
_STRETCH = 96
"""Frames of a stretch: three seconds."""
_ALL_ALIKE, _EACH_ALIKE = 0.95, 0.85
"""How far bands must run alike, as a correlation: over all, and in each stretch."""
_BAND_OFF, _BAND_OFF_AT_ONCE = 4.5, 6.0
"""Decibels by which one band may lie off over all, and in a stretch."""


def fingerprint(path: str) -> bytes:
    """Return the print of the sound at `path` from the first frame that sounds; b"" where nothing does.

    It has the length in seconds and the mean levels (float32), and a word of 16 bits for each frame.
    Raises what PyAV does for a file that it can't open.
    """
    import numpy as np

    bands = _floored(_sounding(_bands(samples_of(path, PRINTED), _BANDS, _HOP)))
    if len(bands) < _SHORTEST:
        return b""
    across = bands[:, :-1] - bands[:, 1:]
    words = (across[1:] - across[:-1] > 0) @ (1 << np.arange(_BANDS - 1)).astype(np.uint32)
    levels = bands.mean(axis=0)
    head = np.array([len(bands) * _HOP / RATE, *(levels - levels.mean())], np.float32)
    return head.tobytes() + words.astype(np.uint16).tobytes()


def candidates(prints: list[bytes]) -> Pairs:
    """Return the pairs of places of prints that are near each other in length and levels, and whose words agree."""
    import numpy as np
    from scipy.spatial import cKDTree

    size = 4 * (1 + _BANDS)
    heads = np.array([np.frombuffer(one[:size], np.float32) for one in prints]).reshape(-1, 1 + _BANDS)
    heads[:, 0] *= _LEVELS_APART / _LONGER
    near = cKDTree(heads).query_pairs(_LEVELS_APART, p=np.inf, output_type="ndarray")
    words = [np.frombuffer(one[size:], np.uint16) for one in prints]
    close = [differing(words[one], words[other]) <= _DIFFER for one, other in near]
    return np.unique(np.sort(near, axis=1)[np.array(close, bool)], axis=0)


def differing(one: Words, other: Words) -> float:
    """Return the share of bits in which two rows of words differ, laid upon each other as they fit best."""
    import numpy as np

    slack = _slack(_HOP)
    laid = (_laid(one, other, shift) for shift in range(-slack, slack + 1))
    bits = (np.bitwise_count(left ^ right).mean() for left, right in laid if len(left) >= _SHORTEST // 2)
    return min(1.0, float(min(bits, default=_BANDS - 1)) / (_BANDS - 1))


def confirm(one: str, other: str) -> Likeness:
    """Say, by a second look at both sounds, whether they are one recording. Raises what PyAV does."""
    return surely(same(_looked_at(one), _looked_at(other)))


def same(one: Bands, other: Bands) -> bool:
    """Say whether two sounds, as the energies of their bands, run alike all along."""
    if min(len(one), len(other)) < _SHORTEST or abs(len(one) - len(other)) * _STEP / RATE > _LONGER:
        return False
    slack = _slack(_STEP)
    shifts = sorted(range(-slack, slack + 1), key=abs)  # of a steady tone all are as good: it begins with both
    best = max(shifts, key=lambda shift: round(_likeness(*_laid(one, other, shift)), 3))
    left, right = _laid(one, other, best)
    if not all(
        _is_faded(whole, rest) for whole, rest in ((one, _rest(one, best, left)), (other, _rest(other, -best, left)))
    ):
        return False
    apart = _levelled(left) - _levelled(right)
    stretches = [slice(at, at + _STRETCH) for at in range(0, max(len(left) - _STRETCH // 2, 1), _STRETCH)]
    return (
        _likeness(left, right) >= _ALL_ALIKE
        and min(_likeness(left[some], right[some]) for some in stretches) >= _EACH_ALIKE
        and _off(apart) < _BAND_OFF
        and max(_off(apart[some]) for some in stretches) < _BAND_OFF_AT_ONCE
    )


def _off(apart: Bands) -> float:
    """Return how far the band that is off most lies off, as a rule: it was mixed louder or quieter."""
    import numpy as np

    return float(np.abs(np.median(apart, axis=0)).max())


def _slack(hop: int) -> int:
    """Return by how many frames the beginnings of two sounds may be taken for different."""
    return round(0.4 * RATE / hop)


def _laid(one: Rows, other: Rows, shift: int) -> tuple[Rows, Rows]:
    """Return what two sounds have of the same time if `other` begins `shift` frames later than `one`."""
    left, right = (one[shift:], other) if shift >= 0 else (one, other[-shift:])
    length = min(len(left), len(right))
    return left[:length], right[:length]


def _rest(bands: Bands, skipped: int, shared: Bands) -> Bands:
    """Return what a sound has besides what it shares with another one, which begins `skipped` frames within it."""
    import numpy as np

    start = max(skipped, 0)
    return np.concatenate([bands[:start], bands[start + len(shared) :]])


def _is_faded(whole: Bands, rest: Bands) -> bool:
    """Say whether hardly anything sounds in the rest of a sound."""
    import numpy as np

    if len(rest) * _STEP / RATE <= _NOTHING:
        return True
    return float(np.quantile(rest.max(axis=1), 0.9)) <= float(whole.max()) - _FADED


def _levelled(bands: Bands) -> Bands:
    import numpy as np

    levelled: Bands = bands - np.median(bands)
    return levelled


def _likeness(left: Bands, right: Bands) -> float:
    """Return the correlation of all bands of two sounds over time, loudness set aside."""
    import numpy as np

    if len(left) < 2:
        return 1.0
    one, other = left - left.mean(), right - right.mean()
    return float((one * other).sum() / np.sqrt((one * one).sum() * (other * other).sum() + 1e-6))


@lru_cache(maxsize=64)
def _looked_at(path: str) -> Bands:
    return heard(path, _LOOKED_AT)


def heard(path: str, seconds: float) -> Bands:
    """Return the energies of bands that `same` compares, of the first `seconds` of a file; none if nothing sounds."""
    return _floored(_sounding(_bands(samples_of(path, seconds), 2 * _BANDS, _STEP)))


def _floored(bands: Bands) -> Bands:
    """Return levels with what is far below the loudest as one floor: there codings make what they like."""
    import numpy as np

    floored: Bands = np.maximum(bands, bands.max() - _FLOOR) if len(bands) else bands
    return floored


def samples_of(path: str, seconds: float) -> Samples:
    """Return the first `seconds` of the sound in a file: one channel at `RATE`; none where the file has no sound.

    Raises what PyAV does for a file that it can't open.
    """
    import av
    import numpy as np

    parts: list[Samples] = [np.empty(0, np.float32)]
    with av.open(path) as container:
        if not container.streams.audio:
            return parts[0]
        resampler = av.AudioResampler(format="flt", layout="mono", rate=RATE)
        left = int(seconds * RATE)
        for frame in container.decode(container.streams.audio[0]):
            for piece in resampler.resample(frame):
                parts.append(piece.to_ndarray().ravel().astype(np.float32))
                left -= len(parts[-1])
            if left <= 0:
                break
    return np.concatenate(parts)[: int(seconds * RATE)]


def _bands(samples: Samples, count: int, hop: int) -> Bands:
    """Return the energy of each of `count` bands, spaced evenly in pitch, in decibels: shape (frames, count)."""
    import numpy as np

    if len(samples) < _FRAME:
        return np.empty((0, count), np.float32)
    starts = np.arange(0, len(samples) - _FRAME + 1, hop)
    edges = np.geomspace(_LOWEST, _HIGHEST, count + 1) * _FRAME / RATE
    bounds = np.round(edges).astype(int)
    window = np.hanning(_FRAME).astype(np.float32)
    found: list[Bands] = []
    for at in range(0, len(starts), 512):
        frames = samples[starts[at : at + 512, None] + np.arange(_FRAME)] * window
        power = np.square(np.abs(np.fft.rfft(frames, axis=1))).astype(np.float32)
        energies: Bands = np.add.reduceat(power[:, : bounds[-1]], bounds[:-1], axis=1, dtype=np.float32)
        found.append(energies)
    decibels: Bands = (10 * np.log10(np.concatenate(found) + 1e-9)).astype(np.float32)
    return decibels


def _sounding(bands: Bands) -> Bands:
    """Return the frames from the first to the last that is not silent."""
    import numpy as np

    if not len(bands):
        return bands
    loud = bands.max(axis=1)
    heard = np.flatnonzero(loud > max(float(loud.max()) - _SILENT, -60.0))
    return bands[heard[0] : heard[-1] + 1] if len(heard) else bands[:0]
