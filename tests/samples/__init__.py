"""Small real files of formats that people have, made here from the formats' own descriptions, and what each says.

Where a well-known library writes the format, it does; the others are put together byte by byte.
"""

from __future__ import annotations

from collections.abc import Mapping

from tests.samples import notes, papers, pictures, sounds
from tests.samples.pictures import vast_png
from tests.samples.sample import Sample

__all__ = ["SAMPLES", "Sample", "vast_png"]

SAMPLES: Mapping[str, Sample] = {**pictures.SAMPLES, **papers.SAMPLES, **sounds.SAMPLES, **notes.SAMPLES}
