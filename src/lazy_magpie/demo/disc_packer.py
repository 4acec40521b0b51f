"""The demo's stand-in for a converter of disc images: a cue sheet with its tracks into one compressed file, and back.

Run as `python -m lazy_magpie.demo.disc_packer SHEET.cue RESULT`, or with `--extract FILE RESULT.cue`. The file begins
with a line of JSON, the names of all parts with their bytes and CRC-32, behind which they stand, compressed by zlib.
"""

from __future__ import annotations

import json
import re
import sys
import zlib
from pathlib import Path

MAGIC = b"GULLDISC1\n"
_NAMED = re.compile(r'(?im)^[ \t]*FILE[ \t]+"([^"\r\n]+)"')


def pack(sheet: Path, result: Path) -> None:
    """Pack a cue sheet and the files that it names, which lie beside it."""
    names = [sheet.name, *dict.fromkeys(_NAMED.findall(sheet.read_text("utf-8", "replace")))]
    parts = [(name, (sheet.parent / name).read_bytes()) for name in names]
    rows = [{"name": name, "bytes": len(data), "crc32": zlib.crc32(data)} for name, data in parts]
    with result.open("xb") as file:
        file.write(MAGIC + json.dumps(rows).encode() + b"\n")
        file.write(zlib.compress(b"".join(data for _, data in parts), 9))


def extract(packed: Path, result: Path) -> None:
    """Write the cue sheet to `result`, and its files beside it. Raises ValueError where a checksum is wrong."""
    magic, rows, data = packed.read_bytes().split(b"\n", 2)
    if magic + b"\n" != MAGIC:
        raise ValueError("not a packed disc")
    whole, at = zlib.decompress(data), 0
    for number, row in enumerate(json.loads(rows)):
        part = whole[at : at + row["bytes"]]
        at += len(part)
        if zlib.crc32(part) != row["crc32"] or len(part) != row["bytes"]:
            raise ValueError(f"{row['name']}: wrong checksum")
        (result if number == 0 else result.parent / Path(row["name"]).name).write_bytes(part)


def main(words: list[str]) -> int:
    """Do what the words of a command line say; return the exit code."""
    try:
        if len(words) == 3 and words[0] == "--extract":
            extract(Path(words[1]), Path(words[2]))
        elif len(words) == 2:
            pack(Path(words[0]), Path(words[1]))
        else:
            raise ValueError("usage: disc_packer [--extract] FILE RESULT")
    except (OSError, ValueError, zlib.error) as error:
        print(f"disc_packer: {error}", file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
