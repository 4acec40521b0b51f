"""Made-up tunes, each with variants that are the same recording and near-twins that are not."""

from __future__ import annotations

import random
from collections.abc import Iterator
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

RATE = 32_000
Samples = NDArray[np.float32]
_SCALE = (0, 2, 3, 5, 7, 8, 10, 12)


def tune(seed: int, seconds: float = 10.0, *, bass: float = 1.0, order: int = 0) -> Samples:
    """Return the tune of a seed. Another mix has its `bass` louder or quieter; another `order` other notes."""
    chance = random.Random(seed)
    root, beat = chance.uniform(180, 330), chance.uniform(0.16, 0.4)
    sound = np.zeros(int(seconds * RATE), np.float32)
    shades = [chance.uniform(0.1, 1.0) / n for n in range(1, 7)]
    grain = np.random.default_rng(seed)
    notes = random.Random(seed + 7919 * order)
    at = 0.0
    while at < seconds - 0.05:
        note = root * 2 ** (notes.choice(_SCALE) / 12)
        _add(sound, at, beat * chance.uniform(0.8, 2.2), note, shades, 0.35)
        if notes.random() < 0.5:
            _add(sound, at, beat * 2, note / 2 * chance.choice([1.0, 0.75]), shades[:3], 0.5 * bass)
        if notes.random() < 0.4:
            start, length = int(at * RATE), int(0.05 * RATE)
            burst = grain.normal(0, 0.15, length).astype(np.float32) * np.linspace(1, 0, length, dtype=np.float32)
            sound[start : start + length] += burst[: len(sound) - start]
        at += beat
    peak: Samples = (sound / np.abs(sound).max() * 0.7).astype(np.float32)
    return peak


def _add(sound: Samples, at: float, length: float, pitch: float, shades: list[float], loud: float) -> None:
    start, count = int(at * RATE), int(length * RATE)
    time = np.arange(min(count, len(sound) - start)) / RATE
    shape = np.minimum(time * 60, 1) * np.exp(-time * 3)
    for number, shade in enumerate(shades, start=1):
        sound[start : start + len(time)] += (loud * shade * shape * np.sin(2 * np.pi * pitch * number * time)).astype(
            np.float32
        )


def write(path: Path, samples: Samples, codec: str, rate: int = 0, bitrate: int = 0) -> None:
    """Write samples at `RATE` with a codec; a `rate` of its own, and a bit rate, where given."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=rate or RATE)
        stream.layout = "mono"
        if bitrate:
            stream.bit_rate = bitrate
        frame = av.AudioFrame.from_ndarray(samples[None, :], format="fltp", layout="mono")
        frame.rate = RATE
        for packet in stream.encode(frame):
            container.mux(packet)
        for packet in stream.encode(None):
            container.mux(packet)


VARIANTS = ("mp3 64k", "opus 32k", "quieter", "2 s of silence", "aac 48k")


def make(folder: Path, count: int) -> Iterator[tuple[Path, int, str]]:
    """Write `count` tunes with five variants each, and two near-twins of every third; yield (path, which, sort)."""
    chance = random.Random(count)
    for seed in range(count):
        sound = tune(seed)
        silence = np.zeros(int(chance.uniform(0.3, 2.0) * RATE), np.float32)
        ways: dict[str, tuple[Samples, str, str, int, int]] = {
            "original": (sound, ".flac", "flac", 0, 0),
            "mp3 64k": (sound, ".mp3", "mp3", 0, 64_000),
            "opus 32k": (sound, ".opus", "libopus", 48_000, 32_000),
            "quieter": (sound * 0.3, ".mp2", "mp2", 0, 128_000),
            "2 s of silence": (np.concatenate([silence, sound]), ".flac", "flac", 0, 0),
            "aac 48k": (sound, ".m4a", "aac", 0, 48_000),
        }
        twins = {"another mix": tune(seed, bass=4.0), "other notes": tune(seed, order=1)} if seed % 3 == 0 else {}
        ways |= {name: (twin, ".flac", "flac", 0, 0) for name, twin in twins.items()}
        for name, (samples, ending, codec, rate, bitrate) in ways.items():
            path = folder / f"tune {seed:04} {name}{ending}"
            write(path, samples, codec, rate, bitrate)
            number = seed if name not in twins else count * (1 + list(twins).index(name)) + seed
            yield path, number, name
