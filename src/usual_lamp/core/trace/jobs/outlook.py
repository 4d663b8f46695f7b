"""What a still will take, told from a probe of it. No tracer is needed to tell, so this imports none."""

from __future__ import annotations

from dataclasses import dataclass

from usual_lamp.core.quality import MOST_SAMPLES
from usual_lamp.core.trace.jobs.grain import GrainMeter

FEWEST_SAMPLES = 2
BEGINS = 3.5
"""Seconds that a process takes to build the scene of a still, which count as its time: 2 to 6 for six files of 2 to 40
parts on the machine where forecasts were measured."""


@dataclass(frozen=True)
class Probe:
    """How fast a picture is traced and how its grain falls, see `probe.probing`."""

    seconds: float
    """That one sample of one pixel takes a process that traces."""
    readings: dict[int, float]
    """See `GrainMeter.readings`."""


@dataclass(frozen=True)
class Outlook:
    """A still that is not traced yet."""

    samples: int
    """Of each pixel."""
    seconds: float
    """Of tracing, without what it takes to develop it."""
    grain: float | None
    """Relative error before denoising; None where nothing is lit."""


class Forecast:
    """Of stills of so many pixels, traced by so many processes that have nothing else to do."""

    def __init__(self, probe: Probe, pixels: int, processes: int = 1) -> None:
        self.meter = GrainMeter(readings=probe.readings)
        self.pass_seconds = max(1e-9, probe.seconds * pixels / processes)
        """Of one sample of all pixels."""

    def after(self, samples: int) -> Outlook:
        """One of so many samples."""
        return Outlook(samples, BEGINS + samples * self.pass_seconds, self.meter.grain(samples))

    def at_grain(self, grain: float, fewest: int = 1) -> Outlook:
        """One that is traced until its grain is this small, or at most `MOST_SAMPLES`."""
        samples = self.meter.samples_for(grain)
        return self.after(round(min(MOST_SAMPLES, max(fewest, samples or 1))))

    def within(self, seconds: float) -> Outlook:
        """One that is traced for so long."""
        samples = round(min(MOST_SAMPLES, max(FEWEST_SAMPLES, (seconds - BEGINS) / self.pass_seconds)))
        return Outlook(samples, seconds, self.meter.grain(samples))
