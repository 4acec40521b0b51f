"""An item in a few words."""

from __future__ import annotations

from collections.abc import Mapping

from lazy_magpie.model import File, Kind, Value


def label(kind: Kind, fields: Mapping[str, Value]) -> str:
    """Return what an item is called: the film with its year, the episode with its number, the song with its artist."""
    if kind is Kind.EPISODE:
        parts = (fields.get("show"), number_text(fields), fields.get("episode_title"))
        return " ".join(str(part) for part in parts if part)
    text = str(fields.get("title") or fields.get("family") or fields.get("extra") or fields.get("of") or "")
    if kind is Kind.TRACK and fields.get("artist"):
        return f"{fields['artist']} - {text}"
    return f"{text} ({fields['year']})" if text and "year" in fields else text


def number_text(fields: Mapping[str, Value]) -> str:
    """Return an episode's number: S02E05-E06, its date, or its running number."""
    if "season" in fields and "episode" in fields:
        last = f"-E{int(str(fields['last_episode'])):02}" if "last_episode" in fields else ""
        return f"S{int(str(fields['season'])):02}E{int(str(fields['episode'])):02}{last}"
    return str(fields.get("air_date") or fields.get("running") or "")


def role_text(file: File) -> str:
    """Return what a file is of its item, in words."""
    return f"{file.role}, part {file.part}" if file.part else file.role
