"""Results kept for the next question, bounded by what they weigh: the oldest are let go, whatever is asked in any
order.
"""

import sys
import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Mapping
from types import FunctionType, ModuleType
from typing import Any, Final, Generic, TypeVar

import numpy as np

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")
_LEAVES: Final = (str, bytes, int, float, complex, bool, type(None), type, ModuleType, FunctionType)


class Kept(Generic[K, V]):
    """The values asked for last, at most `most` of them and `most_bytes` together.

    Values may grow after they were kept (lazily computed parts): what was handed out since is weighed anew at the next
    addition. The newest stays even when it alone is too heavy. apart : tells parts that are kept and weighed elsewhere.
    """

    def __init__(self, *, most_bytes: int, most: int = 64, apart: Callable[[object], bool] | None = None) -> None:
        self._most_bytes, self._most, self._apart = most_bytes, most, apart
        self._lock = threading.Lock()
        self._values: OrderedDict[K, V] = OrderedDict()
        self._weights: dict[K, int] = {}
        self._used: set[K] = set()

    def find(self, key: K, make: Callable[[], V]) -> V:
        """The value of a key; made when it is not at hand. Two who ask at once may both make it."""
        with self._lock:
            if key in self._values:
                self._values.move_to_end(key)
                self._used.add(key)
                return self._values[key]
        made = make()
        with self._lock:
            self._values[key] = made
            self._values.move_to_end(key)
            self._used.add(key)
            self._let_go()
            self._used = {key}  # it may grow as soon as it is handed out
        return made

    def __contains__(self, key: K) -> bool:
        return key in self._values

    def __len__(self) -> int:
        return len(self._values)

    @property
    def bytes(self) -> int:
        """What all values weigh together, parts they share counted once."""
        with self._lock:
            return weight_of(list(self._values.values()), self._apart)

    def clear(self) -> None:
        """Let everything go, as at a start: tests ask for what has to be made anew."""
        with self._lock:
            self._values.clear()
            self._weights.clear()
            self._used.clear()

    def _let_go(self) -> None:
        for key in self._used & self._values.keys():
            self._weights[key] = weight_of(self._values[key], self._apart)
        while len(self._values) > self._most:
            self._drop_oldest()
        # single weights count shared parts many times: only when they seem too much is it worth counting them once
        while len(self._values) > 1 and sum(self._weights.values()) > self._most_bytes:
            if weight_of(list(self._values.values()), self._apart) <= self._most_bytes:
                break
            self._drop_oldest()

    def _drop_oldest(self) -> None:
        key, _ = self._values.popitem(last=False)
        self._weights.pop(key, None)


def weight_of(value: object, apart: Callable[[object], bool] | None = None) -> int:
    """Bytes of all arrays and texts that hang on a value, each counted once, and a little for every object.

    apart : tells parts that are not looked into.
    """
    total = 0
    seen: set[int] = set()
    waiting: list[Any] = [value]
    while waiting:
        one = waiting.pop()
        if isinstance(one, np.ndarray):
            while isinstance(one.base, np.ndarray):
                one = one.base
        if id(one) in seen:
            continue
        seen.add(id(one))
        if isinstance(one, np.ndarray):
            total += one.nbytes
        elif isinstance(one, _LEAVES):
            total += sys.getsizeof(one)
        elif isinstance(one, Mapping):
            total += 64 * len(one)
            waiting += [*one.keys(), *one.values()]
        elif isinstance(one, list | tuple | set | frozenset):
            total += 8 * len(one)
            waiting += one
        elif apart is None or not apart(one):
            total += 48
            waiting += vars(one).values() if hasattr(one, "__dict__") else _slots(one)
    return total


def _slots(one: object) -> list[Any]:
    names = [name for kind in type(one).__mro__ for name in getattr(kind, "__slots__", ())]
    return [getattr(one, name) for name in names if hasattr(one, name)]
