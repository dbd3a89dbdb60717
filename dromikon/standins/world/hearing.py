"""What a camera's microphone hears, block by block: computed from who is there and what sounds, so that it agrees with the
picture of the same moment. Nothing is recorded; any moment can be heard again."""

import math
from functools import cache

import numpy as np
from numpy.typing import NDArray

from dromikon.core.sound import RATE
from dromikon.standins.world.scenes import VIEWS
from dromikon.standins.world.scenes.base import Camera
from dromikon.standins.world.tracks import Actor, Where
from dromikon.standins.world.world import World

Sound = NDArray[np.float64]
#: A block in ms. The samples of a block follow those of the one before, whoever asks for them.
BLOCK = 100
COUNT = RATE * BLOCK // 1000
#: Nobody is heard who is farther away, in m.
FARTHEST = 40.0
#: Metres of a step, and ms of the sound of a foot.
STEP, FOOT = 0.75, 60
#: A relay of this name is a siren's; it swings between two frequencies (Hz), so many times a second.
SIREN, LOW, HIGH, SWINGS = "siren-sound", 620.0, 940.0, 1.6
#: Whoever stands so near to a door station speaks to it, in m.
SPEAKS_WITHIN = 2.5
#: What is heard where nothing happens, in parts of full scale.
QUIET = 0.006


def block(world: World, place: Camera, number: int) -> NDArray[np.int16]:
    """The samples of a block, counted from the beginning of time."""
    at = number * BLOCK
    ear = VIEWS[world.view(place.id, at)].lens
    heard = _rustle(number)
    for actor in world.present(place.scene, at):
        here = actor.at(at)
        far = math.hypot(here.x - ear.x, here.y - ear.y) if here else FARTHEST
        if here and far < FARTHEST:
            heard = heard + _of(actor, here, place, at) / max(1.0, far / 2)
    if SIREN in place.relays and world.relay(place.id, SIREN, at):
        heard = heard + _siren(at)
    made: NDArray[np.int16] = (heard.clip(-1, 1) * 32_000).astype(np.int16)
    return made


def _of(actor: Actor, here: Where, place: Camera, at: int) -> Sound:
    if actor.cls == "vehicle":
        return _engine(at, here.moving)
    if actor.cls != "human":
        return np.zeros(COUNT)
    if here.moving:
        return _steps(actor, at)
    ear = VIEWS[place.id].lens if place.id in VIEWS else None
    near = ear is not None and math.hypot(here.x - ear.x, here.y - ear.y) < SPEAKS_WITHIN
    return _voice(at, actor.look) if near and place.speaks else np.zeros(COUNT)


def _seconds(at: int) -> Sound:
    """The moments of a block's samples, in s after a full minute: a pitch that is a whole number of Hz goes on over it."""
    return at % 60_000 / 1000 + np.arange(COUNT) / RATE


@cache
def _noise() -> Sound:
    """Four seconds of leaves and water: noise without its high parts, whose end fits its beginning."""
    raw = np.random.default_rng(54).standard_normal(4 * RATE)
    spectrum = np.fft.rfft(raw)
    spectrum /= 1 + (np.arange(len(spectrum)) / (4 * 320)) ** 1.5
    made = np.fft.irfft(spectrum)
    fitted: Sound = made / np.abs(made).max()
    return fitted


def _rustle(number: int) -> Sound:
    kept = _noise()
    start = number * COUNT % len(kept)
    swell = 0.6 + 0.4 * math.sin(number / 37)
    return kept[start : start + COUNT] * QUIET * swell


def _engine(at: int, moving: bool) -> Sound:
    t, first = _seconds(at), 34.0 if moving else 22.0
    return sum((np.sin(2 * np.pi * first * k * t) / k for k in (1, 2, 3, 4, 6)), np.zeros(COUNT)) * 0.22


def _steps(actor: Actor, at: int) -> Sound:
    """Each foot that comes down: a short thud, where the path has grown by a step."""
    made = np.zeros(COUNT)
    for ms in range(-FOOT, BLOCK, 10):
        before, after = actor.at(at + ms), actor.at(at + ms + 10)
        if before is None or after is None or int(before.walked / STEP) == int(after.walked / STEP):
            continue
        t = (np.arange(COUNT) - ms * RATE / 1000) / RATE
        thud = np.exp(-t * 70) * np.sin(2 * np.pi * 110 * t) + 0.5 * np.exp(-t * 160) * np.sin(2 * np.pi * 480 * t)
        made += np.where((t >= 0) & (t < FOOT / 1000), thud, 0.0)
    return made * 0.3


def _voice(at: int, look: int) -> Sound:
    """Somebody who speaks, without words: a pitch with two formants, in syllables, and a pause after each few."""
    t = _seconds(at)
    pitch = 96 + look % 90
    syllable = np.floor(t * 4.5)
    first = 420 + 160 * np.sin(syllable * 2.3)
    second = 1_250 + 450 * np.sin(syllable * 1.7 + 1)
    speaking = np.sin(np.pi * (t * 4.5 - syllable)) ** 2 * (syllable % 11 < 7)
    made: Sound = np.zeros(COUNT)
    for k in range(1, 24):
        frequency = pitch * k
        loud = np.exp(-(((frequency - first) / 160) ** 2)) + 0.6 * np.exp(-(((frequency - second) / 220) ** 2))
        made = made + loud * np.sin(2 * np.pi * frequency * t)
    made *= speaking * 0.16
    return made


def _siren(at: int) -> Sound:
    """Between two pitches, in one curve without a jump."""
    t = _seconds(at)
    middle, swing = (LOW + HIGH) / 2, (HIGH - LOW) / 2
    phase = 2 * np.pi * middle * t - swing / SWINGS * np.cos(2 * np.pi * SWINGS * t)
    made: Sound = np.sin(phase) * 0.5
    return made
