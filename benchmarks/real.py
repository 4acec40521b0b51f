"""Likeness on material that others made: `python -m benchmarks.real [icons] [clipart] [fonts] [sounds] [films]`.

Fetches packages of icons in several sizes, of clip art, and of fonts with their web forms by the system's package
client, takes them apart in a temporary folder, and asks `magpie copies --alike`. The truth is what the material says:
one name in several sizes of one theme is one drawing where the two are close in points (the larger one made smaller by
another program's filter); other names are other drawings, unless the two are the same at the largest size that both
have; one PostScript name with as many glyphs is one font (each lies in a folder of its own, since faces of a family in
one folder are one thing). Of the music and the effects of games each gets a copy in another coding, a quieter one, one
with silence in front, and two near-twins: a loop that shares its beginning, and a half, unless the rest fades out. Of
clips of games and of lessons each gets one of half the size in another coding and one with fewer pictures a second, and
two near-twins: a part of it, and one of its length that ends as the next clip (ffmpeg makes them). A sheet
(`--sheet FILE.png`) shows a sample of what was called alike, to be looked at: aliases of one drawing are common,
and no measure knows them all. Skips with a sentence where nothing is reachable.
"""

from __future__ import annotations

import argparse
import contextlib
import itertools
import json
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
import time
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path

import av
import numpy as np
from PIL import Image, ImageDraw

from benchmarks.corpus import tunes

_MAGPIE = Path(sys.executable).with_name("magpie")
PACKAGES = {
    "icons": "oxygen-icon-theme gnome-icon-theme tango-icon-theme elementary-xfce-icon-theme".split(),
    "clipart": ["openclipart-png"],
    "fonts": (
        "fonts-lato fonts-firacode fonts-linuxlibertine fonts-dejavu-core fonts-dejavu-extra fonts-dejavu-web "
        "fonts-katex fonts-mathjax fonts-noto-core fonts-roboto-unhinted fonts-cantarell fonts-font-awesome "
        "fonts-glyphicons-halflings fonts-sil-gentium fonts-crosextra-carlito fonts-noto-ui-core fonts-hack "
        "fonts-hack-web fonts-fork-awesome fonts-open-sans fonts-liberation fonts-freefont-ttf fonts-hosny-amiri "
        "fonts-ebgaramond fonts-ebgaramond-extra fonts-junicode fonts-sil-gentiumplus fonts-sil-charis "
        "fonts-sil-andika fonts-sil-doulos fonts-sil-abyssinica fonts-sil-padauk fonts-noto-extra fonts-clear-sans "
        "fonts-quicksand fonts-comfortaa fonts-inconsolata fonts-croscore fonts-stix fonts-tuffy fonts-vollkorn "
    ).split(),
}
PACKAGES["sounds"] = "supertux-data blobwars-data pingus-data freedroid-data xmoto-data holotz-castle-data".split()
PACKAGES["films"] = ["planetblupi-common", "lebiniou-data", "python3-mecavideo"]
_ENDINGS = {
    "icons": (".png",),
    "clipart": (".png",),
    "fonts": (".ttf", ".otf", ".woff", ".woff2"),
    "sounds": (".ogg", ".wav", ".music"),
    "films": (".mkv", ".mp4", ".avi", ".ogv"),
}
_SHELF = {"icons": "Pictures", "clipart": "Pictures", "fonts": "Fonts", "sounds": "Music", "films": "Films"}
_SIZE = re.compile(r"(?:^|/)(\d+)(?:x\d+)?(?=/)")
_CLOSE, _SAME = 0.06, 0.04
"""How far pictures of one name may be apart (root of the mean square, from 0 to 1) to be one drawing in two sizes; and
those of two names, to be one drawing under two names."""
Pair = tuple[str, str]


