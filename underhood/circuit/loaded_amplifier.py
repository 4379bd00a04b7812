"""An amplifier at work on its load: what its sheet says, through the channels and leads that join the two.

Left out: what supplies it (see `build`).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from underhood.amplifier import input_power
from underhood.amplifier.input_power import InputPower
from underhood.amplifier.output_limits import Rule
from underhood.amplifier.sheet import Fitted, Sheet, fitted
from underhood.arrays import Floats
from underhood.cable import sizing
from underhood.circuit.laws import AmplifierLaw
from underhood.circuit.system_volts import as_of_12
from underhood.constants import REFERENCE_V
from underhood.document.amplifier import AmplifierRecord
from underhood.document.job import Amplifier, JobDocument, Load
from underhood.document.quantity import Quantity
from underhood.errors import BadInput
from underhood.loudspeaker import crossover
from underhood.loudspeaker.load_at_tone import LoadAtTone, load_at_tone
from underhood.programme.octaves import SAMPLES_HZ

AMPLIFIER_NODE = "amp:"
"""Begins the name of an amplifier's own node; its id follows."""


TOGETHER_SHARE = 0.15
"""Of the watts, that channels of one supply may lack when all play [P]."""


class CannotAnswerError(Exception):
    """An amplifier of which too little is known; the job is still answered for the others."""


@dataclass(frozen=True, slots=True)
class OutputConnection:
    """How the channels of an amplifier meet its load.

    one_driver    each channel has one driver of its own
    halves        each channel sees half of the load: a bridge, or one of two strapped amplifiers
    channels      equal channels at work on loads like it
    in_series     2 where two drive one load, their volts adding: channels of a bridge, or strapped amplifiers
    lead_ohm      both conductors of the speaker lead, as one channel sees them
    """

    one_driver: bool
    halves: bool
    channels: int
    in_series: int
    lead_ohm: float


