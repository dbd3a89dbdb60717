"""Lighting a cast scene: sun and sky by day, the camera's own infra-red lamp by night."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from dromikon.standins.picture.cast import Surface, in_shadow
from dromikon.standins.picture.noise import layers
from dromikon.standins.world.scenes import Scene
from dromikon.standins.world.sky import Light

Field = NDArray[Any]


def lit(scene: Scene, surface: Surface, light: Light, lens_place: tuple[float, float, float]) -> Field:
    """The scenery as an 8-bit picture (height, width, 3)."""
    if light.night:
        linear = _night(scene, surface, lens_place)
    else:
        linear = _indoors(scene, surface, light) if scene.roof else _day(scene, surface, light)
    shown = np.clip(linear, 0, 1) ** (1 / 2.2)
    return (shown * 255 + 0.5).astype(np.uint8)


def sun_strength(light: Light) -> float:
    """Direct sunlight, 0..1: low suns and clouds weaken it."""
    if light.cloud == 2 or light.height <= 0:
        return 0.0
    return min(1.0, 0.35 + light.height / 28) * (1.0 if light.cloud == 0 else 0.62)


def _exposure(light: Light) -> float:
    """Dusk is darker, though the camera opens up."""
    return float(np.interp(light.height, (-4, 0, 6, 20), (0.34, 0.62, 0.92, 1.0)))


def _sky_colours(light: Light) -> tuple[Field, Field]:
    """Zenith and horizon, linear."""
    if light.cloud == 2:
        zenith, horizon = _colour(0.42, 0.46, 0.52), _colour(0.66, 0.68, 0.70)
    else:
        zenith, horizon = _colour(0.16, 0.30, 0.58), _colour(0.62, 0.70, 0.78)
    warm = float(np.clip(1 - light.height / 14, 0, 1)) * (0.25 if light.cloud == 2 else 1.0)
    return zenith, horizon * (1 - warm * 0.25) + _colour(0.92, 0.62, 0.38) * warm * 0.38


def _colour(red: float, green: float, blue: float) -> Field:
    return np.array([red, green, blue], np.float32)


def _sky(scene: Scene, rays: Field, light: Light) -> Field:
    """The sky with clouds, hills and a line of trees, for rays that meet nothing."""
    view = rays / np.linalg.norm(rays, axis=-1, keepdims=True)
    zenith, horizon = _sky_colours(light)
    up = np.clip(view[..., 2], 0, 1)[..., None]
    sky = horizon + (zenith - horizon) * np.clip(up * 2.6, 0, 1) ** 0.7
    flat = np.maximum(view[..., 2], 0.02)
    clouds = layers(view[..., 0] / flat * 0.55 + 3, view[..., 1] / flat * 0.55, 5, 101)
    cover = {0: 0.66, 1: 0.47, 2: 0.30}[light.cloud]
    thick = np.clip((clouds - cover) * 4.2, 0, 1)[..., None] * np.clip(up * 14, 0, 1)
    shade = horizon * (1.12 if light.cloud < 2 else 0.94) - (clouds[..., None] - 0.5) * 0.35
    sky = sky * (1 - thick * 0.85) + shade * thick * 0.85
    return _horizon(scene, rays, sky, horizon)


def _horizon(scene: Scene, rays: Field, sky: Field, haze: Field) -> Field:
    side = np.arctan2(rays[..., 0], rays[..., 1])
    up = rays[..., 2] / np.hypot(rays[..., 0], rays[..., 1])
    hills = (0.02 + 0.055 * layers(side * 2.2 + 5, side * 0 + 2, 3, 111)) * scene.hills
    trees = (
        0.004 + 0.028 * layers(side * 11, side * 0, 2, 112) + 0.016 * layers(side * 60, side * 0, 2, 113)
    ) * scene.treeline
    far = haze * 0.50 + np.array([0.04, 0.07, 0.09], np.float32)
    near = haze * 0.20 + np.array([0.035, 0.05, 0.03], np.float32)
    grain = layers(side * 90, up * 300, 2, 114)[..., None]
    sky = np.where((up < hills)[..., None], far * (0.9 + 0.2 * grain), sky)
    return np.where((up < trees)[..., None], near * (0.7 + 0.6 * grain), sky)


def _water(place: Field, rays: Field, light: Light, sun: Field, strength: float) -> Field:
    """Ripples that mirror the sky, darker where one looks down into it, brighter towards the sun."""
    sky_high, sky_low = _sky_colours(light)
    x, y = place[..., 0], place[..., 1]
    view = rays / np.linalg.norm(rays, axis=-1, keepdims=True)
    ripple = layers(x * 1.1, y * 3.4, 3, 121) - 0.5
    swell = layers(x * 0.12, y * 0.3, 2, 122) - 0.5
    facing = np.clip(-view[..., 2] + ripple * 0.22, 0.02, 1)
    mirror = (0.06 + 0.94 * (1 - facing) ** 4.2)[..., None]
    above = np.clip(facing * 2.2 + swell * 0.5, 0, 1)[..., None]
    mirrored = sky_low + (sky_high - sky_low) * above
    deep = np.array([0.028, 0.060, 0.066], np.float32)
    colour = deep * (1 - mirror) + mirrored * mirror * 0.92
    bounce = view * np.array([1, 1, -1], np.float32)
    bounce[..., 0] += ripple * 0.5
    bounce[..., 1] += ripple * 0.3
    bounce /= np.linalg.norm(bounce, axis=-1, keepdims=True)
    glint = np.clip(bounce @ sun, 0, 1) ** 60 * strength * 1.6
    return colour * (1 + ripple[..., None] * 0.55) + glint[..., None]


def _land(scene: Scene, surface: Surface, light: Light, land: Field, sun: Field, strength: float) -> Field:
    zenith, horizon = _sky_colours(light)
    normal, place = surface.normal[land], surface.place[land]
    facing = np.clip(normal @ sun, 0, 1)
    open_to_sun = np.zeros_like(facing)
    if strength:
        faced = facing > 0
        open_to_sun[faced] = facing[faced] * ~in_shadow(scene, place[faced] + normal[faced] * 0.03, sun)
    from_sky = 0.55 + 0.45 * normal[..., 2]
    ambient = (zenith * 0.5 + horizon * 0.5) * (1.2 if light.cloud == 2 else 0.78)
    warmth = np.array([1.0, 0.86, 0.66], np.float32) + np.array([0.0, 0.10, 0.26], np.float32) * min(
        light.height / 24, 1
    )
    return surface.colour[land] * (from_sky[..., None] * ambient + (open_to_sun * strength * 1.8)[..., None] * warmth)


def _day(scene: Scene, surface: Surface, light: Light) -> Field:
    sun = np.array(light.sun, np.float32)
    strength = sun_strength(light)
    _, horizon = _sky_colours(light)
    colour: Field = np.zeros(surface.colour.shape, np.float32)
    land = ~surface.sky & ~surface.water
    colour[land] = _land(scene, surface, light, land, sun, strength)
    if surface.water.any():
        wet = surface.water
        colour[wet] = _water(surface.place[wet], surface.rays[wet], light, sun, strength)
    haze = ((1 - np.exp(-surface.depth / 300)) * 0.72)[..., None]
    colour = colour * (1 - haze) + horizon * 0.62 * haze
    colour[surface.sky] = _sky(scene, surface.rays[surface.sky], light)
    return colour * _exposure(light) * 1.08


def _indoors(scene: Scene, surface: Surface, light: Light) -> Field:
    """Light that comes from everywhere, most of it from above, and from the lamps; by daylight under glass, warmer and from the
    lamps alone in a room."""
    normal, place = surface.normal, surface.place
    glass = scene.roof == "glass"
    zenith, horizon = _sky_colours(light)
    tone = (zenith * 0.3 + horizon * 0.7) * (1.15 * _exposure(light)) if glass else _colour(0.46, 0.45, 0.41)
    total = (0.62 + 0.30 * normal[..., 2] + 0.08 * normal[..., 0])[..., None] * tone
    for lamp in () if glass else scene.lamps:
        away = place - np.array(lamp, np.float32)
        distance = np.linalg.norm(away, axis=-1)
        towards = np.clip(-(normal * away).sum(-1) / np.maximum(distance, 0.1), 0, 1)
        total += ((0.12 + towards) * 1.9 / (1.2 + distance**2))[..., None] * _colour(1.0, 0.95, 0.84)
    return surface.colour * total


def _night(scene: Scene, surface: Surface, lens_place: tuple[float, float, float]) -> Field:
    """Monochrome under the camera's own lamp: near is bright, far is black, lanterns bloom."""
    ray = surface.rays / np.linalg.norm(surface.rays, axis=-1, keepdims=True)
    length = np.where(surface.sky, 1e4, np.linalg.norm(surface.place - np.array(lens_place), axis=-1))
    height, width = surface.depth.shape
    v, u = np.mgrid[0:height, 0:width]
    spot = np.exp(-(((u / width - 0.5) / 0.52) ** 2 + ((v / height - 0.55) / 0.6) ** 2))
    facing = np.clip(-(surface.normal * ray).sum(-1), 0.08, 1) ** 0.6
    bright = surface.colour @ np.array([0.5, 0.35, 0.15], np.float32)
    # Leaves and grass throw infra-red back strongly; water swallows it.
    bright = np.where(surface.water, 0.02, 0.25 + bright * 0.9)
    own = bright * spot * facing * np.minimum(1.0, (9.5 / np.maximum(length, 4)) ** 1.7) * 0.85
    total = own + 0.004
    for lamp in scene.lamps:
        away = surface.place - np.array(lamp, np.float32)
        distance = np.linalg.norm(away, axis=-1)
        towards = np.clip(-(surface.normal * away).sum(-1) / np.maximum(distance, 0.1), 0, 1)
        total += np.where(surface.sky, 0, bright * (0.25 + towards) * 2.2 / (1.5 + distance**2))
        near = np.linalg.norm(np.cross(ray, np.array(lamp) - np.array(lens_place)), axis=-1)
        total += 0.55 * np.exp(-((near / 0.28) ** 2)) + 0.10 * np.exp(-near / 0.9)
    return np.repeat(total[..., None], 3, axis=-1) * _colour(0.96, 1.0, 1.0)
