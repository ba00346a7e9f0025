"""Moves against noise: switch it off, record when it rests, close the way it comes in."""

from collections.abc import Iterator
from typing import Final

import numpy as np

from keenquiet.core.edits import SealWay, SetHour, Switch
from keenquiet.core.judge.candidate import Candidate, Fact
from keenquiet.core.room.calendar import Calendar
from keenquiet.core.room.room import NoiseSource
from keenquiet.core.room.ways import MEANS, Seal, change_db
from keenquiet.core.scenario import Scenario

_LEAST_SEAL_DB: Final = 0.5  # in at least one octave, else nothing is said of it
_STEP_H: Final = 0.25


def quiet(scenario: Scenario, allowed: Calendar | None = None) -> Iterator[Candidate]:
    """Noises inside that can be switched off, and the next hour, of those in which playing is allowed, at which what
    runs now rests. What only passes is waited for, and is no reason for another hour.
    """
    sounding = [noise for noise in scenario.described.noises if not noise.passes]
    for noise in sounding:
        if noise.kind == "inside" and noise.runs_at(scenario.hour):
            yield Candidate("silence", (Switch(noise.name),), facts={"noise": noise.name})
    if scenario.hour is None:
        return
    here = [noise for noise in sounding if noise.hours and noise.runs_at(scenario.hour)]
    if not here:
        return
    hours = _hours_after(scenario, allowed or Calendar())
    at = _first_rest(here, hours)
    if at is None:
        here = [max(here, key=lambda noise: float(noise.level_db.max()))]
        at = _first_rest(here, hours)
    if at is not None:
        yield Candidate("hour", (SetHour(at),), facts={"hour": at, "resting": tuple(n.name for n in here)})


def _hours_after(scenario: Scenario, allowed: Calendar) -> list[float]:
    """Quarters of the hour from now on, round the clock, in which playing is allowed. [h]"""
    start = np.ceil((scenario.hour or 0.0) / _STEP_H) * _STEP_H
    hours = [float((start + step * _STEP_H) % 24) for step in range(round(24 / _STEP_H))]
    return [hour for hour in hours if allowed.runs_at(hour, scenario.weekday)]


def _first_rest(noises: list[NoiseSource], hours: list[float]) -> float | None:
    return next((hour for hour in hours if not any(noise.runs_at(hour) for noise in noises)), None)


def seals(scenario: Scenario) -> Iterator[Candidate]:
    """Ways in that could be closed against what comes through their surface now, each with the means that wins most."""
    ways = scenario.room.ways
    closed_already = {seal.way for seal in scenario.sealed}
    faces = {n.surface for n in scenario.described.noises if n.kind == "outside" and n.runs_at(scenario.hour)}
    for way in ways:
        if way.face not in faces or not way.key or way.key in closed_already:
            continue
        fitting = [means.key for means in MEANS.values() if way.kind in means.fits]
        gains = {
            means: float(-change_db(ways, (*scenario.sealed, Seal(way.key, means)), way.face).min())
            for means in fitting
        }
        if gains and max(gains.values()) >= _LEAST_SEAL_DB:
            means = max(gains, key=lambda key: gains[key])
            facts: dict[str, Fact] = {"way": way.key, "kind": way.kind, "face": way.face, "means": means}
            yield Candidate("seal", (SealWay(way.key, means),), f"seal-{means}", facts=facts)
