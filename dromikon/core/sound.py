"""Sound as telephones and speakers take it: 8,000 samples a second, one byte each (mu-law, ITU-T G.711)."""

import io
import wave

import numpy as np
from numpy.typing import NDArray

RATE = 8_000
#: Our own signals: frequency in Hz, start and length in seconds. The same tones as a desk has.
TONES: dict[str, tuple[tuple[float, float, float], ...]] = {
    "chime": ((660, 0, 0.18), (880, 0.2, 0.3)),
    "call": ((740, 0, 0.16), (740, 0.24, 0.16), (990, 0.48, 0.34)),
    "urgent": ((880, 0, 0.12), (587, 0.14, 0.12), (880, 0.28, 0.12), (587, 0.42, 0.12), (880, 0.56, 0.3)),
}
#: No sound is longer than this, in seconds.
LONGEST = 60
_LOUD, _BIAS, _CLIP = 16_000, 132, 32_635

Samples = NDArray[np.int16]


def tones(name: str) -> Samples:
    """One of our signals. Raises KeyError."""
    told = TONES[name]
    made = np.zeros(int(RATE * (max(start + length for _, start, length in told) + 0.1)))
    for frequency, start, length in told:
        t = np.arange(int(length * RATE)) / RATE
        swell = np.minimum(1.0, t / 0.015) * np.exp(-3 * t / length)
        first = int(start * RATE)
        made[first : first + len(t)] += np.sin(2 * np.pi * frequency * t) * swell
    return (made * _LOUD).clip(-32_768, 32_767).astype(np.int16)


def from_wave(data: bytes) -> Samples:
    """The samples of a WAV file of 16 bits, at our rate and in one channel, at most `LONGEST`. Raises ValueError."""
    try:
        with wave.open(io.BytesIO(data)) as file:
            rate, channels, width = file.getframerate(), file.getnchannels(), file.getsampwidth()
            content = file.readframes(rate * LONGEST)
    except (wave.Error, EOFError) as error:
        raise ValueError(f"it is no sound that can be read: {error}") from error
    if width != 2:
        raise ValueError("it has not 16 bits")
    told = (
        np.frombuffer(content[: len(content) // (2 * channels) * 2 * channels], "<i2")
        .reshape(-1, channels)
        .mean(axis=1)
    )
    count = int(len(told) * RATE / rate)
    places = np.arange(count) * (rate / RATE)
    made: Samples = np.interp(places, np.arange(len(told)), told).astype(np.int16)
    return made


def to_wave(samples: Samples) -> bytes:
    """A WAV file of some samples."""
    kept = io.BytesIO()
    with wave.open(kept, "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(RATE)
        file.writeframes(samples.astype("<i2").tobytes())
    return kept.getvalue()


def to_mu_law(samples: Samples) -> bytes:
    """Each sample in one byte: sign, exponent, mantissa, all turned over (G.711, table 2a)."""
    wide = samples.astype(np.int32)
    sign = np.where(wide < 0, 0x80, 0)
    magnitude = np.minimum(np.abs(wide), _CLIP) + _BIAS
    exponent = np.floor(np.log2(magnitude)).astype(np.int32) - 7
    mantissa = (magnitude >> (exponent + 3)) & 0x0F
    coded: NDArray[np.int32] = ~(sign | (exponent << 4) | mantissa) & 0xFF
    return coded.astype(np.uint8).tobytes()


def from_mu_law(data: bytes) -> Samples:
    """The samples again, as near as one byte tells."""
    coded = ~np.frombuffer(data, np.uint8).astype(np.int32) & 0xFF
    exponent, mantissa = (coded >> 4) & 7, coded & 0x0F
    magnitude = (((mantissa << 3) + _BIAS) << exponent) - _BIAS
    found: Samples = np.where(coded & 0x80, -magnitude, magnitude).astype(np.int16)
    return found


def from_a_law(data: bytes) -> Samples:
    """The samples of A-law, the other form of G.711: every other bit turned over, and the smallest steps even (table 1a)."""
    coded = np.frombuffer(data, np.uint8).astype(np.int32) ^ 0x55
    exponent, mantissa = (coded >> 4) & 7, coded & 0x0F
    small = (mantissa << 4) + 8
    magnitude = np.where(exponent == 0, small, (small + 256) << np.maximum(exponent - 1, 0))
    found: Samples = np.where(coded & 0x80, magnitude, -magnitude).astype(np.int16)
    return found


def a_law_as_mu_law(data: bytes) -> bytes:
    """A-law in the form that is used here."""
    return data.translate(_A_AS_MU)


_A_AS_MU = to_mu_law(from_a_law(bytes(range(256))))
