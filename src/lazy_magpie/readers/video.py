"""Facts of video files, through PyAV.

| fact | what it is |
|---|---|
| resolution | lines of the picture, as 720p |
| width, height | pixels |
| length | seconds |
| bitrate | bits a second, of the whole file |
| picture_codec, sound_codec | how picture and sound (of the first stream of each) are coded |
| audio_languages, subtitle_languages | ISO 639-1 codes, in the order of the streams |
| title | the title tag of the container, if there is one |
"""

from __future__ import annotations

from typing import Any

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
        if container.bit_rate:
            facts["bitrate"] = int(container.bit_rate)
        streams = container.streams
        if not streams.video and not streams.audio:
            raise ValueError("no picture and no sound in it")
        if pictures := moving_pictures(container):
            picture = pictures[0]
            facts |= {"width": picture.width, "height": picture.height, "resolution": f"{picture.height}p"}
            facts["picture_codec"] = picture.codec_context.name
        if streams.audio:
            facts["sound_codec"] = streams.audio[0].codec_context.name
        for name, found in (("audio_languages", streams.audio), ("subtitle_languages", streams.subtitles)):
            if languages := _languages(found):
                facts[name] = languages
        if title := container.metadata.get("title", "").strip():
            facts["title"] = title
    return facts


def moving_pictures(container: Any) -> list[Any]:
    """Return the video streams of an open container that are no covers."""
    return [stream for stream in container.streams.video if not _is_cover(stream)]


def covers(container: Any) -> list[Any]:
    """Return the video streams of an open container that are covers: one picture, kept inside."""
    return [stream for stream in container.streams.video if _is_cover(stream)]


def _is_cover(stream: Any) -> bool:
    from av.stream import Disposition

    return bool(stream.disposition & Disposition.attached_pic)


def _languages(streams: Any) -> list[str]:
    from lazy_magpie.readers.languages import code_of

    codes = (code_of(stream.metadata.get("language", "")) for stream in streams)
    return list(dict.fromkeys(code for code in codes if code))
