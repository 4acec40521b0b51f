"""Made-up pictures of a beach with kites, each with variants that are the same picture and near-twins that are not."""

from __future__ import annotations

import colorsys
import random
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageEnhance, ImageFilter

WIDTH, HEIGHT = 480, 320
Colour = tuple[int, int, int]


def _colour(chance: random.Random, hue: float) -> Colour:
    red, green, blue = colorsys.hsv_to_rgb(hue % 1.0, chance.uniform(0.25, 0.95), chance.uniform(0.3, 1.0))
    return int(red * 255), int(green * 255), int(blue * 255)


def scene(seed: int, moment: int = 0, turn: float = 0.0) -> Image.Image:
    """Return the picture of a seed. Another `moment`: one kite has flown on; `turn`: all hues are turned."""
    chance = random.Random(seed)
    hue = chance.random() + turn
    top, low = np.array(_colour(chance, hue)), np.array(_colour(chance, hue + chance.uniform(0.05, 0.4)))
    share = np.linspace(0, 1, HEIGHT)[:, None, None]
    ground = np.broadcast_to(top * (1 - share) + low * share, (HEIGHT, WIDTH, 3)).copy()
    grain = np.random.default_rng(seed).normal(0, 1, (20, 30, 1))
    rough = Image.fromarray((grain[:, :, 0] * 20 + 128).clip(0, 255).astype(np.uint8)).resize((WIDTH, HEIGHT))
    ground += (np.asarray(rough, float)[:, :, None] - 128) * chance.uniform(0.3, 1.2)
    picture = Image.fromarray(ground.clip(0, 255).astype(np.uint8))
    draw = ImageDraw.Draw(picture)
    for _ in range(chance.randrange(6, 16)):
        x, y, size = chance.randrange(WIDTH), chance.randrange(HEIGHT), chance.randrange(25, 130)
        _shape(draw, chance.randrange(4), (x, y, size), _colour(chance, hue + chance.random() * 0.7), chance)
    x, y = chance.randrange(80, WIDTH - 160) + 45 * moment, chance.randrange(60, HEIGHT - 120) + 20 * moment
    light = np.asarray(picture.convert("L"))[max(y - 40, 0) : y + 40, max(x - 30, 0) : x + 30].mean() > 128
    _shape(draw, 1, (x, y, 40), (20, 20, 20) if light else (240, 240, 240), chance)
    return picture


def _shape(draw: ImageDraw.ImageDraw, sort: int, at: tuple[int, int, int], fill: Colour, chance: random.Random) -> None:
    x, y, size = at
    if sort == 0:
        draw.ellipse((x, y, x + size, y + size * 0.7), fill=fill)
    elif sort == 1:
        draw.polygon([(x, y - size), (x + size * 0.6, y), (x, y + size), (x - size * 0.6, y)], fill=fill)
    elif sort == 2:
        draw.rectangle((x, y, x + size, y + size * chance.uniform(0.3, 1.4)), fill=fill)
    else:
        ends = [(chance.randrange(WIDTH), chance.randrange(HEIGHT)) for _ in range(3)]
        draw.line([(x, y), *ends], fill=fill, width=chance.randrange(3, 12))


VARIANTS = ("half size", "low quality", "another format", "cut off", "brighter", "darker and small")


def variant(picture: Image.Image, which: str, chance: random.Random) -> tuple[Image.Image, str, dict[str, int]]:
    """Return a variant of a picture, its ending, and how it is written."""
    width, height = picture.size
    if which == "half size":
        return picture.resize((width // 2, height // 2), Image.Resampling.LANCZOS), ".jpg", {"quality": 80}
    if which == "low quality":
        return picture, ".jpg", {"quality": 30}
    if which == "another format":
        return picture.filter(ImageFilter.GaussianBlur(0.4)), chance.choice([".png", ".webp", ".bmp"]), {}
    if which == "cut off":
        left, top, right, bottom = (chance.uniform(0, 0.04) for _ in range(4))
        box = (int(left * width), int(top * height), int(width * (1 - right)), int(height * (1 - bottom)))
        return picture.crop(box), ".jpg", {"quality": 85}
    if which == "brighter":
        return ImageEnhance.Brightness(picture).enhance(1.15), ".jpg", {"quality": 85}
    small = ImageEnhance.Brightness(picture).enhance(0.85).resize((width * 2 // 3, height * 2 // 3))
    return small, ".jpg", {"quality": 60}


def make(folder: Path, count: int) -> Iterator[tuple[Path, int, str]]:
    """Write `count` pictures with six variants each, and two near-twins of every fourth; yield (path, which, sort).

    What is the same picture has the same number; a near-twin has one of its own.
    """
    chance = random.Random(count)
    for seed in range(count):
        picture = scene(seed)
        path = folder / f"scene {seed:05}.jpg"
        picture.save(path, quality=90)
        yield path, seed, "original"
        for which in VARIANTS:
            changed, ending, ways = variant(picture, which, chance)
            path = folder / f"scene {seed:05} {which}{ending}"
            changed.save(path, **ways)
            yield path, seed, which
        if seed % 4 == 0:
            for number, twin in enumerate((scene(seed, moment=1), scene(seed, turn=0.3)), start=1):
                path = folder / f"scene {seed:05} twin {number}.jpg"
                twin.save(path, quality=90)
                yield path, count * number + seed, "another second" if number == 1 else "other colours"
