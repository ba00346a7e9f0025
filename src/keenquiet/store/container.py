"""Containers that phones make recordings in, known by their first bytes."""

from typing import Final

SUFFIXES: Final = (".m4a", ".mp4", ".aac", ".webm", ".mka", ".3gp", ".amr", ".caf", ".wma")
HEAD: Final = 16  # bytes by which a container is known
_STARTS: Final = (b"\x1a\x45\xdf\xa3", b"#!AMR", b"caff", b"\x30\x26\xb2\x75")  # Matroska and WebM, AMR, CAF, ASF
_ADTS: Final = (0xF0, 0xF6)  # of AAC without a container: twelve bits of ones, then layer 0


def is_packed(head: bytes) -> bool:
    """Whether a file that begins so has to be unpacked. head : its first bytes, HEAD of them."""
    is_aac = len(head) > 1 and head[0] == 0xFF and (head[1] & _ADTS[1]) == _ADTS[0]
    return head[4:8] == b"ftyp" or head.startswith(_STARTS) or is_aac
