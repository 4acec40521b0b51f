"""What a wall of pictures costs, and how it moves in a browser: `python -m benchmarks.wall [ITEMS]`.

Makes ITEMS things (50,000) of several kinds in a temporary folder, and a picture for each where magpie keeps them; then
`magpie find --folder`. The page is opened in Chromium, which traces itself while the page is scrolled, searched,
filtered, grouped and sorted: the longest task of its main thread counts.
`--draw 2000` draws the pictures of so many files that have none yet.
"""

from __future__ import annotations

import io
import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

_MAGPIE = Path(sys.executable).with_name("magpie")
_CONFIG = """[collection]
name = "Gullwick"
unplayable = "file"
[shelf.series]
kind = "episode"
folder = "Series"
[shelf.films]
kind = "movie"
folder = "Films"
[shelf.games]
kind = "game"
folder = "Games"
"""
_WORDS = "Gull Kelp Fog Tern Buoy Wrack Lamp Salt Crab Pier Reef Tide Mast Sail Net Rope Harbour Quay Gale Sand".split()


def _things(root: Path, count: int) -> None:
    for number in range(count):
        one, other, third = (_WORDS[number // step % 20] for step in (1, 20, 400))
        match number % 3:
            case 0:
                path = root / f"Films/{one} {other} {third} {number} ({1950 + number % 70})"
                path = path / f"{path.name}.mkv"
            case 1:
                show, episode = divmod(number // 3, 20)
                path = root / f"Series/{one} {show}/Season 01/{one} {show} S01E{episode + 1:02}.mkv"
            case _:
                path = root / f"Games/{other}/{one} {third} {number}.nes"
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(b"x" * (600 + number % 1000))


def _pictures(root: Path) -> int:
    """Put a picture for each thing where magpie keeps them; return how many there are."""
    from PIL import Image

    from lazy_magpie.catalogue import All, opened
    from lazy_magpie.collection import find
    from lazy_magpie.report.wall import source_of
    from lazy_magpie.services.wall import store_of

    collection, count = find(root), 0
    store = store_of(collection)
    with opened(collection) as catalogue:
        for count, item in enumerate(catalogue.items.ask(All()), start=1):
            source = source_of(item)
            assert source is not None
            path = Path(store.path(source.key))
            path.parent.mkdir(parents=True, exist_ok=True)
            out = io.BytesIO()
            Image.new("RGB", (200, 140), (count * 7 % 256, count * 3 % 256, count % 256)).save(out, "webp", quality=60)
            path.write_bytes(out.getvalue())
    return count


def _browse(page: Path) -> None:
    from playwright.sync_api import sync_playwright

    with sync_playwright() as started:
        browser = started.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        view = browser.new_page(viewport={"width": 1280, "height": 800})
        trace = page.with_name("trace.json")
        browser.start_tracing(page=view, path=str(trace), categories=["toplevel", "blink.user_timing"])
        view.goto(page.as_uri())
        view.wait_for_selector("#kind option:nth-child(3)", state="attached", timeout=120_000)
        paint = view.evaluate("performance.getEntriesByName('first-contentful-paint')[0].startTime")
        print(
            f"first contentful paint after {paint:.0f} ms; all rows there: {view.evaluate('performance.now()'):.0f} ms"
        )
        for _ in range(40):
            view.mouse.wheel(0, 4000)
            view.wait_for_timeout(30)
        view.evaluate("window.scrollTo(0, document.body.scrollHeight / 2)")
        view.wait_for_timeout(200)
        view.locator("#words").press_sequentially("kelp fog", delay=60)
        view.wait_for_timeout(300)
        view.locator("#words").fill("")
        for box, value in (("kind", "movie"), ("kind", ""), ("group", "year"), ("group", "show"), ("group", "shelf"),
                           ("sort", "rank"), ("sort", "size"), ("sort", "day"), ("group", "")):  # fmt: skip
            view.locator(f"#{box}").select_option(value)
            view.wait_for_timeout(300)
        browser.stop_tracing()
        browser.close()
    _longest(trace)


def _longest(trace: Path) -> None:
    import json

    events = json.loads(trace.read_text("utf-8"))["traceEvents"]
    names = {(e["pid"], e["tid"]): e["args"]["name"] for e in events if e["name"] == "thread_name"}
    tasks = [
        e["dur"] / 1000
        for e in events
        if "RunTask" in e["name"] and "dur" in e and names.get((e["pid"], e["tid"])) == "CrRendererMain"
    ]
    tasks.sort(reverse=True)
    print(f"{len(tasks):,} tasks of the page's main thread; the longest: {', '.join(f'{t:.0f}' for t in tasks[:5])} ms")


def _draw(root: Path, count: int) -> None:
    """Draw the pictures of `count` files: the demo's films, songs, pictures, designs and fonts again and again."""
    from lazy_magpie.demo import make

    make(root / "demo")
    endings = {".mkv", ".mp4", ".mp3", ".flac", ".jpg", ".png", ".dst", ".pes", ".otf", ".ttf"}
    media = [path for path in sorted((root / "demo").rglob("*")) if path.suffix in endings and path.stat().st_size]
    heap = root / "heap"
    heap.mkdir()
    for number in range(count):
        path = media[number % len(media)]
        shutil.copyfile(path, heap / f"{number} {path.name}")
    (heap / "magpie.toml").write_text(_CONFIG, "utf-8")
    subprocess.run([str(_MAGPIE), "-C", str(heap), "scan", "-q"], check=True, capture_output=True)
    start, before = time.perf_counter(), os.times()
    command = [str(_MAGPIE), "-C", str(heap), "find", "--folder", str(root / "wall")]
    subprocess.run(command, check=True)
    seconds, after = time.perf_counter() - start, os.times()
    used = after.children_user + after.children_system - before.children_user - before.children_system
    print(
        f"{count:,} files of {len({path.suffix for path in media})} forms: {seconds:.0f} s, {used / seconds:.2f} cores"
    )


def main() -> None:
    """Make the things, write the page, measure."""
    if sys.argv[1:2] == ["--draw"]:
        with tempfile.TemporaryDirectory() as scratch:
            _draw(Path(scratch), int(sys.argv[2]))
        return
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 50_000
    with tempfile.TemporaryDirectory() as scratch:
        root = Path(scratch, "collection")
        root.mkdir()
        (root / "magpie.toml").write_text(_CONFIG, "utf-8")
        _things(root, count)
        subprocess.run([str(_MAGPIE), "-C", str(root), "scan", "-q"], check=True, capture_output=True)
        there = _pictures(root)
        start = time.perf_counter()
        command = [str(_MAGPIE), "-C", str(root), "find", "--folder", str(Path(scratch, "wall"))]
        _, _, used = os.wait4(os.posix_spawn(command[0], command, os.environ), 0)
        seconds = used.ru_utime + used.ru_stime
        print(f"{there:,} items: {seconds:.1f} s CPU, {time.perf_counter() - start:.1f} s, {used.ru_maxrss >> 10} MiB")
        _browse(Path(scratch, "wall", "index.html"))


if __name__ == "__main__":
    main()
