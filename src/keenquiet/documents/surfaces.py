"""What surfaces, openings, covers and treatments are made of: from a document's words to the core's overlays."""

from dataclasses import replace
from functools import lru_cache

from keenquiet.core.errors import InputError
from keenquiet.core.room.room import Changeable, Overlay
from keenquiet.core.things.materials import CATALOGUE, Material, computed_material, material_named, own_material
from keenquiet.core.things.porous import Absorber, PorousAbsorber
from keenquiet.core.things.resonators import Backing, Cloth, Membrane, Perforated
from keenquiet.documents.frame import Frame
from keenquiet.documents.schema import AbsorberDoc, CoverDoc, OpeningDoc, PatchDoc, SurfaceDoc, TreatmentDoc

DEFAULT_SURFACE = {"floor": "floor-boards", "ceiling": "plasterboard-ceiling", "step": "plasterboard-ceiling"}
_OPENING_MATERIAL = {"window": "glass-window", "door": "door-wood"}
_BEHIND_MATERIAL = {"outdoors": "opening-outdoors", "room": "opening-to-room", "stairs": "opening-to-stairs"}
_TREATMENT_MATERIAL = {
    "duvet": "duvet-hung",
    "curtain": "curtain-cotton",
    "open-wardrobe": "wardrobe-open",
    "rug": "carpet-cotton",
}
_RESISTANCE_OF_CLOTH = 900.0  # Pa s/m for each kg/m2: a closely woven curtain of 0.4 kg/m2 has about 400 (our estimate)
_BUNCHED_SHARE = 0.12  # of its width, at each side, when a curtain is not drawn


def absorber_of(spec: AbsorberDoc, *, field: str) -> Absorber:
    """The core's absorber. Raises InputError naming the field."""
    try:
        if spec.kind == "porous":
            return PorousAbsorber(
                spec.thickness_m, spec.flow_resistivity, spec.gap_m, spec.facing_resistance, spec.facing_mass
            )
        if spec.kind == "cloth":
            return Cloth(spec.mass_kg_m2, spec.gap_m, spec.fullness, spec.resistance)
        backing = Backing(spec.gap_m, spec.thickness_m, spec.flow_resistivity)
        if spec.kind == "membrane":
            return Membrane(spec.mass_kg_m2, backing)
        return Perforated(spec.open_share, spec.opening_m, spec.board_m, backing, is_slotted=spec.kind == "slotted")
    except InputError as exc:
        raise InputError(f"{field}.{exc.field}", exc.reason, exc.cure) from exc


def material_of(surface: SurfaceDoc, *, field: str, default: str, name: str = "Panel") -> Material:
    if surface.absorber is not None:
        return computed(absorber_of(surface.absorber, field=field), name)
    if surface.absorption is not None:
        return own_material(field, {str(k): v for k, v in surface.absorption.items()}, field=f"{field}.absorption")
    return material_named(surface.material or default, field=f"{field}.material")


@lru_cache(maxsize=500)
def computed(absorber: Absorber, name: str) -> Material:
    """Computed absorbers are kept: the same panel is asked for at every step of a drag."""
    return computed_material(absorber, name=name)


def overlay_of(frame: Frame, patch: PatchDoc, *, field: str, default: str, is_treatment: bool) -> Overlay:
    face, rect = frame.rect(patch, field=field)
    material = material_of(patch, field=field, default=default, name=getattr(patch, "label", None) or patch.kind)
    return Overlay(name=field, face=face, rect=rect, material=material, is_treatment=is_treatment, kind=patch.kind)


def opening_states(frame: Frame, opening: OpeningDoc, *, field: str) -> Changeable:
    """A door or window: what is there shut, ajar and open."""
    shut = overlay_of(
        frame, opening, field=field, default=_OPENING_MATERIAL.get(opening.kind, "door-wood"), is_treatment=False
    )
    keys = {"ajar": "door-ajar", "open": _BEHIND_MATERIAL[opening.behind]}
    states = {"shut": (shut,)} | {
        state: (replace(shut, material=material_named(key, field=field)),) for state, key in keys.items()
    }
    return Changeable(field, opening.kind, tuple(states.items()), opening.state)


