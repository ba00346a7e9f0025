"""Numbers in answers: rounded to what they mean, and null where they are not finite."""

import math
from collections.abc import Callable
from typing import Annotated, Any, Self

import numpy as np
from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from keenquiet.core.types import FloatArray


class Answer(BaseModel):
    """Base of all answers: filled by keyword or from the core's values by the same names."""

    model_config = ConfigDict(from_attributes=True, validate_assignment=True)

    @classmethod
    def out_of(cls, *values: Any, **told: Any) -> Self:
        """Filled from attributes of the same names, of the first value that has one, and what is told besides."""
        for name in cls.model_fields.keys() - told.keys():
            holder = next((value for value in values if hasattr(value, name)), None)
            if holder is not None:
                told[name] = getattr(holder, name)
        return cls(**told)


def _number(digits: int) -> Callable[[Any], Any]:
    def rounded(value: Any) -> Any:
        if isinstance(value, float | np.floating):
            return round(float(value), digits) if math.isfinite(value) else None
        return value

    return rounded


def _numbers(digits: int) -> Callable[[Any], Any]:
    def rounded(values: Any) -> Any:
        if values is None:
            return None
        array: FloatArray = np.asarray(values, dtype=float)
        found = np.round(array, digits).tolist()
        return found if np.isfinite(array).all() else _nulled(found)

    return rounded


def _nulled(values: Any) -> Any:
    if isinstance(values, list):
        return [_nulled(value) for value in values]
    return values if math.isfinite(values) else None


Num = Annotated[float, BeforeValidator(_number(4))]
Num2 = Annotated[float, BeforeValidator(_number(2))]
NumOrNone = Annotated[float | None, BeforeValidator(_number(4))]
Num2OrNone = Annotated[float | None, BeforeValidator(_number(2))]
Numbers = Annotated[list[float], BeforeValidator(_numbers(4))]
Numbers2 = Annotated[list[float], BeforeValidator(_numbers(2))]
Gaps = Annotated[list[float | None], BeforeValidator(_numbers(4))]
Rows = Annotated[list[list[float | None]], BeforeValidator(_numbers(1))]
Grid = Annotated[list[list[float | None]], BeforeValidator(_numbers(3))]
Points2 = Annotated[list[tuple[float, float]], BeforeValidator(_numbers(4))]
Points3 = Annotated[list[tuple[float, float, float]], BeforeValidator(_numbers(4))]
Vector3 = Annotated[tuple[float, float, float], BeforeValidator(_numbers(4))]


def _is_none(value: Any) -> bool:
    return value is None


# what is left out where there is none: plots that were not asked for, figures that one kind of reading gives
IF_ANY = Field(default=None, exclude_if=_is_none)


def plain(answer: BaseModel) -> dict[str, Any]:
    """An answer as plain JSON values."""
    return answer.model_dump(mode="json")
