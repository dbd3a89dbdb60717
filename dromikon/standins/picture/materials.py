"""What surfaces look like: colour by place on the surface, in linear light 0..1."""

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dromikon.standins.picture.noise import layers, noise

Field = NDArray[Any]
Shade = Callable[[Field, Field, Field], Field]


def _rgb(code: str) -> Field:
    value = np.array([int(code[i : i + 2], 16) for i in (0, 2, 4)], dtype=np.float32) / 255
    return value**2.2


def _mix(a: str, b: str, k: Field) -> Field:
    return _rgb(a) + (_rgb(b) - _rgb(a)) * np.clip(k, 0, 1)[..., None]


def _grass(x: Field, y: Field, z: Field) -> Field:
    broad = layers(x * 0.16, y * 0.16, 3, 3)
    fine = layers(x * 5, y * 1.8, 2, 9)
    return _mix("4e6135", "87955a", broad * 0.6 + fine * 0.55 - 0.12)


def _gravel(x: Field, y: Field, z: Field) -> Field:
    return _mix("8a7c68", "c6b798", layers(x * 9, y * 9, 2, 5) * 0.7 + layers(x * 0.5, y * 0.5, 2, 6) * 0.35)


def _shore(x: Field, y: Field, z: Field) -> Field:
    return _mix("5a5244", "8f836c", layers(x * 4, y * 4, 3, 7))


def _cobbles(x: Field, y: Field, z: Field) -> Field:
    row = np.floor(y / 0.42)
    u = (x / 0.46 + 0.5 * (row % 2)) % 1
    v = (y / 0.42) % 1
    edge = np.minimum(np.minimum(u, 1 - u), np.minimum(v, 1 - v))
    tone = noise(np.floor(x / 0.46 + 0.5 * (row % 2)) * 3.1, row * 2.7, 11)
    return (
        _mix("6b665e", "a49b8c", tone * 0.7 + layers(x * 6, y * 6, 2, 4) * 0.3) * np.clip(edge * 9, 0.55, 1)[..., None]
    )


def _asphalt(x: Field, y: Field, z: Field) -> Field:
    patch = layers(x * 0.3, y * 0.3, 3, 21)
    return _mix("3f4144", "66686a", patch * 0.7 + noise(x * 14, y * 14, 22) * 0.3)


def _bed(x: Field, y: Field, z: Field) -> Field:
    return _mix("33261c", "57432f", layers(x * 5, y * 5, 3, 31))


def _boards(dark: str, light: str) -> Shade:
    def shade(x: Field, y: Field, z: Field) -> Field:
        gap = (z / 0.22) % 1
        tone = (
            noise(np.floor(z / 0.22) * 5.3, np.floor((x + y) / 2.6), 41) * 0.5
            + layers(x * 1.2 + y * 1.2, z * 9, 2, 42) * 0.5
        )
        return _mix(dark, light, tone) * np.where(gap < 0.1, 0.55, 1.0)[..., None]

    return shade


def _deck(x: Field, y: Field, z: Field) -> Field:
    gap = (y / 0.19) % 1
    tone = noise(np.floor(y / 0.19) * 7.7, np.floor(x / 3.0), 51) * 0.65 + layers(x * 6, y * 1.0, 2, 52) * 0.35
    return _mix("6f6455", "a89a82", tone) * np.where(gap < 0.12, 0.45, 1.0)[..., None]


def _slate(x: Field, y: Field, z: Field) -> Field:
    row = np.floor(z / 0.2)
    tone = noise(np.floor((x + y) / 0.35 + 0.5 * (row % 2)) * 3.3, row * 4.1, 61)
    return _mix("3c434b", "5f6770", tone) * np.where((z / 0.2) % 1 < 0.14, 0.7, 1.0)[..., None]


def _brick(x: Field, y: Field, z: Field) -> Field:
    row = np.floor(z / 0.15)
    u, v = ((x + y) / 0.45 + 0.5 * (row % 2)) % 1, (z / 0.15) % 1
    tone = noise(np.floor((x + y) / 0.45 + 0.5 * (row % 2)) * 2.3, row * 5.9, 71)
    mortar = (u < 0.06) | (v < 0.14)
    return np.where(mortar[..., None], _rgb("9a8f80"), _mix("7b4a3b", "a5664f", tone))


def _stone(x: Field, y: Field, z: Field) -> Field:
    row = np.floor(z / 0.45)
    u, v = ((x + y) / 0.9 + 0.5 * (row % 2)) % 1, (z / 0.45) % 1
    tone = layers((x + y) * 3, z * 3, 3, 81)
    return _mix("8d8778", "bdb4a0", tone) * np.where((u < 0.03) | (v < 0.05), 0.65, 1.0)[..., None]


def _glass(x: Field, y: Field, z: Field) -> Field:
    frame = ((x + y) % 0.75 < 0.07) | (z % 0.7 < 0.06)
    return np.where(frame[..., None], _rgb("d9ddd8"), _mix("33453f", "6f8a80", layers((x + y) * 0.8, z * 0.9, 2, 91)))


def _window(x: Field, y: Field, z: Field) -> Field:
    frame = ((x + y) % 0.5 < 0.05) | (z % 0.5 < 0.05)
    return np.where(frame[..., None], _rgb("d8d2c4"), _rgb("2c3a44") * np.ones((*x.shape, 1), np.float32))