def cover_states(frame: Frame, cover: CoverDoc, *, field: str) -> Changeable:
    """Cloth that belongs to the room; a curtain that is not drawn hangs bunched at both sides, a rug or a blanket that
    is not is out of the room.
    """
    state = "drawn" if cover.drawn else "undrawn"
    if cover.kind == "rug":
        rug = overlay_of(frame, cover, field=field, default="carpet-cotton", is_treatment=False)
        return Changeable(field, cover.kind, (("drawn", (rug,)), ("undrawn", ())), state)
    face, (u0, u1, v0, v1) = frame.rect(cover, field=field)
    if cover.material or cover.absorption or cover.absorber:
        cloth, bunched = (material_of(cover, field=field, default="curtain-cotton", name="Curtain"),) * 2
    else:
        resistance = _RESISTANCE_OF_CLOTH * cover.weight_kg_m2
        spec = AbsorberDoc(
            kind="cloth",
            mass_kg_m2=cover.weight_kg_m2,
            gap_m=cover.gap_m,
            resistance=resistance,
            fullness=cover.fullness,
        )
        cloth = computed(absorber_of(spec, field=field), cover.kind)
        bunched = computed(absorber_of(spec.model_copy(update={"fullness": 3.0}), field=field), cover.kind)
    drawn = (Overlay(field, face, (u0, u1, v0, v1), cloth, kind=cover.kind),)
    if cover.kind == "blanket":
        return Changeable(field, cover.kind, (("drawn", drawn), ("undrawn", ())), state)
    side = _BUNCHED_SHARE * (u1 - u0)
    rects = ((u0, u0 + side, v0, v1), (u1 - side, u1, v0, v1))
    aside = tuple(Overlay(field, face, rect, bunched, kind=cover.kind) for rect in rects)
    return Changeable(field, cover.kind, (("drawn", drawn), ("undrawn", aside)), state)


def treatment_overlay(frame: Frame, treatment: TreatmentDoc, *, field: str) -> Overlay:
    """Something hung or laid for the recording."""
    default = _TREATMENT_MATERIAL.get(treatment.kind, "mineral-wool-50")
    hung = overlay_of(frame, treatment, field=field, default=default, is_treatment=True)
    return replace(hung, piece=treatment.piece or "")


def treatment_doc(frame: Frame, overlay: Overlay) -> TreatmentDoc:
    """The other way: what an overlay is in a document."""
    absorber = overlay.material.absorber
    made_of: dict[str, object] = {"material": overlay.material.key}
    if overlay.material.key not in CATALOGUE and absorber is not None:
        made_of = {"absorber": absorber_doc(absorber)}
    return TreatmentDoc.model_validate(
        {
            "kind": overlay.kind,
            "label": overlay.name,
            "piece": overlay.piece or None,
            **frame.patch_fields(overlay.face, overlay.rect),
            **made_of,
        }
    )


def absorber_doc(absorber: Absorber) -> AbsorberDoc:
    """What an absorber is in a document. Raises TypeError for one that documents do not know."""
    if isinstance(absorber, PorousAbsorber):
        return AbsorberDoc(
            thickness_m=absorber.thickness_m,
            flow_resistivity=absorber.flow_resistivity,
            gap_m=absorber.gap_m,
            facing_resistance=absorber.facing_resistance,
            facing_mass=absorber.facing_mass,
        )
    if isinstance(absorber, Cloth):
        return AbsorberDoc(
            kind="cloth",
            mass_kg_m2=absorber.mass_kg_m2,
            gap_m=absorber.gap_m,
            fullness=absorber.fullness,
            resistance=absorber.resistance,
        )
    if not isinstance(absorber, Membrane | Perforated):
        raise TypeError(type(absorber).__name__)
    backing = absorber.backing
    filled = AbsorberDoc(thickness_m=backing.fill_m, flow_resistivity=backing.fill_resistivity, gap_m=backing.gap_m)
    if isinstance(absorber, Membrane):
        return filled.model_copy(update={"kind": "membrane", "mass_kg_m2": absorber.mass_kg_m2})
    return filled.model_copy(
        update={
            "kind": "slotted" if absorber.is_slotted else "perforated",
            "open_share": absorber.open_share,
            "opening_m": absorber.opening_m,
            "board_m": absorber.board_m,
        }
    )
