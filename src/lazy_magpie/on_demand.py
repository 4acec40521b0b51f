"""Packages whose names are loaded when they are asked for, so that a glance costs no more than it needs."""

from __future__ import annotations

import sys
from collections.abc import Callable, Mapping
from importlib import import_module


def on_demand(package: str, homes: Mapping[str, str]) -> Callable[[str], object]:
    """Return a package's `__getattr__`: `homes` says which of its modules holds which names, parted by blanks.

    No name may be one of a module of the package, which would hide it once that is loaded. What it returns raises
    AttributeError for what there is not.
    """
    home_of = {name: module for module, names in homes.items() for name in names.split()}

    def load(name: str) -> object:
        if name not in home_of:
            raise AttributeError(f"module {package!r} has no attribute {name!r}")
        found: object = getattr(import_module(f"{package}.{home_of[name]}"), name)
        vars(sys.modules[package])[name] = found  # so that only the first look at it comes here
        return found

    return load
