"""Whether a camera still looks where it looked when something was drawn on its picture. Edges are compared, which stay where the light
changes; how far they lie apart is found by phase correlation (Kuglin and Hines, 1975)."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Grey = NDArray[np.float64]
#: Pictures are compared at this size.
WIDE, TALL = 160, 90
#: A peak of this height is a match: pictures of one scene in any light have 0.23 and more, of two scenes seldom so much.
SURE = 0.2
#: What has moved by less, as a share of the picture, has not moved.
STILL = 0.02

Standing = Literal["same", "moved", "elsewhere"]


@dataclass(frozen=True, slots=True)
class Fit:
    """How a picture lies to an earlier one. `right`, `down`: how far things have moved in it, as shares of its width and height;
    `peak`: how surely, from 0 to 1."""

    right: float
    down: float
    peak: float

    @property
    def standing(self) -> Standing:
        if self.peak < SURE:
            return "elsewhere"
        return "moved" if max(abs(self.right), abs(self.down)) > STILL else "same"


def fit(then: Grey, now: Grey) -> Fit:
    """How `now` lies to `then`; both TALL by WIDE, of any brightness."""
    cross = np.fft.rfft2(_edges(now)) * np.conj(np.fft.rfft2(_edges(then)))
    surface = np.fft.irfft2(cross / np.maximum(np.abs(cross), 1e-9), s=(TALL, WIDE))
    row, column = np.unravel_index(int(np.argmax(surface)), surface.shape)
    # A peak between two places is spread over both.
    around = surface[np.ix_([(row + i) % TALL for i in (-1, 0, 1)], [(column + i) % WIDE for i in (-1, 0, 1)])]
    down, right = (int(at) if at <= size // 2 else int(at) - size for at, size in ((row, TALL), (column, WIDE)))
    return Fit(right / WIDE, down / TALL, float(around[around > 0].sum()))


def _edges(picture: Grey) -> Grey:
    """Where brightness changes, fading out towards the rim; the words that cameras write at the lower edge are left out."""
    smooth = (picture[:-1, :-1] + picture[1:, :-1] + picture[:-1, 1:] + picture[1:, 1:]) / 4
    down, right = np.gradient(smooth)
    strong = np.hypot(down, right)
    edges = np.zeros((TALL, WIDE))
    edges[:-1, :-1] = np.tanh(strong / (strong.mean() + 1e-6))
    edges[-12:] = 0
    faded: Grey = (edges - edges.mean()) * np.outer(np.hanning(TALL), np.hanning(WIDE))
    return faded
