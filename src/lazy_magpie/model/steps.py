"""The steps of a plan, each with what it needs to be done, proved and taken back; paths are relative to the root."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import ClassVar, Self

from lazy_magpie.model.converter import Converter
from lazy_magpie.model.identity import Answer
from lazy_magpie.model.kinds import Value
from lazy_magpie.model.proofs import Proof
from lazy_magpie.model.stamps import FileStamp, FolderAttributes, PathStamp


class StepKind(StrEnum):
    """The kinds of step, as every output names them."""

    MOVE = "move"
    COPY = "copy"
    HARDLINK = "hardlink"
    SOFTLINK = "softlink"
    MAKE = "make"
    DROP = "drop"
    WRITE = "write"
    REPLACE = "replace"
    UNPACK = "unpack"
    PACK = "pack"
    CONVERT = "convert"
    HOLD = "hold"
    TAG = "tag"
    SETTLE = "settle"
    RESTORE = "restore"
    SEND = "send"
    RETRACT = "retract"


@dataclass(frozen=True, slots=True)
class FolderValues:
    """The values from which a naming makes the folder of one thing: a kit, a pack of designs.

    `arrived` is in nanoseconds, `number` the running number of its shelf, `custom` values of custom fields.
    """

    maker: str
    title: str
    arrived: int
    number: int | None = None
    custom: Mapping[str, Value] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class FilingRule:
    """By which naming a step places something: it stays there until that naming says otherwise.

    `rule` stands for the shelf and its naming, `kind` for what is placed. Where all of a thing is placed together,
    `home` is its folder and `values` are those of its name.
    """

    rule: str
    kind: str
    home: str = ""
    values: FolderValues | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """What all steps have.

    `source` is "" for steps that make something new, `target` for those that take something away. `group` gathers
    steps for the eye (a show, a film, a maker). `item` is the item's id, 0 for none; steps of one item stand or fall
    together, and so do those of one `bundle`, a number of the plan's own. `stamp` is how the source looked (of a
    replacement the target). `turns` is the number of the planned step that this one takes back or does again, 0 in
    a plan.
    """

    kind: ClassVar[StepKind]

    number: int = 0
    source: str = ""
    target: str = ""
    why: str = ""
    group: str = ""
    item: int = 0
    bundle: int = 0
    stamp: FileStamp | None = None
    turns: int = 0

    def numbered(self, number: int) -> Self:
        """Return the step under another number."""
        return dataclasses.replace(self, number=number)


def renumbered(steps: Iterable[Step]) -> tuple[Step, ...]:
    """Return steps numbered from 1."""
    return tuple(step.numbered(number) for number, step in enumerate(steps, start=1))


@dataclass(frozen=True, slots=True, kw_only=True)
class Move(Step):
    """Moves a file or folder; between drives as a compared copy, after which the source is held."""

    kind: ClassVar[StepKind] = StepKind.MOVE
    filing: FilingRule | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Copy(Step):
    """Copies a file or folder; `outside` says that its source lies outside the root, where a person named it."""

    kind: ClassVar[StepKind] = StepKind.COPY
    filing: FilingRule | None = None
    outside: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Hardlink(Step):
    """Gives a file a second name; in the place of an equal file where `replaces` says how that looks: it is held."""

    kind: ClassVar[StepKind] = StepKind.HARDLINK
    replaces: FileStamp | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Softlink(Step):
    """Makes a symbolic link that says `text`."""

    kind: ClassVar[StepKind] = StepKind.SOFTLINK
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MakeFolder(Step):
    """Makes a folder, with the attributes that it had before, where it is made again."""

    kind: ClassVar[StepKind] = StepKind.MAKE
    attributes: FolderAttributes | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class DropFolder(Step):
    """Takes an empty folder away."""

    kind: ClassVar[StepKind] = StepKind.DROP


@dataclass(frozen=True, slots=True, kw_only=True)
class DropLink(Step):
    """Takes a link away that a step has made: a symbolic one that says `text`, or (None) the second name of `file`."""

    kind: ClassVar[StepKind] = StepKind.DROP
    file: str = ""
    text: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Write(Step):
    """Writes a new small file of `text`; bytes that are not UTF-8 stand in it as surrogates."""

    kind: ClassVar[StepKind] = StepKind.WRITE
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Replace(Step):
    """Puts the file prepared at the source in the place of the one at the target, which is held."""

    kind: ClassVar[StepKind] = StepKind.REPLACE


@dataclass(frozen=True, slots=True)
class TextEdit:
    """A name that a text gets in place of another: where that stands, as bytes, and the file that must be there."""

    start: int
    old: str
    new: str
    needs: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RewriteText(Step):
    """Gives the small file at the target another text; as it was before, it is held.

    With `edits` the text is that in which all of them were made: where a file did not go where it was to, its edit is
    left out.
    """

    kind: ClassVar[StepKind] = StepKind.REPLACE
    text: str
    edits: tuple[TextEdit, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class RewriteKeywords(Step):
    """Gives the file at the target the keywords `new` instead of `old` inside it; as it was before, it is held."""

    kind: ClassVar[StepKind] = StepKind.REPLACE
    old: tuple[str, ...]
    new: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class RewriteTags(Step):
    """Gives the file at the target these fields inside, and the picture at `cover` ("": none); the old one is held."""

    kind: ClassVar[StepKind] = StepKind.REPLACE
    tags: Mapping[str, Value]
    cover: str = ""


@dataclass(frozen=True, slots=True)
class ArchivePart:
    """An archive to unpack.

    `layout` says where each member goes below the new folder; members that are not in it stay in the archive.
    `listing` tells its contents from those of others, `volumes` are its other volumes. `names` is the encoding of its
    members' names, "" for the one that they most likely have.
    """

    archive: str
    stamp: FileStamp
    layout: Mapping[str, str]
    listing: str = ""
    volumes: tuple[PathStamp, ...] = ()
    names: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Unpack(Step):
    """Unpacks the archive at the source, or `parts` of several, into a new folder; they come to `bytes` in all."""

    kind: ClassVar[StepKind] = StepKind.UNPACK
    parts: tuple[ArchivePart, ...] = ()
    bytes: int = 0
    outside: bool = False
    filing: FilingRule | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Hold(Step):
    """Moves a file or folder into the holding area, once every proof holds.

    `needs` is what it was made from, and must still be there; `tree` is the digest of a folder's contents, which must
    still be the same.
    """

    kind: ClassVar[StepKind] = StepKind.HOLD
    proofs: tuple[Proof, ...] = ()
    needs: tuple[PathStamp, ...] = ()
    tree: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SetTags(Step):
    """Gives an item the tags `new` instead of `old`; the file carries them too, unless it is `untouched`.

    `raw` is the attribute that carries them, before and after what this step takes back, as hexadecimal digits.
    """

    kind: ClassVar[StepKind] = StepKind.TAG
    old: tuple[str, ...]
    new: tuple[str, ...]
    untouched: bool = False
    raw: tuple[str | None, str | None] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SetField(Step):
    """Gives a custom field of an item the value `new` instead of `old`; None for no value."""

    kind: ClassVar[StepKind] = StepKind.TAG
    field: str
    old: Value | None
    new: Value | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Settle(Step):
    """Settles what an item is: the answer `new` instead of `old`; None for no answer."""

    kind: ClassVar[StepKind] = StepKind.SETTLE
    old: Answer | None
    new: Answer | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SettleFolder(Step):
    """Settles what a folder (the source, on the root of that name) is for: the role `new` instead of `old`.

    "" stands for no answer.
    """

    kind: ClassVar[StepKind] = StepKind.SETTLE
    root: str = ""
    old: str
    new: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaveFindings(Step):
    """Leaves what rules of `check` find at the source and below as it is: by the rules `new` instead of `old`."""

    kind: ClassVar[StepKind] = StepKind.SETTLE
    old: tuple[str, ...]
    new: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class FreePlace(Step):
    """Lets what was named or placed by hand (the source) be filed again; `kept` says that it is kept once more."""

    kind: ClassVar[StepKind] = StepKind.SETTLE
    kept: bool = False


@dataclass(frozen=True, slots=True)
class PackMember:
    """A file to pack: its name in the archive, where it lies and how it looked; a name that ends in / is a folder.

    `inside` says that the path is another archive, of which this is a member; without a path the file is empty.
    """

    name: str
    path: str = ""
    stamp: FileStamp | None = None
    inside: str = ""

    @property
    def is_folder(self) -> bool:
        """Whether it is a folder of the archive."""
        return self.name.endswith("/")


@dataclass(frozen=True, slots=True, kw_only=True)
class Pack(Step):
    """Packs `members`, or (none given) all that is in the archive at the source, into a new zip at the target.

    It is written the same way every time: names in order, one time for all. With `store` nothing is compressed.
    `outside` says that what is packed may lie outside the root.
    """

    kind: ClassVar[StepKind] = StepKind.PACK
    members: tuple[PackMember, ...] = ()
    store: bool = False
    outside: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Convert(Step):
    """Turns the file at the source, with the others of `inputs`, into a new file at the target, and proves it."""

    kind: ClassVar[StepKind] = StepKind.CONVERT
    inputs: tuple[PathStamp, ...]
    by: Converter


_FILING = (Move, Copy, Unpack)
_NO_RULE = FilingRule("", "")


def filing_of(step: Step) -> FilingRule | None:
    """Return the rule by which a step places something (an empty one: none any more), None where it places nothing."""
    if isinstance(step, FreePlace) and not step.kept:
        return _NO_RULE
    return step.filing if isinstance(step, _FILING) else None


@dataclass(frozen=True, slots=True, kw_only=True)
class Restore(Step):
    """Brings what is held back to its place, and takes away what stands for it, in one step.

    `instead` is where that stands, the target itself or on another drive; `made` how it looks, and `tree`, of a folder,
    what is in it. It goes `to` a path, or into the holding area (""); a hard link to `link` goes for good. `loose` says
    that the source is not held, but lies where it came from: there it goes when this is taken back.
    """

    kind: ClassVar[StepKind] = StepKind.RESTORE
    instead: str
    made: FileStamp
    to: str = ""
    link: str = ""
    loose: bool = False
    tree: str | None = None
