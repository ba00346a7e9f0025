"""Absorption of something described by its layers."""

import numpy as np

from keenquiet.core.air import Air
from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.errors import InputError
from keenquiet.core.things.porous import diffuse_absorption, octave_absorption
from keenquiet.core.things.resonators import Membrane, Perforated
from keenquiet.documents.schema import AbsorberDoc
from keenquiet.documents.surfaces import absorber_of
from keenquiet.service.answers.tools import AbsorberAnswer, AbsorberCurve, AbsorberOctave


def absorber_answer(spec: AbsorberDoc) -> AbsorberAnswer:
    """Octaves of an absorber and a fine curve of its random-incidence absorption."""
    try:
        made = absorber_of(spec, field="")
    except InputError as exc:
        raise InputError(exc.field.removeprefix("."), exc.reason, exc.cure) from exc
    normal, diffuse = octave_absorption(made, air=Air())
    f_hz = np.geomspace(44, 11_300, 120)
    return AbsorberAnswer(
        octaves=[AbsorberOctave(centre_hz=f, normal=normal[i], diffuse=diffuse[i]) for i, f in enumerate(OCTAVES_HZ)],
        curve=AbsorberCurve(f_hz=f_hz, diffuse=diffuse_absorption(made, f_hz, air=Air())),
        resonance_hz=made.resonance_hz(air=Air()) if isinstance(made, Membrane | Perforated) else None,
    )
