"""Every way to wire and connect an amplifier's drivers, each with its own forecast, so that one picks by result.

For each arrangement and connection the whole job is forecast anew. Decibels count from the arrangement in use.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from underhood.constants import REFERENCE_V
from underhood.decibels import decibels
from underhood.document.job import Amplifier, Connection, JobDocument, Load
from underhood.errors import BadInput
from underhood.forecast.forecast import Forecast, make_forecast
from underhood.forecast.load_curves import dc_ohm
from underhood.loudspeaker import coils, load_at_tone
from underhood.loudspeaker.coils import Coils, Mixed

CONNECTION_WORDS: dict[Connection, str] = {
    "single": "one amplifier",
    "bridged": "bridged",
    "strapped": "two of them, strapped",
    "per_driver": "a channel for each driver",
}
PARTNER = "-second"


@dataclass(frozen=True, slots=True)
class Option:
    """One way to wire and connect. Watts are true watts in all its drivers, at the loudest moment.

    channel_ohm   what each channel sees, against the lowest safe load
    gain_db       watts against those of the arrangement in use; `bench_gain_db` the same on resistors at 14.4 V
    """

    words: str
    connection: Connection
    connection_words: str
    load_ohm: float
    channel_ohm: float
    coil_share: float
    coils: Coils
    in_series: int
    strings: int
    dc_ohm: float
    allowed: bool
    measured: bool
    in_use: bool
    operating: bool
    delivered_w: float
    bench_w: float
    impedance_ohm: float
    draw_mean_a: float
    draw_peak_a: float
    terminal_v: float
    gain_db: float
    bench_gain_db: float


@dataclass(frozen=True, slots=True)
class WiringOptions:
    """Ways to wire a load: equal drivers by result, or unlike ones by their shares."""

    options: list[Option]
    mixed: list[Mixed]


def build(job: JobDocument, index: int) -> WiringOptions:
    """What there is to choose from for amplifier `index` of the job. Raises BadInput where it has no load."""
    load = _amplifier(job, index).load
    if load is not None and load.drivers_mixed:
        ohms = [load_at_tone.nominal_driver_ohm(driver, load) for driver in load.drivers_mixed]
        return WiringOptions([], coils.mixed(ohms))
    return WiringOptions(options(job, index), [])


def options(job: JobDocument, index: int) -> list[Option]:
    """Every option for amplifier `index` of the job, the highest load first. Raises BadInput where it has no load."""
    amplifier = _amplifier(job, index)
    load = amplifier.load
    assert load is not None
    if load.drivers_mixed:
        raise BadInput("mixed drivers are joined in series or in parallel only; see their shares", "load.drivers_mixed")
    in_use = _of(job, index, amplifier, load, load_at_tone.wired_as(load).words, amplifier.connection)
    found = [in_use] if in_use else []
    for connection in _connections(job, amplifier, load):
        for words in _wirings(load, connection):
            if (words, connection) != (in_use.words if in_use else None, amplifier.connection):
                forecast = _of(job, index, amplifier, load, words, connection)
                found += [forecast] if forecast else []
    if not found:
        make_forecast(job)  # says what is wrong with the whole of it
        raise BadInput("cannot be wired in any way that can be forecast", f"amplifiers.{index}.load")
    base = found[0]
    return sorted((_gained(each, base, each is in_use) for each in found), key=lambda o: (-o.load_ohm, o.connection))


def _amplifier(job: JobDocument, index: int) -> Amplifier:
    if not 0 <= index < len(job.amplifiers):
        raise BadInput(f"{index} is no amplifier of this job; give 0 to {len(job.amplifiers) - 1}", "index")
    amplifier = job.amplifiers[index]
    if amplifier.load is None:
        raise BadInput("has no load yet; enter its drivers", f"amplifiers.{index}.load")
    return amplifier


def _connections(job: JobDocument, amplifier: Amplifier, load: Load) -> Iterator[Connection]:
    """Connections that this amplifier could be used in."""
    channels = amplifier.channels.value
    yield "single"
    if channels >= 2 and amplifier.measured_as == "channel" and amplifier.bridgeable is not False:
        yield "bridged"
    if load.drivers.value > 1 and channels >= load.drivers.value:
        yield "per_driver"
    if amplifier.strappable or amplifier.connection == "strapped":
        yield "strapped"


def _wirings(load: Load, connection: Connection) -> Iterator[str]:
    drivers = 1 if connection == "per_driver" else int(load.drivers.value)
    for each in coils.arrangements(drivers, int(load.coils_per_driver.value), load.coil_ohm.value):
        yield each.words


def _of(
    job: JobDocument, index: int, amplifier: Amplifier, load: Load, words: str, connection: Connection
) -> Option | None:
    """One option's forecast; None where that setup cannot be forecast at all."""
    try:
        forecast = make_forecast(_rewired(job, index, words, connection))
    except BadInput:
        return None
    reports = [report for report in forecast.amplifiers if report.id in (amplifier.id, amplifier.id + PARTNER)]
    if not reports:
        return None
    return _option(forecast, index, words, connection)