def _railing(x: Field, y: Field, z: Field) -> Field:
    bar = ((x + y) / 0.16) % 1 < 0.3
    return np.where(bar[..., None], _rgb("1d2322"), _mix("5b6647", "747f5a", layers(x * 3, z * 3, 2, 14)))


def _ridged(dark: str, light: str, width: float) -> Shade:
    def shade(x: Field, y: Field, z: Field) -> Field:
        wave = np.abs((((x + y) / width) % 1) - 0.5) * 2
        return _mix(dark, light, wave * 0.6 + layers(x + y, z, 2, 15) * 0.4)

    return shade


def _foliage(dark: str, light: str, grain: float = 5.0) -> Shade:
    def shade(x: Field, y: Field, z: Field) -> Field:
        return _mix(dark, light, layers((x + z * 0.4) * grain, (y * 0.5 + z) * grain, 3, 16) * 1.5 - 0.25)

    return shade


def _plain(code: str, code2: str | None = None) -> Shade:
    return lambda x, y, z: _mix(code, code2 or code, layers((x + y) * 4, z * 4, 2, 17))


def _panes(x: Field, y: Field, z: Field) -> Field:
    """Glass with the sky behind it, seen from inside."""
    frame = ((x + y) % 0.9 < 0.07) | (z % 0.95 < 0.06)
    return np.where(frame[..., None], _rgb("55695c"), _mix("b3c6c6", "e4eceb", layers((x + y) * 0.5, z * 0.5, 2, 92)))


def _tiles(dark: str, light: str, size: float) -> Shade:
    def shade(x: Field, y: Field, z: Field) -> Field:
        u, v = ((x + z * 0.5) / size) % 1, ((y + z * 0.5) / size) % 1
        tone = noise(np.floor(x / size) * 3.7, np.floor(y / size) * 5.3, 93) * 0.5 + layers(x * 5, y * 5, 2, 94) * 0.4
        return _mix(dark, light, tone) * np.where((u < 0.025) | (v < 0.025), 0.7, 1.0)[..., None]

    return shade


def _concrete(x: Field, y: Field, z: Field) -> Field:
    return _mix("6d6f6d", "92938f", layers((x + z) * 0.9, y * 0.9, 3, 95) * 0.7 + noise(x * 22, y * 22, 96) * 0.25)


MATERIALS: dict[str, Shade] = {
    "grass": _grass, "gravel": _gravel, "shore": _shore, "cobbles": _cobbles, "asphalt": _asphalt, "bed": _bed,
    "water": _plain("24404a"), "paint": _plain("c9c4b0", "aaa692"), "deck": _deck, "timber": _plain("6d5b44", "8a7557"),
    "boards": _boards("4a3d31", "77644e"), "boards_green": _boards("3b4a3c", "5d6f58"), "slate": _slate, "brick": _brick,
    "stone": _stone, "glasshouse": _glass, "glass": _window, "iron": _plain("20262a", "30373b"),
    "lantern": _plain("cfc7a4"), "railing": _railing, "bark": _plain("4b3d30", "65543f"), "shade": _plain("15140f"),
    "boat_red": _plain("7a2f2a", "8f3b33"), "boat_blue": _plain("2d4a66", "3d5d7c"), "metal": _ridged("7d8583", "a3aaa6", 0.3),
    "metal_roof": _ridged("5c6665", "7d8684", 0.4), "shutter": _ridged("8b9499", "b4bbbe", 0.2),
    "pallet": _boards("7b6342", "a58a5f"), "leaves": _foliage("2f3f20", "6d7a3a"), "copper": _foliage("5a2f1e", "a0622f"),
    "reeds": _foliage("5d5a30", "9a9252", 9.0), "island": _foliage("2f3a24", "57633a", 1.0),
    "panes": _panes, "tiles": _tiles("8f8878", "b8b09c", 0.6), "concrete": _concrete, "plaster": _plain("b9b6ac", "cfccc2"),
    "lino": _tiles("5f6b66", "77837d", 1.2), "white": _plain("cfd0cb", "e0e0db"), "terracotta": _plain("8d4f35", "aa6546"),
    "orchid": _foliage("8a3f78", "d98fc4", 14.0), "orchid_white": _foliage("b9b5a0", "f0ede0", 14.0),
    "fern": _foliage("1f3d1c", "5f8f3f", 11.0), "frond": _foliage("26451f", "6f9440", 7.0), "trunk": _plain("5d4a35", "77634a"),
    "pump": _plain("2f5a4a", "3d7060"), "pipe": _plain("7a8288", "98a0a4"), "cold_pipe": _plain("31566f", "42708c"),
    "cabinet": _plain("3a4046", "4a5158"), "panel": _plain("14181a", "1c2225"), "boiler": _plain("7f3b2c", "96503c"),
    "flue": _ridged("8c8f90", "b6b9b9", 0.25), "warm_pump": _plain("5b2f2a", "74433b"), "screen": _plain("17303a", "2b5666"),
    "window_bright": _plain("c3cfd2", "dde6e8"), "wood": _plain("8a6a45", "a98558"), "seat": _plain("2a3138", "39424a"),
    "shrub": _foliage("2a4326", "5b7b42", 8.0), "heather": _foliage("5a3a55", "8f6a86", 9.0), "hedge": _foliage("24371f", "4b6233", 4.0),
}  # fmt: skip
