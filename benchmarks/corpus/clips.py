"""Made-up clips with sound, each with variants that are the same film and near-twins that are not."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from benchmarks.corpus.scenes import scene
from benchmarks.corpus.tunes import RATE, Samples, tune

SECONDS, FRAMES = 6, 15


def write(
    path: Path, seed: int, size: tuple[int, int], bitrate: int, codec: str = "mpeg4", *, later: int = 0, music: int = -1
) -> None:
    """Write the clip of a seed: a view moving over a picture. It begins `later` seconds on; `music`: another tune."""
    picture = scene(seed).resize((960, 640))
    with av.open(str(path), "w") as container:
        video = container.add_stream(codec, rate=FRAMES)
        video.width, video.height = size
        video.pix_fmt = "yuv420p"
        video.bit_rate = bitrate
        sound = container.add_stream("aac", rate=RATE)
        sound.layout = "mono"
        for number in range(SECONDS * FRAMES):
            share = (number / FRAMES + later) / (SECONDS + 3)
            left, top = 480 * share, 320 * share * (1 - share) * 2
            view = picture.crop((int(left), int(top), int(left) + 480, int(top) + 320)).resize(size)
            frame = av.VideoFrame.from_image(view)
            frame.pts, frame.time_base = number, Fraction(1, FRAMES)
            for packet in video.encode(frame):
                container.mux(packet)
        for packet in video.encode(None):
            container.mux(packet)
        samples: Samples = tune(seed if music < 0 else music, SECONDS + 3.0)[later * RATE : (later + SECONDS) * RATE]
        heard = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples[None, :]), format="fltp", layout="mono")
        heard.rate = RATE
        for packet in [*sound.encode(heard), *sound.encode(None)]:
            container.mux(packet)


def make(folder: Path, count: int) -> Iterator[tuple[Path, int, str]]:
    """Write `count` clips with three variants each, and two near-twins of every third; yield (path, which, sort)."""
    for seed in range(count):
        for name, ending, size, bitrate in (
            ("original", ".mp4", (480, 320), 1_500_000),
            ("small", ".mp4", (240, 160), 400_000),
            ("low rate", ".mkv", (480, 320), 250_000),
            ("large", ".avi", (720, 480), 2_000_000),
        ):
            path = folder / f"clip {seed:03} {name}{ending}"
            write(path, seed, size, bitrate)
            yield path, seed, name
        if seed % 3 == 0:
            for number, (name, later, music) in enumerate(
                (("another second", 2, -1), ("other sound", 0, seed + 100_000)), start=1
            ):
                path = folder / f"clip {seed:03} {name}.mp4"
                write(path, seed, (480, 320), 1_500_000, later=later, music=music)
                yield path, count * number + seed, name