@dataclass(frozen=True, slots=True)
class LoadedAmplifier:
    """An amplifier at work.

    load          the whole load at its terminals, without the speaker lead
    channel_ohm   |Z| at one channel with the speaker lead, and `channel_pf` its power factor
    channels      equal channels at work on loads like it
    lead_share    share of the output's true watts that the speaker lead burns, as warm as `lead_tone_a` makes it
    lead_tone_a   amps of one speaker lead with a full tone at full supply
    in_series     2 where two drive one load, their volts adding: channels of a bridge, or strapped amplifiers
    reference_v   output volts of one channel at a 14.4 V supply, `rule` the limit behind it
    set_at_v      the charger's set-point, against which it is told what sag costs
    level_db      the system's level and its own together, below full scale
    tone_hz       that it plays; None for music, of which it plays the band between its filters
    """

    amplifier: Amplifier
    index: int
    node: str
    fitted: Fitted
    load: LoadAtTone
    channel_ohm: float
    channel_pf: float
    channels: int
    in_series: int
    lead_share: float
    lead_tone_a: float
    reference_v: float
    rule: Rule
    nominal_channel_ohm: float
    output_connection: OutputConnection
    job_load: Load
    set_at_v: float
    level_db: float
    tone_hz: float | None

    def of_12(self, supply_v: float) -> float:
        """Volts of its supply as a 12 V amplifier would have them: its fit is one's (see `system_volts`)."""
        return supply_v * 12 / self.amplifier.system_v

    def shares_of_full(self, frequency_hz: Floats) -> Floats:
        """Share of its full-scale volts that 0 dB of a tone commands: the level knob, its trim, its filters, (n,)."""
        return np.asarray(10 ** (self.level_db / 20) * crossover.gain(self.job_load, frequency_hz))

    @property
    def full_share(self) -> float:
        """Share of its full-scale volts that level 1 of what it plays commands; music is its own pass band's."""
        if self.tone_hz is None:
            return float(10 ** (self.level_db / 20))
        return float(self.shares_of_full(np.array([self.tone_hz]))[0])

    @property
    def usual_w(self) -> float:
        """True watts of all channels at level 1 of what it plays, its gain set at full supply: what it is weighed by
        beside the others before anything is solved."""
        volts = self.reference_v * self.full_share
        return self.channels * volts**2 / self.channel_ohm * self.channel_pf

    @property
    def octave_shares(self) -> tuple[float, ...]:
        """Share of each octave's power that its filters let through, (10,); a bass amplifier's own band is one."""
        load, record = self.job_load, self.amplifier
        if record.band == "bass" and record.pass_band_hz and not load.low_pass_hz:
            load = load.model_copy(update={"low_pass_hz": Quantity(record.pass_band_hz[1], "assumed")})
        return tuple((crossover.gain(load, SAMPLES_HZ) ** 2).mean(axis=1).tolist())

    @property
    def law(self) -> AmplifierLaw:
        """What it delivers and takes in on this load; its idle current is one, whatever its channels."""
        taken = self.taken.law
        return AmplifierLaw(
            reference_v=self.reference_v,
            ohm=self.channel_ohm,
            power_factor=self.channel_pf,
            channels=self.channels,
            exponent=self.fitted.exponent,
            dropout_v=self.fitted.dropout_v,
            supply_scale=self.amplifier.system_v / 12,
            taken=taken._replace(idle_a=taken.idle_a / self.channels),
        )

    @property
    def taken(self) -> InputPower:
        """What it takes in, its losses as readings in the car had them."""
        found = self.fitted.input(self.channel_ohm)
        losses = self.amplifier.loss_scale.value
        return replace(found, law=input_power.scaled(found.law, losses, self.channel_ohm * self.channel_pf))

    @property
    def apparent_share(self) -> float:
        """Ohms of the load alone over those with the speaker lead: its share of the output's volt-amperes."""
        return math.hypot(self.channel_pf * (1 - self.lead_share), math.sqrt(1 - self.channel_pf**2))

    def band(self, supply_v: float) -> tuple[float, float]:
        """Lowest and highest volts on this load at a supply, as shares of the answer.

        Lower still where all channels of one supply play that were never seen to play together.
        """
        low, high = self.fitted.band(self.channel_ohm, self.of_12(supply_v))
        return low * math.sqrt(1 - TOGETHER_SHARE) if self.unseen_together else low, high

    @property
    def unseen_together(self) -> bool:
        """Whether all its channels play, and nobody said that they did while it was measured."""
        outputs, record = self.amplifier.outputs, self.amplifier
        return outputs > 1 and self.channels >= outputs and record.all_channels_driven is not True

    @property
    def loads(self) -> int:
        """How many loads it drives side by side, each through a lead of its own; a bridge or a strapped pair one."""
        return max(self.channels // self.in_series, 1)


def record_of(amplifier: Amplifier) -> AmplifierRecord:
    """The bench record within a job's amplifier."""
    return AmplifierRecord.model_construct(**{name: getattr(amplifier, name) for name in AmplifierRecord.model_fields})


def sheet_of(amplifier: Amplifier) -> Sheet:
    """The bench sheet within a job's amplifier."""
    return Sheet(record_of(amplifier), tuple(amplifier.runs), tuple(amplifier.claims))


def loaded_amplifier(
    job: JobDocument, index: int, amplifier: Amplifier, strapped: Mapping[str, Load]
) -> LoadedAmplifier:
    """An amplifier of a job on its load.

    index      its place among the job's amplifiers
    strapped   loads that two amplifiers share, by the id of either
    Raises CannotAnswerError where too little is known of it, BadInput for a field that makes no sense.
    """
    load = strapped.get(amplifier.id, amplifier.load)
    if load is None:
        raise CannotAnswerError("has no load; choose its drivers and wiring")
    if not amplifier.runs and not amplifier.claims:
        raise CannotAnswerError("has no reading and no claim; pick one from the bench")
    tone_hz, plays_tone = job.basis.tone_hz.value, job.basis.programme in ("tone", "burst")
    if not plays_tone:
        tone_hz = _within_band(load, tone_hz)
    if load.rise_tone_hz is None:
        load = load.model_copy(update={"rise_tone_hz": job.basis.tone_hz})
    found = _as_in_the_car(
        fitted(as_of_12(sheet_of(amplifier), amplifier.system_v / 12), job.basis.criterion, tone_hz), amplifier
    )
    joined = _connection(amplifier, load, amplifier.id in strapped)
    whole = load_at_tone(load, tone_hz, one_driver=joined.one_driver)
    channel = whole.halved() if joined.halves else whole
    scale = amplifier.system_v / 12
    set_at_v = job.chargers[0].setpoint_v.value if job.chargers else REFERENCE_V * scale
    level_db = job.basis.level_db.value + amplifier.level_db.value
    # The lead is as warm as a full tone at full supply makes it: music and a supply that sags warm it less.
    cold_ohm, cold_pf = _with_lead(channel, joined.lead_ohm)
    asked_v = found.output(cold_ohm, REFERENCE_V, cold_pf)[0] * 10 ** (level_db / 20)
    lead_tone_a = asked_v / cold_ohm
    joined = replace(joined, lead_ohm=_speaker_lead_ohm(amplifier, lead_tone_a) / (2 if joined.halves else 1))
    ohm, power_factor = _with_lead(channel, joined.lead_ohm)
    reference_v, rule = found.output(ohm, REFERENCE_V, power_factor)
    return LoadedAmplifier(
        amplifier=amplifier,
        index=index,
        node=node_of_amplifier(amplifier),
        fitted=found,
        load=whole,
        channel_ohm=ohm,
        channel_pf=power_factor,
        channels=joined.channels,
        in_series=joined.in_series,
        lead_share=joined.lead_ohm / (channel.impedance_ohm * channel.power_factor + joined.lead_ohm),
        lead_tone_a=lead_tone_a,
        reference_v=reference_v / found.scale(REFERENCE_V),
        rule=rule,
        nominal_channel_ohm=channel.nominal_ohm,
        output_connection=joined,
        job_load=load,
        set_at_v=set_at_v,
        level_db=level_db,
        tone_hz=tone_hz if plays_tone else None,
    )


def _as_in_the_car(found: Fitted, amplifier: Amplifier) -> Fitted:
    """What its sheet says, times what readings in the car said of it."""
    scale = amplifier.output_scale
    if scale.origin == "assumed":
        return found
    spread = scale.spread if scale.origin == "measured" else None
    return replace(found, output_scale=scale.value, scale_spread=spread)


def _within_band(load: Load, tone_hz: float) -> float:
    """The tone that music is told by: the job's, or the edge of the amplifier's own band where that lies outside."""
    low = load.high_pass_hz.value if load.high_pass_hz else tone_hz
    high = load.low_pass_hz.value if load.low_pass_hz else tone_hz
    return min(max(tone_hz, low), max(high, low))


def _with_lead(channel: LoadAtTone, lead_ohm: float) -> tuple[float, float]:
    """(|Z|, power factor) of one channel's load behind its speaker lead."""
    resistance = channel.impedance_ohm * channel.power_factor
    reactance = math.sqrt(max(channel.impedance_ohm**2 - resistance**2, 0.0))
    ohm = math.hypot(resistance + lead_ohm, reactance)
    return ohm, (resistance + lead_ohm) / ohm


def node_of_amplifier(amplifier: Amplifier) -> str:
    """The node that its supply terminals are: one of its own at the end of a lead."""
    return f"{AMPLIFIER_NODE}{amplifier.id}" if amplifier.lead else amplifier.at


def _connection(amplifier: Amplifier, load: Load, strapped: bool) -> OutputConnection:
    each_driver = amplifier.connection == "per_driver"
    halves = strapped or (amplifier.connection == "bridged" and amplifier.measured_as == "channel")
    return OutputConnection(
        one_driver=each_driver,
        halves=halves,
        channels=int(load.drivers.value) if each_driver else 2 if halves and not strapped else 1,
        in_series=2 if halves else 1,
        lead_ohm=_speaker_lead_ohm(amplifier, 0.0) / (2 if halves else 1),
    )


def _speaker_lead_ohm(amplifier: Amplifier, rms_a: float) -> float:
    """Both conductors of the speaker lead, at the temperature that a current brings."""
    wire = amplifier.speaker_lead
    if wire is None:
        return 0.0
    try:
        return 2 * sizing.loop(wire, rms_a).ohm + wire.joints_ohm.value
    except BadInput as problem:
        raise BadInput(problem.text, f"speaker_lead.{problem.field}") from None
