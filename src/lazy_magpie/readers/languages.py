"""Languages as containers name them (ISO 639-2, three letters) as ISO 639-1 codes of two."""

from __future__ import annotations

_CODES = (
    "ara:ar bul:bg cat:ca ces:cs cze:cs cym:cy wel:cy dan:da deu:de ger:de ell:el gre:el eng:en est:et fin:fi fra:fr "
    "fre:fr gla:gd gle:ga heb:he hin:hi hrv:hr hun:hu ind:id isl:is ice:is ita:it jpn:ja kor:ko lav:lv lit:lt nld:nl "
    "dut:nl nor:no nob:nb pol:pl por:pt ron:ro rum:ro rus:ru slk:sk slo:sk slv:sl spa:es srp:sr swe:sv tha:th tur:tr "
    "ukr:uk vie:vi zho:zh chi:zh fas:fa per:fa"
)
_OF = dict(pair.split(":") for pair in _CODES.split())


def code_of(language: str) -> str:
    """Return the code of two letters for a language tag, "" where there is none."""
    tag = language.strip().lower().partition("-")[0]
    return tag if len(tag) == 2 else _OF.get(tag, "")