def fetched(packages: Sequence[str], folder: Path) -> bool:
    """Fetch packages and take them apart; say whether that could be done."""
    if not shutil.which("apt-get") or not shutil.which("dpkg-deb"):
        return False
    folder.mkdir()
    run = subprocess.run(["apt-get", "download", "-q", *packages], cwd=folder, capture_output=True, check=False)
    found = sorted(folder.glob("*.deb"))
    for package in found:
        subprocess.run(["dpkg-deb", "-x", str(package), str(folder / "all")], check=True)
    return run.returncode == 0 and bool(found)


def built(sort: str, source: Path, root: Path) -> int:
    """Make a collection of what packages hold of a sort; return how many files it has."""
    count = 0
    for top, _, names in os.walk(source / "usr/share"):
        for name in names:
            path = Path(top, name)
            if path.is_symlink() or path.suffix.lower() not in _ENDINGS[sort]:
                continue
            below = path.relative_to(source / "usr/share")
            alone = f"{count:05}" if sort == "fonts" else ""  # else all faces and containers of a family were one thing
            target = root / _SHELF[sort] / alone / below
            target.parent.mkdir(parents=True, exist_ok=True)
            path.rename(target)
            count += 1
    (root / "magpie.toml").write_text("")
    return count


def asked(root: Path) -> tuple[list[Pair], list[Pair], float, float]:
    """Return the pairs that `copies --alike` calls surely alike, those that it calls perhaps alike, seconds and MiB."""
    subprocess.run([str(_MAGPIE), "-C", str(root), "scan", "-q"], capture_output=True, check=True)
    start = time.perf_counter()
    command = [str(_MAGPIE), "-C", str(root), "copies", "--alike", "--json"]
    with tempfile.TemporaryFile() as out:
        process = os.posix_spawn(command[0], command, os.environ, file_actions=[(os.POSIX_SPAWN_DUP2, out.fileno(), 1)])
        _, _, used = os.wait4(process, 0)
        seconds = time.perf_counter() - start
        out.seek(0)
        lines = [json.loads(line) for line in out]
    sure, perhaps = [], []
    for one in lines:
        if one["match"] in ("bytes", "contents"):
            continue
        if one["keep"]:
            sure += [(one["keep"], other) for other in one["others"]]
        elif one["sure"]:  # surely alike, and no rule says which one stays
            sure += [(one["others"][0], other) for other in one["others"][1:]]
        else:
            perhaps.append(tuple(one["others"]))
    return sure, perhaps, seconds, used.ru_maxrss / 1024


def _named(path: str) -> tuple[str, str, int]:
    """Return the theme, the name without its size, and the size of an icon."""
    parts = path.split("/", 3)
    size = _SIZE.search(parts[3]) if len(parts) > 3 else None
    return parts[2] if len(parts) > 2 else "", _SIZE.sub("", parts[-1]), int(size[1]) if size else 0


def distance(one: str, other: str) -> float:
    """Return how far two pictures are apart, over a grey ground, the larger made as small as the other."""
    pictures = sorted((Image.open(path).convert("RGBA") for path in (one, other)), key=lambda picture: picture.width)
    grounds = []
    for picture in pictures:
        small = picture.resize(pictures[0].size, Image.Resampling.LANCZOS)
        ground = Image.new("RGBA", small.size, (128, 128, 128, 255))
        ground.alpha_composite(small)
        grounds.append(np.asarray(ground.convert("RGB"), np.float32) / 255)
    return float(np.sqrt(np.square(grounds[0] - grounds[1]).mean()))


def _wanted(root: Path, chance: random.Random, most: int = 6_000) -> Iterator[tuple[str, str, int]]:
    """Yield pairs of one icon in two sizes that are close, with the smaller size; a sample of them."""
    sizes: dict[tuple[str, str], dict[int, str]] = defaultdict(dict)
    for path in sorted((root / "Pictures").rglob("*.png")):
        theme, name, size = _named(str(path.relative_to(root)))
        if size:
            sizes[theme, name][size] = str(path)
    pairs = [
        (some[one], some[other], one)
        for some in sizes.values()
        for one, other in itertools.combinations(sorted(some), 2)
        if one >= 16
    ]
    for one, other, size in chance.sample(pairs, min(most, len(pairs))):
        if distance(one, other) < _CLOSE:
            yield os.path.relpath(one, root), os.path.relpath(other, root), size


