"""Facts of video files, through PyAV.

| fact | what it is |
|---|---|
| resolution | lines of the picture, as 720p |
| length | seconds |
| title | the title tag of the container, if there is one |
"""

from __future__ import annotations

from lazy_magpie.model import Value

ENDINGS = frozenset(
    ".mkv .mp4 .avi .m4v .mov .wmv .mpg .mpeg .ts .m2ts .mts .webm .flv .ogv .vob .3gp .divx .asf .rm .rmvb".split()
)


def read(path: str) -> dict[str, Value]:
    """Return the facts of the video file at `path`; raises whatever PyAV does for a file it can't open."""
    import av

    facts: dict[str, Value] = {}
    with av.open(path, metadata_errors="ignore") as container:
        if container.duration:
            facts["length"] = round(container.duration / av.time_base, 1)
        if container.streams.video:
            facts["resolution"] = f"{container.streams.video[0].height}p"
        if title := container.metadata.get("title", "").strip():
            facts["title"] = title
    return facts