def _rewired(job: JobDocument, index: int, words: str, connection: Connection) -> JobDocument:
    """The job with one amplifier wired and connected another way; strapping brings a second amplifier like it."""
    amplifier = job.amplifiers[index]
    assert amplifier.load is not None
    if connection == "per_driver" and not words.startswith("coils") and words != "one coil":
        words = "one coil"
    load = amplifier.load.model_copy(update={"wiring": _whole_words(amplifier.load, words, connection)})
    changed = amplifier.model_copy(update={"load": load, "connection": connection})
    others = [each for i, each in enumerate(job.amplifiers) if i != index]
    if connection == "strapped" and amplifier.connection != "strapped":
        partner = amplifier.model_copy(update={"id": amplifier.id + PARTNER, "load": None, "connection": "single"})
        changed = changed.model_copy(update={"partner": partner.id})
        others = [*others, partner]
    amplifiers = [*others[:index], changed, *others[index:]]
    return job.model_copy(update={"amplifiers": amplifiers})


def _whole_words(load: Load, words: str, connection: Connection) -> str:
    """An arrangement of the whole load that gives each channel's driver these coils."""
    if connection != "per_driver":
        return words
    for each in coils.arrangements(int(load.drivers.value), int(load.coils_per_driver.value), load.coil_ohm.value):
        if each.in_series == 1 and (each.words.startswith(words) or words == "one coil"):
            return each.words
    return words


def _option(forecast: Forecast, index: int, words: str, connection: Connection) -> Option:
    amplifier = forecast.job.amplifiers[index]
    together = [
        (d, r)
        for d, r in zip(forecast.circuit.loaded, forecast.amplifiers, strict=True)
        if r.id in (amplifier.id, amplifier.partner if connection == "strapped" else amplifier.id)
    ]
    loaded, report = next((d, r) for d, r in together if r.id == amplifier.id)
    wired = load_at_tone.wired_as(loaded.job_load, one_driver=loaded.output_connection.one_driver)
    assert not isinstance(wired, Mixed)
    lowest = amplifier.minimum_load_ohm
    channel = loaded.nominal_channel_ohm
    bench_v, _ = loaded.fitted.output(channel, REFERENCE_V)
    return Option(
        words=words,
        connection=connection,
        connection_words=CONNECTION_WORDS[connection],
        load_ohm=wired.load_ohm,
        channel_ohm=channel,
        coil_share=1 / (loaded.job_load.drivers.value * loaded.job_load.coils_per_driver.value),
        coils=wired.coils,
        in_series=wired.in_series,
        strings=wired.strings,
        dc_ohm=dc_ohm(loaded.job_load, one_driver=loaded.output_connection.one_driver),
        allowed=lowest is None or channel >= 0.995 * lowest.value,
        measured=not loaded.fitted.fit.extrapolated(channel),
        in_use=False,
        operating=forecast.operating_point,
        delivered_w=sum(r.delivered_w for _, r in together),
        bench_w=sum(d.channels for d, _ in together) * bench_v**2 / channel,
        impedance_ohm=loaded.load.impedance_ohm,
        draw_mean_a=sum(r.draw.mean for _, r in together),
        draw_peak_a=sum(r.draw.peak for _, r in together),
        terminal_v=report.terminal_low_v,
        gain_db=0.0,
        bench_gain_db=0.0,
    )


def _gained(each: Option, base: Option, in_use: bool) -> Option:
    return replace(
        each,
        in_use=in_use,
        gain_db=decibels(each.delivered_w / base.delivered_w) if base.delivered_w > 0 else 0.0,
        bench_gain_db=decibels(each.bench_w / base.bench_w),
    )