def _classes(pairs: Sequence[Pair]) -> dict[str, str]:
    return {path: pair[0] for pair in pairs for path in pair}


def icons(root: Path, sure: Sequence[Pair], perhaps: Sequence[Pair]) -> None:
    """Print what was found of icons in several sizes, and how many pairs have names of two drawings."""
    classes = _classes(sure)
    maybe = {frozenset(pair) for pair in perhaps}
    maybe |= {frozenset((classes.get(a, a), classes.get(b, b))) for a, b in perhaps}
    right, said, all_ = Counter[str](), Counter[str](), Counter[str]()
    smaller: dict[str, set[str]] = defaultdict(set)
    for one, other, size in _wanted(root, random.Random(3)):
        band = "32 and more" if size >= 32 else "16 to 24"
        all_[band] += 1
        smaller[band].add(one)
        leaders = classes.get(one, one), classes.get(other, other)
        found = leaders[0] == leaders[1]
        right[band] += found
        said[band] += found or frozenset(leaders) in maybe or frozenset((one, other)) in maybe
    for band, count in sorted(all_.items(), reverse=True):
        print(f"one icon in two sizes, {band} points, close: {count:,}; offered {right[band] / count:.3f}, "
              f"said at all {said[band] / count:.3f}; of the {len(smaller[band]):,} smaller ones may go "
              f"{sum(classes.get(one, one) != one for one in smaller[band]) / len(smaller[band]):.3f}")  # fmt: skip
    strange = [pair for pair in sure if _named(pair[0])[1].split("/")[-1] != _named(pair[1])[1].split("/")[-1]]
    far = [pair for pair in strange if distance(*(str(root / path) for path in pair)) > _SAME]
    print(f"pairs offered {len(sure):,}, of two names {len(strange):,}, of these not close {len(far):,}")


def fonts(root: Path, sure: Sequence[Pair], perhaps: Sequence[Pair]) -> None:
    """Print what was found of fonts in several containers, and what was found of others."""
    from fontTools.ttLib import TTFont

    by_name: dict[tuple[str, int], list[str]] = defaultdict(list)
    for path in sorted((root / "Fonts").rglob("*.*")):
        with TTFont(path, lazy=True) as font:
            key = str(font["name"].getDebugName(6)), int(font["maxp"].numGlyphs)
        by_name[key].append(str(path.relative_to(root)))
    share, false, count = _held_against(by_name.values(), sure)
    print(f"one face in two containers: {count:,}, found {share:.3f}; offered otherwise {len(false)} "
          f"{false[:3] or ''}; perhaps {len(perhaps)}")  # fmt: skip


def _held_against(groups: Iterable[Sequence[str]], sure: Sequence[Pair]) -> tuple[float, list[Pair], int]:
    """Return the share of the pairs within groups that were found, what was found besides, and how many there are."""
    truth = {frozenset(pair) for some in groups for pair in itertools.combinations(some, 2)}
    classes = _classes(sure)
    found = sum(len({classes.get(path, path) for path in pair}) == 1 for pair in truth)
    return found / max(len(truth), 1), [pair for pair in sure if frozenset(pair) not in truth], len(truth)


def clipart(root: Path, sure: Sequence[Pair], perhaps: Sequence[Pair]) -> None:
    """Print how many pairs of clip art were offered; what they show is to be looked at."""
    far = [pair for pair in sure if distance(*(str(root / path) for path in pair)) > _SAME]
    print(f"pairs offered {len(sure):,}, of these not close {len(far):,}; perhaps {len(perhaps):,}")


_RATE, _SHORTEST, _LONGEST, _MOST, _FADED = 32_000, 4.0, 60.0, 60, 0.2
"""Samples a second; seconds that a sound has at least, and that are taken of it; sounds that are taken; how loud the
second half of one is at least, against the first, for the first alone to be another sound."""


