"""Test tones to play and to keep."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema

from underhood.bench.test_tones import PRESETS, Setting, Tone, wav
from underhood.forecast.cautions import CAUTIONS
from underhood_server.accounts.permission import VIEWER
from underhood_server.api.shapes import In, attachment, content

router = Router(auth=VIEWER)


class Presets(Schema):
    """The tones that the trade calls for most."""

    presets: list[Setting]
    cautions: list[str]


class ToneQuery(In):
    """A tone as it stands in an address; the core's Tone says what is allowed."""

    kind: str = "sine"
    tone_hz: float = 40
    level_db: float = 0
    seconds: float = 30
    sample_rate: int = 48000
    bits: int = 16


@router.get("", response=Presets)
def list_presets(request: HttpRequest) -> Presets:
    """Tones for the usual jobs."""
    return Presets(presets=list(PRESETS), cautions=[CAUTIONS["test_tone"], CAUTIONS["hearing"]])


@router.get("/file", openapi_extra=content("audio/wav", binary=True))
def make_tone(request: HttpRequest, asked: Query[ToneQuery], download: bool = False) -> HttpResponse:
    """A tone as a WAV file; with `download` under a name that says what it is."""
    tone = Tone.model_validate(asked.model_dump())
    return attachment(wav(tone), "audio/wav", tone.file_name) if download else HttpResponse(wav(tone), "audio/wav")
