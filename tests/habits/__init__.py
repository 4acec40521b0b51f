"""Names by the families of habits that they stand for, each with what a careful person would read in it."""

from __future__ import annotations

from typing import Any

Case = tuple[str, str, dict[str, Any]]
"""A path, its kind and state, and its fields."""
