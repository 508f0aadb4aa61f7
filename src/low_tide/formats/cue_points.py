"""What a WAV file says besides its samples: named places, and a comment."""

from __future__ import annotations

import struct
from collections.abc import Sequence

import numpy as np

from low_tide.core.audio.rendering import Samples
from low_tide.formats.recording import write_wav

BITS = 24


def dithered(samples: Samples, rng: np.random.Generator) -> Samples:
    """Samples for 24 bits, with triangular dither of one step either way; what is over full scale stays at it."""
    step = 2.0 ** (1 - BITS)
    noise = rng.uniform(-0.5, 0.5, len(samples)) + rng.uniform(-0.5, 0.5, len(samples))
    return np.asarray(np.clip(np.round(samples / step + noise), -(2 ** (BITS - 1)), 2 ** (BITS - 1) - 1) * step)


def _chunk(kind: bytes, body: bytes) -> bytes:
    return kind + struct.pack("<I", len(body)) + body + b"\0" * (len(body) % 2)


def _with_more(plain: bytes, more: bytes) -> bytes:
    """A WAV file with chunks behind its own."""
    whole = plain + b"\0" * (len(plain) % 2) + more
    return whole[:4] + struct.pack("<I", len(whole) - 8) + whole[8:]


def with_comment(plain: bytes, text: str) -> bytes:
    """A WAV file with a comment (RIFF chunk `LIST INFO`, `ICMT`)."""
    return _with_more(plain, _chunk(b"LIST", b"INFO" + _chunk(b"ICMT", text.encode("utf-8") + b"\0")))


def wav_with_cues(samples: Samples, rate: int, cues: Sequence[tuple[float, str]]) -> bytes:
    """A WAV file of 24 bits, dithered, with places (s) and what each is called (RIFF chunks `cue ` and `adtl`)."""
    plain = write_wav(dithered(samples, np.random.default_rng()), rate)
    places = [round(at * rate) for at, _ in cues]
    points = b"".join(struct.pack("<II4sIII", n, at, b"data", 0, 0, at) for n, at in enumerate(places, 1))
    labels = b"".join(
        _chunk(b"labl", struct.pack("<I", n) + name.encode("utf-8") + b"\0") for n, (_, name) in enumerate(cues, 1)
    )
    return _with_more(plain, _chunk(b"cue ", struct.pack("<I", len(cues)) + points) + _chunk(b"LIST", b"adtl" + labels))
