"""What each piece on the shelf is good for, in a few words; and what no piece can do."""

from collections.abc import Mapping
from typing import Final

PIECE_WORDS: Final[Mapping[str, str]] = {
    "duvet": "The best thing most homes have: off the wall by two hands.",
    "blanket": "Voices and up; two in folds do more than one flat.",
    "rug": "Between you and the microphone; the top only.",
    "curtain": "In full folds, a hand off the wall.",
    "pillows": "Stacked in a corner: a little bass, much of the middle.",
    "mattress": "Stood up behind you: deep and wide.",
    "clothes-rail": "Half a metre of clothes reaches low.",
    "egg-cartons": "Hardly anything, and they burn fiercely.",
    "panel-50": "Voices and up.",
    "panel": "From about 200 Hz up: the usual one.",
    "panel-150": "Reaches lower, costs wool.",
    "trap": "Bass and all above, in corners most.",
    "corner-straddle": "Across a corner: deep with little wool.",
    "corner-fill": "A corner filled from floor to ceiling.",
    "cloud": "Overhead, between you and the microphone.",
    "membrane": "One low note, 64 Hz as made here; leaves the top alive.",
    "slotted": "The low middle; wood between keeps some life.",
    "perforated": "A band of the low middle.",
    "panel-on-feet": "Behind you, moved when you are done.",
    "foam-25": "The top alone: dull, not dry.",
    "foam-50": "Voices' upper half and up.",
    "panel-bought": "As the frame of 5 cm, ready made.",
}
DIFFUSING: Final = (
    "Things that scatter (books, slats, odd depths) need distance: what is 15 cm deep works from about 1 kHz and wants "
    "three of its longest waves, a metre, between itself and you. In a small room they keep some life; they take "
    "nothing away. That is not computed piece by piece here."
)
