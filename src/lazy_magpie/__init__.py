"""Lazy Magpie: catalogues, names and files large downloaded collections, and never loses a file."""

__version__ = "0.1.0"