def with_variants(root: Path) -> None:
    """Put variants beside the sounds of a collection, each with its recording's number in front; the others go."""
    kept: list[np.ndarray] = []
    for path in sorted((root / "Music").rglob("*.*")):
        samples = _samples(path) if len(kept) < _MOST else np.zeros(0, np.float32)
        path.unlink()
        if len(samples) >= _SHORTEST * _RATE and float(np.abs(samples).max()) > 0.02:
            kept.append(samples)
    for number, samples in enumerate(kept):
        other = kept[(number + 1) % len(kept)]
        shared = int(len(samples) * 0.6)
        silence = np.zeros(_RATE, np.float32)
        for name, sound, codec, ending in (
            ("same-a", samples, "flac", "flac"),
            ("same-b", samples, "libopus", "opus"),
            ("same-c", samples * 0.5, "libmp3lame", "mp3"),
            ("same-d", np.concatenate([silence, samples]), "flac", "flac"),
            ("loop", np.concatenate([samples[:shared], other[: len(samples) - shared]]), "flac", "flac"),
            ("half", samples[: len(samples) // 2], "flac", "flac"),
        ):
            if name == "half" and _loudness(samples[len(sound) :]) < _FADED * _loudness(sound):
                continue
            folder = root / "Music" / f"{number:04}" / name
            folder.mkdir(parents=True)
            rate = 48_000 if codec == "libopus" else _RATE
            tunes.write(folder / f"{number:04} {name}.{ending}", sound.astype(np.float32), codec, rate)


def _loudness(samples: np.ndarray) -> float:
    return float(np.sqrt(np.square(samples).mean()))


def _samples(path: Path) -> np.ndarray:
    """Return the beginning of a sound as samples of one channel, none where it can't be decoded."""
    parts: list[np.ndarray] = []
    with contextlib.suppress(Exception), av.open(str(path)) as container:
        resampler = av.AudioResampler("flt", "mono", _RATE)
        for frame in container.decode(audio=0):
            parts += [part.to_ndarray().reshape(-1) for part in resampler.resample(frame)]
            if sum(map(len, parts)) > _LONGEST * _RATE:
                break
    return np.concatenate(parts) if parts else np.zeros(0, np.float32)


_SHARED = 0.6
"""The share of a clip that its near-twins have."""
_SMALLER = "scale=trunc(iw/4)*2:trunc(ih/4)*2"


def with_codings(root: Path) -> None:
    """Put each clip of a collection beside others of it, and near-twins, each with its number in front."""
    clips = sorted(path for path in (root / "Films").rglob("*.*") if path.is_file())
    away = root.parent / "clips"
    away.mkdir()
    kept = [clip.rename(away / f"{number:04}{clip.suffix}") for number, clip in enumerate(clips)]
    for number, clip in enumerate(kept):
        other, seconds = kept[(number + 1) % len(kept)], _length(clip)
        mixed = (
            f"[0:v]trim=0:{seconds * _SHARED},scale=320:240,setsar=1,fps=25,setpts=PTS-STARTPTS[a];"
            f"[1:v]trim=0:{seconds * (1 - _SHARED)},scale=320:240,setsar=1,fps=25,setpts=PTS-STARTPTS[b];[a][b]concat"
        )
        for name, ending, words in (
            ("same-a", clip.suffix, ["-c", "copy"]),
            ("same-b", ".mp4", ["-vf", _SMALLER, "-c:v", "libx264", "-crf", "30", "-c:a", "aac"]),
            ("same-c", ".avi", ["-r", "15", "-c:v", "mpeg4", "-q:v", "6", "-c:a", "mp3"]),
            ("part", ".mp4", ["-t", str(seconds * _SHARED), "-c:v", "libx264"]),
            ("mixed", ".mp4", ["-i", str(other), "-filter_complex", mixed, "-c:v", "libx264"]),
        ):
            target = root / "Films" / f"{number:04}" / name / f"{number:04} {name}{ending}"
            target.parent.mkdir(parents=True)
            command = ["ffmpeg", "-v", "error", "-y", "-i", str(clip), *words, str(target)]
            if subprocess.run(command, capture_output=True, check=False).returncode:
                target.unlink(missing_ok=True)


def _length(clip: Path) -> float:
    """Return the seconds of a clip."""
    with av.open(str(clip)) as container:
        return float(container.duration or 0) / av.time_base


def films(root: Path, sure: Sequence[Pair], perhaps: Sequence[Pair]) -> None:
    """Print how many of the pairs of one clip were found, and what else was."""
    _print_groups(root / "Films", "clips", sure, perhaps)


def sounds(root: Path, sure: Sequence[Pair], perhaps: Sequence[Pair]) -> None:
    """Print how many of the pairs of one recording were found, and what else was."""
    _print_groups(root / "Music", "recordings", sure, perhaps)


def _print_groups(top: Path, what: str, sure: Sequence[Pair], perhaps: Sequence[Pair]) -> None:
    groups: dict[str, list[str]] = defaultdict(list)
    for path in sorted(top.rglob("*same-*.*")):
        groups[path.name[:4]].append(str(path.relative_to(top.parent)))
    share, false, count = _held_against(groups.values(), sure)
    print(f"{what} {len(groups):,}, pairs of one {count:,}, found {share:.3f}; offered otherwise {len(false)} "
          f"{false[:5] or ''}; perhaps {len(perhaps)}")  # fmt: skip


def sheet(root: Path, pairs: Sequence[Pair], out: Path, side: int = 72, across: int = 6) -> None:
    """Write a picture of a sample of pairs."""
    some = random.Random(5).sample(list(pairs), min(54, len(pairs)))
    whole = Image.new("RGB", (across * (2 * side + 40), -(-len(some) // across) * (side + 24)), "#dfe6ea")
    draw = ImageDraw.Draw(whole)
    for number, pair in enumerate(some):
        left, top = number % across * (2 * side + 40), number // across * (side + 24)
        for place, path in enumerate(pair):
            picture = Image.open(root / path).convert("RGBA")
            way = Image.Resampling.NEAREST if picture.width < side else Image.Resampling.LANCZOS
            shown = picture.resize((side, max(1, side * picture.height // picture.width)), way)
            whole.paste(
                shown.crop((0, 0, side, side)), (left + place * (side + 4), top + 14), shown.crop((0, 0, side, side))
            )
            draw.text((left + place * (side + 4), top), str(picture.width), fill="black")
    whole.save(out)


_VARIED = {"sounds": with_variants, "films": with_codings}
_PRINTED = {"icons": icons, "fonts": fonts, "clipart": clipart, "sounds": sounds, "films": films}


def main() -> None:
    """Fetch, build, ask, and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("sorts", nargs="*", default=list(PACKAGES), metavar="SORT")
    parser.add_argument("--sheet", type=Path, help="write a picture of a sample of what was called alike")
    args = parser.parse_args()
    for sort in args.sorts:
        with tempfile.TemporaryDirectory() as name:
            scratch = Path(name)
            if not fetched(PACKAGES[sort], scratch / "packages"):
                print(f"{sort}: no packages can be fetched here; nothing was measured.")
                continue
            root = scratch / "collection"
            root.mkdir()
            count = built(sort, scratch / "packages/all", root)
            if sort in _VARIED:
                _VARIED[sort](root)
                count = sum(1 for path in (root / _SHELF[sort]).rglob("*.*") if path.is_file())
            sure, perhaps, seconds, memory = asked(root)
            print(f"{sort}: {count:,} files, {seconds:.0f} s, {memory:.0f} MiB")
            _PRINTED[sort](root, sure, perhaps)
            if args.sheet and sure and sort in ("icons", "clipart"):
                sheet(root, sure, args.sheet.with_stem(f"{args.sheet.stem}-{sort}"))


if __name__ == "__main__":
    main()
