"""What making a plan takes, as answers."""

from keenquiet.service.answers.numbers import Answer, Num


class BarAnswer(Answer):
    stock_mm: Num
    cuts_mm: list[Num]


class CutAnswer(Answer):
    """Contract of `cut`. left_over : waste_pct in words, rounded once for page, sheet and terminal."""

    bars: list[BarAnswer]
    waste_pct: Num
    left_over: str
    lower_bound_bars: int


class BoardsAnswer(CutAnswer):
    """Boards of one width, as deep as the wool of their frames."""

    wide_mm: Num


class BillItem(Answer):
    """One line to buy. unit : of amount. price : of one unit, cost : of all, in the room's currency."""

    key: str
    name: str
    amount: Num
    unit: str
    price: Num
    cost: Num


class FrameAnswer(Answer):
    name: str
    width_m: Num
    height_m: Num
    thickness_m: Num
    kg: Num
    timber_mm: list[Num]


class FixingAnswer(Answer):
    """What holds one frame: how many, what each is trusted with and carries; assumed : the wall is not known."""

    name: str
    count: int
    holds_kg: Num
    load_kg: Num
    assumed: bool
    words: str


class StepAnswer(Answer):
    text: str
    cautions: list[str]


class MakingAnswer(Answer):
    """Frames to make, what to cut, what to buy, what holds it, in which steps. bought : pieces that are not made."""

    room: str
    arrangement: str
    currency: str
    frames: list[FrameAnswer]
    timber: list[BoardsAnswer]
    batts: CutAnswer
    cloth_m: Num
    fixings: list[FixingAnswer]
    items: list[BillItem]
    cost: Num
    kg: Num
    minutes: int
    tools: list[str]
    steps: list[StepAnswer]
    notes: list[str]
