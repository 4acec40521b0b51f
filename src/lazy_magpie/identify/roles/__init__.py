"""What folders are for: a category, an owner, a work, a division of one, or what lies beside; from the whole tree.

`read_tree` takes the files of every folder and returns what each folder is taken for, with its probability: the
evidence of each folder (`features`) and what may stand below what are scored by fitted weights (`model`), and exact
inference over the tree (`inference`) weighs all folders together. `place` turns the roles above a file into a path that
says the same, and `left_over` doubts what is left of a name that is read from it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from lazy_magpie.identify.roles.place import FolderReading
from lazy_magpie.paths import name_of
from lazy_magpie.words import told_role

__all__ = ["FolderReading", "read_tree"]


def read_tree(listing: Mapping[str, Sequence[str]], told: Mapping[str, str] | None = None) -> dict[str, FolderReading]:
    """Return what each folder of a tree is taken for; `listing` has the names of the files in each, "" is the top.

    `told` has the roles that a person said folders have, and so do a person's own words: they stand, and all others are
    worked out beside them.
    """
    from lazy_magpie.identify.roles.features import main_matter, paths_of
    from lazy_magpie.identify.roles.model import weighed_tree
    from lazy_magpie.identify.roles.place import ROLES, reading_of

    by_words = {path: role for path in paths_of(listing) if (role := told_role(name_of(path)))}
    told = {**by_words, **(told or {})}
    tree = weighed_tree(listing, told)
    found = {
        folder.path: reading_of(some, ROLES, main_matter(folder))
        for folder, some in zip(tree.folders[1:], tree.chances[1:].tolist(), strict=True)
    }
    return found | {path: found[path].as_told(role) for path, role in told.items() if path in found}
