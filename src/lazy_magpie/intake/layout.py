"""Where the files of one thing stand in its folder: flattened up, sections in folders of their own, nothing doubled.

Which section has a folder is data: `sections` of a naming. What parts of a kit have in common is taken once; where two
files of other contents want one name, that is shown and neither is taken.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field

from lazy_magpie.identify.file_types import PICTURES
from lazy_magpie.identify.kit_sections import section_in, section_of
from lazy_magpie.intake.downloads import Bundle, Piece
from lazy_magpie.paths import join, name_of, same_name, split_ending

Crc = Callable[[Piece], int | None]
"""Returns the CRC-32 of a piece, read where it is not known."""


def holds_the_same(one: Piece, other: Piece, crc: Crc) -> bool:
    """Say whether two files hold the same, as far as that is known without unpacking them."""
    return one.size == other.size and crc(one) == crc(other) is not None


@dataclass
class Layout:
    """The files of one thing by where they go below its folder; what is there twice; what wants one name.

    `keys` has every name that is taken, whatever its case, `previews` where previews go, by size and CRC-32.
    """

    placed: dict[str, Piece] = field(default_factory=dict)
    twice: list[tuple[Piece, str]] = field(default_factory=list)
    fights: dict[str, list[Piece]] = field(default_factory=dict)
    keys: dict[str, str] = field(default_factory=dict)
    previews: dict[tuple[int, int | None], str] = field(default_factory=dict)

    def put(self, path: str, piece: Piece, crc: Crc) -> None:
        """Place a file at `path`, unless the same is there already, or another that wants it, too."""
        key = self.keys.setdefault(same_name(path), path)
        if key == path and path not in self.placed:
            self.placed[path] = piece
            return
        other = self.placed[key]
        if holds_the_same(other, piece, crc):
            self.twice.append((piece, key))
        else:
            self.fights.setdefault(key, [other]).append(piece)

    def put_all(self, pieces: Mapping[str, Piece], crc: Crc) -> None:
        """Place files where `pieces` has them, as `put` does one by one."""
        keys = {same_name(path): path for path in pieces}
        if len(keys) == len(pieces) and self.keys.keys().isdisjoint(keys):
            self.keys.update(keys)
            self.placed.update(pieces)
            return
        for path, piece in pieces.items():
            self.put(path, piece, crc)


def layout_of(bundles: Iterable[tuple[Bundle, str]], sections: Mapping[str, str] | None, crc: Crc) -> Layout:
    """Lay out the files of one thing: bundles, each with the section that its name says ("" for none).

    With `sections` (None: folders stay as they are) files of a section that has a folder there keep what is below it,
    and all others are flattened up. A preview that is there already under another name is taken once.
    """
    laid = Layout()
    for bundle, said in bundles:
        around = bundle.common.split("/") if bundle.common else []
        while sections is not None and any(map(section_of, around)):
            around.pop()
        strip = sum(len(folder) + 1 for folder in around)
        pieces = {piece.path[strip:]: piece for piece in bundle.pieces}
        if sections is None:
            laid.put_all(pieces, crc)
        elif said not in ("", "previews") and _are_of_one_section(pieces):
            home = sections.get(said, "")
            laid.put_all({join(home, path): piece for path, piece in pieces.items()} if home else pieces, crc)
        else:
            for path, piece in pieces.items():
                _put_in_section(laid, path, piece, said, sections, crc)
    for path in laid.fights:
        laid.placed.pop(path, None)
    return laid


def _are_of_one_section(paths: Iterable[str]) -> bool:
    """Say whether no folder or name among some paths says that it is of another section than all are said to be."""
    together = "\0".join(paths).lower()
    return not any(sign in together for sign in ("/", "prev", "folder.", "cover."))


def _put_in_section(
    laid: Layout,
    path: str,
    piece: Piece,
    said: str,
    sections: Mapping[str, str],
    crc: Crc,
) -> None:
    """Place a file in its section's folder, or up; one of several previews that are the same is taken once."""
    section, rest = _section(path, said)
    home = sections.get(section, "")
    if section == "previews" and split_ending(path)[1].lower() in PICTURES:
        key = (piece.size, crc(piece))
        if key in laid.previews:
            laid.twice.append((piece, laid.previews[key]))
            return
        laid.previews[key] = join(home, name_of(path))
    laid.put(join(home, rest) if home else name_of(path), piece, crc)


def _section(path: str, said: str) -> tuple[str, str]:
    """Return the section that a file belongs to, and its path below that section's folder."""
    parts = path.split("/")
    for at, part in enumerate(parts[:-1]):
        if section := section_of(part):
            return section, "/".join(parts[at + 1 :])
    low = parts[-1].lower()
    if low.startswith(("folder.", "cover.")):
        return "previews", path
    if said and "prev" not in low:  # nothing else in its name counts then
        return said, path
    own = section_in(split_ending(parts[-1])[0])[0]
    return (own if own == "previews" else said or own), path
