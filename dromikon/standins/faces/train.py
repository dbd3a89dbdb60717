"""Finds what sets drawn people apart: `python -m dromikon.standins.faces.train`, whenever faces are drawn otherwise.

Linear discriminant analysis (Fisher, 1936): looks at the same people at several sizes and in several lights say what varies
from look to look; in the space in which that is the same all around, the leading components of the people's means are kept.
"""

import io
import random

import numpy as np
from PIL import Image

from dromikon.standins.faces.features import features_of, look_of
from dromikon.standins.faces.finding import find_faces
from dromikon.standins.faces.model import NUMBERS, TRAINED, Field, seen
from dromikon.standins.faces.portrait import portrait

PEOPLE = 500
#: The sizes, in pixels, at which each is looked at.
SIZES = (64, 72, 84, 96, 120, 160, 320)


def look_at(person: str, size: int, rnd: random.Random) -> Field | None:
    """One look at somebody: in some light, through a camera's compression."""
    bright = rnd.uniform(0.6, 1.1)
    picture = np.asarray(portrait(features_of(look_of(person)), size), np.float32)
    cast = [bright * rnd.uniform(0.93, 1.07) for _ in range(3)]
    out = io.BytesIO()
    lit = Image.fromarray(np.clip(picture * cast, 0, 255).astype(np.uint8))
    lit.save(out, "JPEG", quality=rnd.randrange(75, 95))
    shown = np.asarray(Image.open(out).convert("RGB"))
    faces = find_faces(shown)
    return seen(shown, faces[0]) if faces else None


def discriminants(people: list[Field]) -> tuple[Field, Field]:
    """The mean and the axes, from the looks at each of some people (looks, features)."""
    means = np.stack([looks.mean(axis=0) for looks in people])
    rest = np.concatenate([looks - looks.mean(axis=0) for looks in people])
    within = rest.T @ rest / len(rest)
    # Squares that never vary would count for ever.
    within += np.eye(len(within)) * np.trace(within) / len(within) * 0.05
    values, vectors = np.linalg.eigh(within)
    flat = vectors / np.sqrt(values)
    _, strength, axes = np.linalg.svd((means - means.mean(axis=0)) @ flat, full_matrices=False)
    spread = strength[:NUMBERS] / np.sqrt(len(means))
    return means.mean(axis=0), (axes[:NUMBERS] / spread[:, None]) @ flat.T


def main() -> None:
    rnd = random.Random(1)
    people = []
    for i in range(PEOPLE):
        looks = [look_at(f"somebody {i}", size, rnd) for size in SIZES]
        found = [look for look in looks if look is not None]
        if len(found) > 1:
            people.append(np.stack(found))
    mean, axes = discriminants(people)
    np.savez_compressed(TRAINED, mean=mean.astype(np.float32), axes=axes.astype(np.float32))
    print(f"{len(people)} people; {TRAINED.name} is {TRAINED.stat().st_size / 1000:.0f} kB")


if __name__ == "__main__":
    main()
