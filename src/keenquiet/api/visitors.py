"""Who may come in when other machines may: a passcode given once, then a random session; slow to guess, easy to end."""

import hashlib
import hmac
import secrets
import threading
import time
import unicodedata
from collections import deque
from dataclasses import dataclass, field
from pathlib import Path
from typing import Final

from keenquiet.core.errors import InputError

LEAST_CHARACTERS: Final = 8
_SESSION_S: Final = 30 * 24 * 3600.0
_MOST_SESSIONS: Final = 200
_WORD_S: Final = 600.0
_WINDOW_S: Final = 60.0
_GUESSES_OF_ONE: Final = 5  # wrong ones a minute from one address
_GUESSES_OF_ALL: Final = 20  # and from all together: an attacker may have many addresses


def made_up(words: int = 5) -> str:
    """A passcode of everyday words: five of these are some 35 bits, beyond any guessing at twenty a minute."""
    known = Path(__file__).with_name("passcode-words.txt").read_text(encoding="utf-8").split()
    return "-".join(secrets.choice(known) for _ in range(words))


class TooManyGuesses(Exception):
    """Wrong passcodes came too fast. wait_s : when to try again. [s]"""

    def __init__(self, wait_s: float) -> None:
        super().__init__(f"wait {wait_s:.0f} s")
        self.wait_s = wait_s


@dataclass
class Visitors:
    """The passcode of one server, as a slow hash, and the sessions it has given out; all end with the server.

    Raises InputError when the passcode is too short.
    """

    passcode: str
    clock: object = time.monotonic
    _salt: bytes = field(default_factory=lambda: secrets.token_bytes(16))
    _sessions: dict[bytes, float] = field(default_factory=dict)
    _words: dict[bytes, float] = field(default_factory=dict)
    _wrong: deque[tuple[float, str]] = field(default_factory=deque)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def __post_init__(self) -> None:
        if len(_same_text(self.passcode)) < LEAST_CHARACTERS:
            raise InputError(
                "passcode",
                f"has {len(self.passcode)} characters.",
                f"Use at least {LEAST_CHARACTERS}, or leave it out and one is made up.",
            )
        self._hash = self._hashed(self.passcode)
        self.passcode = ""  # only its hash is kept

    def let_in(self, guess: str, address: str) -> str | None:
        """A session's secret for the right passcode, None for a wrong one. Raises TooManyGuesses before looking."""
        with self._lock:
            now = self._now()
            while self._wrong and now - self._wrong[0][0] > _WINDOW_S:
                self._wrong.popleft()
            own = [at for at, who in self._wrong if who == address]
            if len(own) >= _GUESSES_OF_ONE or len(self._wrong) >= _GUESSES_OF_ALL:
                first = own[0] if len(own) >= _GUESSES_OF_ONE else self._wrong[0][0]
                raise TooManyGuesses(max(_WINDOW_S - (now - first), 1.0))
            # counted before it is looked at: a hundred at once are a hundred guesses
            this = (now, address)
            self._wrong.append(this)
        if not hmac.compare_digest(self._hashed(guess), self._hash):
            return None
        with self._lock:
            self._wrong = deque(entry for entry in self._wrong if entry is not this)
        return self._begun()

    def word(self) -> str:
        """A word that lets one device in within ten minutes: a code to scan then holds no passcode."""
        word = secrets.token_urlsafe(24)
        with self._lock:
            self._words[_digest(word)] = self._now() + _WORD_S
        return word

    def let_in_by(self, word: str) -> str | None:
        """A session's secret for a word that was not used yet, None for any other."""
        with self._lock:
            until = self._words.pop(_digest(word), None)
        return self._begun() if until is not None and self._now() < until else None

    def _begun(self) -> str:
        secret = secrets.token_urlsafe(32)
        with self._lock:
            self._sessions[_digest(secret)] = self._now() + _SESSION_S
            while len(self._sessions) > _MOST_SESSIONS:
                self._sessions.pop(next(iter(self._sessions)))
        return secret

    def knows(self, secret: str) -> bool:
        """Whether a session goes on."""
        until = self._sessions.get(_digest(secret))
        return until is not None and self._now() < until

    def end_all(self) -> None:
        """Sign everybody out."""
        with self._lock:
            self._sessions.clear()

    def _now(self) -> float:
        return float(self.clock())  # type: ignore[operator]

    def _hashed(self, text: str) -> bytes:
        # about 50 ms and 16 MB a guess
        return hashlib.scrypt(_same_text(text).encode("utf-8", "replace"), salt=self._salt, n=2**14, r=8, p=1)


def _same_text(text: str) -> str:
    """The same passcode however a keyboard composes its letters."""
    return unicodedata.normalize("NFC", text.strip())


def _digest(secret: str) -> bytes:
    return hashlib.sha256(secret.encode("utf-8", "replace")).digest()
