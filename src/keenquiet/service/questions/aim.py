"""How to aim: what the angle between performer and microphone trades."""

from keenquiet.advice.placing import aim_words, front_words, null_words
from keenquiet.core.edits import Place
from keenquiet.core.judge.aim import gathered_from_front, loud_notes, null_deg, null_towards_noise, past_the_mouth
from keenquiet.core.waves.puff import FROM_THE_MOUTH
from keenquiet.documents.edits import EditDoc
from keenquiet.service.answers.numbers import Answer, Num, Num2, NumOrNone
from keenquiet.service.case import Case
from keenquiet.service.questions.base import ArrangementAsk, Question


class AimedAnswer(Answer):
    """One way to stand to the microphone, against straight on at the same distance. [dB]"""

    name: str
    angle_deg: Num2
    level_db: Num2
    bass_db: Num2
    treble_db: Num2
    puff: Num


class NullAnswer(Answer):
    """The null turned to the worst noise. Below zero is a loss. left_deg : how far the null still is from the noise."""

    noise: str
    aims_deg: Num
    tilt_deg: Num
    left_deg: Num
    under_db: Num2
    level_db: Num2
    bounce_db: Num2
    treble_db: Num2
    bass_db: Num2
    words: str
    edits: list[EditDoc]


class AimAnswer(Answer):
    """past : singing past the microphone by some degrees. loud : three ways to take a loud note. aim_at : where on this
    instrument. front_share : of the room's sound that the pattern gathers from the half that it looks into. [-]
    """

    past: list[AimedAnswer]
    loud: list[AimedAnswer]
    null_deg: NumOrNone
    null: NullAnswer | None
    front_share: Num
    front_words: str
    aim_at: str


def aimed(case: Case, asked: ArrangementAsk) -> AimAnswer:
    """How the microphone's angle trades level, bass, treble, breath and noise."""
    stand, speed = case.stand, case.space.air.speed_m_s
    mic, source = stand.microphone, stand.performer.source.key
    null = null_towards_noise(case.acoustics, stand, hour=case.scenario.hour)
    turned = "Turn the head by 45°" if source in FROM_THE_MOUTH else "Turn it by 45°"
    names = {"turn": turned, "tilt": "Tilt the microphone by 45°", "step-back": "Go twice as far"}
    return AimAnswer(
        past=[
            AimedAnswer.out_of(one, name=f"{one.angle_deg:.0f}° past it")
            for one in past_the_mouth(stand, speed_m_s=speed)
        ],
        loud=[AimedAnswer.out_of(one, name=names[key]) for key, one in loud_notes(stand, speed_m_s=speed).items()],
        null_deg=null_deg(mic.a),
        null=None
        if null is None
        else NullAnswer.out_of(
            null, words=null_words(null), edits=case.steps([Place("microphone", mic.at, null.aims_deg, null.tilt_deg)])
        ),
        front_share=gathered_from_front(mic.a),
        front_words=front_words(mic.pattern, mic.a),
        aim_at=aim_words(source),
    )


AIM = Question("aim", ArrangementAsk, AimAnswer, aimed)
