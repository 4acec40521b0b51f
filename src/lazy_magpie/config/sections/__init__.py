"""The sections of magpie.toml, one a file.

Each has KEYS, its keys with their types, NAMED, whether its tables have names ([shelf.NAME]), and `read`.
"""
