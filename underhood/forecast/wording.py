"""What states of the engine and programmes are called where they are spoken of."""

from __future__ import annotations

from underhood.document.job import Engine, Programme

ENGINE_WORDS: dict[Engine, str] = {"off": "engine off", "idle": "at idle", "cruise": "at cruise"}
PROGRAMME_WORDS: dict[Programme, str] = {
    "tone": "a full tone",
    "burst": "bursts",
    "everyday": "everyday music",
    "bass_heavy": "bass-heavy music",
    "held_bass": "long held bass",
    "file": "your recording",
}
