"""Sound as speakers take it: mu-law against the standard library, WAV at any rate, our own signals."""

import io
import warnings
import wave

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.sound import LONGEST, RATE, TONES, from_mu_law, from_wave, to_mu_law, to_wave, tones

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    audioop = pytest.importorskip("audioop")


@given(st.lists(st.integers(-32_768, 32_767), max_size=200))
def test_mu_law_is_that_of_the_standard(samples):
    told = np.array(samples, np.int16)
    coded = to_mu_law(told)
    # The library shifts to 14 bits first; both name the same level or its neighbour.
    theirs = audioop.lin2ulaw(told.tobytes(), 2)
    assert max((abs((a ^ 0xFF) - (b ^ 0xFF)) for a, b in zip(coded, theirs, strict=True)), default=0) <= 1
    assert from_mu_law(coded).tobytes() == audioop.ulaw2lin(coded, 2)


def test_a_wave_of_another_rate_and_two_channels_keeps_its_pitch_and_length():
    t = np.arange(22_050) / 22_050
    one = (np.sin(2 * np.pi * 440 * t) * 12_000).astype("<i2")
    kept = io.BytesIO()
    with wave.open(kept, "wb") as file:
        file.setnchannels(2)
        file.setsampwidth(2)
        file.setframerate(22_050)
        file.writeframes(np.column_stack([one, one]).tobytes())
    found = from_wave(kept.getvalue())
    assert len(found) == RATE
    spectrum = np.abs(np.fft.rfft(found))
    assert spectrum.argmax() == 440


@pytest.mark.parametrize("junk", [b"", b"RIFF", b"RIFF\x24\x00\x00\x00WAVEfmt "])
def test_what_is_no_sound_is_refused(junk):
    with pytest.raises(ValueError, match="no sound"):
        from_wave(junk)


def test_our_signals_are_short_loud_and_whole():
    for name in TONES:
        made = tones(name)
        assert 0.3 < len(made) / RATE < 2 < LONGEST and np.abs(made.astype(int)).max() > 8_000
        assert (from_wave(to_wave(made)) == made).all()
