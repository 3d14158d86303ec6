"""Paints the artwork of the small scenes: reeds, hills, a boat, a studio wall, and the photograph of a glasshouse."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

_FINE = 2
"""Drawn so many times larger, and made small."""
Tone = tuple[int, int, int]

GLASSHOUSE = (1600, 1000)
HALF, TALL, LONG, EYE, FOCAL, SENSOR = 2.2, 3.4, 16.0, 1.6, 24.0, 36.0
"""The glasshouse in units: half its width, height, length, the eye's height; and the lens it was painted through."""


def _sheet(width: int, height: int) -> tuple[Image.Image, ImageDraw.ImageDraw]:
    image = Image.new("RGBA", (width * _FINE, height * _FINE), (0, 0, 0, 0))
    return image, ImageDraw.Draw(image)


def _save(image: Image.Image, path: Path, quality: int = 74) -> None:
    small = image.resize((image.width // _FINE, image.height // _FINE), Image.Resampling.LANCZOS)
    small.save(path, quality=quality, method=6, exact=False)


def _bleed(image: Image.Image, tone: Tone) -> Image.Image:
    """What is empty has the colour of what is not, so that no dark rim shows."""
    flat = Image.new("RGBA", image.size, (*tone, 0))
    flat.paste(image, (0, 0), image)
    flat.putalpha(image.getchannel("A"))
    return flat


def reeds(path: Path, width: int, height: int, tone: Tone, count: int, seed: int) -> None:
    """A bank of reeds: blades that lean, some with heads."""
    rng = np.random.default_rng(seed)
    image, draw = _sheet(width, height)
    w, h = image.size
    for _ in range(count):
        foot, tall = rng.uniform(-0.02, 1.02) * w, rng.uniform(0.35, 0.92) * h
        lean, wide = rng.normal(0.0, 0.16) * tall, rng.uniform(2.5, 7.0) * _FINE
        shade = float(rng.uniform(0.8, 1.15))
        fill = tuple(int(min(each * shade, 255)) for each in tone)
        share = np.linspace(0.0, 1.0, 14)
        x, y = foot + lean * share**2, h - tall * share
        half = 0.5 * wide * (1.0 - share**1.6)
        outline = [*zip(x - half, y, strict=True), *reversed(list(zip(x + half, y, strict=True)))]
        draw.polygon(outline, fill=(*fill, 255))
        if rng.random() < 0.28:
            top, size = (x[10], y[10]), (4.5 * _FINE, 22.0 * _FINE)
            draw.rounded_rectangle(
                (top[0] - size[0], top[1] - size[1], top[0] + size[0], top[1] + size[1]), size[0],
                fill=tuple(int(each * 0.72) for each in fill),
            )  # fmt: skip
    draw.rectangle((0, h * 0.94, w, h), fill=tone)
    _save(_bleed(image, tone), path)


def hills(path: Path, width: int, height: int, tone: Tone, seed: int) -> None:
    """A range of hills with trees along its crest."""
    rng = np.random.default_rng(seed)
    image, draw = _sheet(width, height)
    w, h = image.size
    x = np.linspace(0.0, w, 240)
    crest = np.full_like(x, 0.45)
    for wave in range(1, 5):
        crest += 0.16 / wave * np.sin(x / w * 2.0 * np.pi * wave * rng.uniform(0.7, 1.4) + rng.uniform(0, 6.3))
    y = (1.0 - np.clip(crest, 0.08, 0.9)) * h
    draw.polygon([(0, h), *zip(x, y, strict=True), (w, h)], fill=(*tone, 255))
    for _ in range(width // 22):
        k = int(rng.integers(0, len(x)))
        tall, half = rng.uniform(16, 42) * _FINE, rng.uniform(4, 9) * _FINE
        foot = y[k] + 4 * _FINE
        draw.polygon([(x[k] - half, foot), (x[k], foot - tall), (x[k] + half, foot)], fill=(*tone, 255))
    _save(_bleed(image, tone), path)


def water(path: Path, width: int, height: int) -> None:
    """Bands of light on a river, and the banks that close it in."""
    rng = np.random.default_rng(5)
    image = Image.new("RGBA", (width * _FINE, height * _FINE), (38, 66, 92, 255))
    draw = ImageDraw.Draw(image)
    w, h = image.size
    for _ in range(260):
        y = rng.uniform(0, 1) ** 1.4 * h
        long, x = rng.uniform(20, 210) * _FINE * (0.4 + y / h), rng.uniform(-0.05, 1.0) * w
        glow = int(rng.uniform(60, 120))
        draw.rounded_rectangle(
            (x, y, x + long, y + (1 + 2.5 * y / h) * _FINE), 2, fill=(glow, glow + 36, glow + 58, 255)
        )
    _save(image.convert("RGB"), path)


def boat(path: Path) -> None:
    """A folded paper boat with a small flag."""
    image, draw = _sheet(420, 320)
    s = _FINE
    draw.polygon(
        [(30 * s, 190 * s), (390 * s, 190 * s), (310 * s, 290 * s), (110 * s, 290 * s)], fill=(239, 232, 214, 255)
    )
    draw.polygon(
        [(210 * s, 190 * s), (390 * s, 190 * s), (310 * s, 290 * s), (210 * s, 290 * s)], fill=(214, 204, 180, 255)
    )
    draw.polygon([(120 * s, 190 * s), (210 * s, 60 * s), (210 * s, 190 * s)], fill=(250, 246, 234, 255))
    draw.polygon([(210 * s, 60 * s), (300 * s, 190 * s), (210 * s, 190 * s)], fill=(226, 217, 196, 255))
    draw.line([(210 * s, 62 * s), (210 * s, 16 * s)], fill=(90, 70, 60, 255), width=4 * s)
    draw.polygon([(212 * s, 16 * s), (262 * s, 30 * s), (212 * s, 46 * s)], fill=(224, 122, 79, 255))
    _save(_bleed(image, (239, 232, 214)), path)


def moon(path: Path) -> None:
    """A moon in its own light."""
    image, draw = _sheet(700, 700)
    s = _FINE
    for ring in range(40):
        reach = 340 - 4 * ring
        draw.ellipse(
            [(350 - reach) * s, (350 - reach) * s, (350 + reach) * s, (350 + reach) * s],
            fill=(246, 227, 180, 3 + ring * 2),
        )
    draw.ellipse([170 * s, 170 * s, 530 * s, 530 * s], fill=(252, 240, 208, 255))
    for x, y, r in ((290, 300, 42), (410, 390, 58), (330, 440, 24), (430, 270, 30)):
        draw.ellipse([(x - r) * s, (y - r) * s, (x + r) * s, (y + r) * s], fill=(240, 222, 182, 255))
    _save(_bleed(image, (246, 227, 180)), path)


def studio(path: Path, width: int, height: int) -> None:
    """A studio's wall with the light of a tall window on it."""
    y, x = np.mgrid[0:height, 0:width].astype(float)
    away = np.hypot((x - 0.5 * width) / width, (y - 0.42 * height) / height)
    base = np.stack([72 - 46 * away, 82 - 50 * away, 92 - 50 * away], axis=2)
    image = Image.fromarray(np.clip(base, 0, 255).astype(np.uint8))
    light = Image.new("L", image.size, 0)
    draw = ImageDraw.Draw(light)
    for column in range(3):
        for row in range(4):
            left, top = 0.30 + 0.11 * column, 0.12 + 0.15 * row
            slant = 0.05
            corners = [
                (left, top),
                (left + 0.095, top + 0.018),
                (left + 0.095 - slant, top + 0.15),
                (left - slant, top + 0.132),
            ]
            draw.polygon([(u * width, v * height) for u, v in corners], fill=120)
    light = light.filter(ImageFilter.GaussianBlur(14))
    lit = Image.composite(Image.new("RGB", image.size, (212, 190, 150)), image, light)
    lit.save(path, quality=80, method=6)


def glasshouse(path: Path) -> None:
    """A photograph down a glasshouse: every pixel's ray met with the room, and what is there painted."""
    width, height = GLASSHOUSE
    focal = FOCAL / SENSOR * width
    y, x = np.mgrid[0:height, 0:width].astype(float)
    ray = np.stack([(x + 0.5 - width / 2) / focal, -(y + 0.5 - height / 2) / focal, -np.ones_like(x)], axis=2)

    def reach(ahead: np.ndarray, distance: float | np.ndarray) -> np.ndarray:
        with np.errstate(divide="ignore", invalid="ignore"):
            found = distance / ahead
        return np.where(found > 0.0, found, np.inf)

    times = np.stack(
        [reach(ray[..., 1], -EYE), reach(ray[..., 1], TALL - EYE), reach(ray[..., 0], -HALF), reach(ray[..., 0], HALF),
         np.full(x.shape, LONG)], axis=2,
    )  # fmt: skip
    which, near = times.argmin(axis=2), times.min(axis=2)
    spot = ray * near[..., None]
    u, v, d = spot[..., 0], spot[..., 1] + EYE, -spot[..., 2]
    paints: tuple[Callable[..., np.ndarray], ...] = (_floor, _roof, _side, _side, _end)
    out = np.zeros((*x.shape, 3))
    for number, paint in enumerate(paints):
        out = np.where((which == number)[..., None], paint(u, v, d), out)
    # Air: what is far is paler.
    haze = 1.0 - np.exp(-d / 26.0)
    out = out * (1.0 - haze[..., None]) + np.array([205.0, 214.0, 196.0]) * haze[..., None]
    grain = np.random.default_rng(2).normal(0.0, 2.2, x.shape)
    picture = np.clip(out + grain[..., None], 0, 255).astype(np.uint8)
    Image.fromarray(picture).save(path, quality=78, method=6)


def _floor(u: np.ndarray, v: np.ndarray, d: np.ndarray) -> np.ndarray:
    tile = ((np.floor(u / 0.55) + np.floor(d / 0.55)) % 2)[..., None]
    joint = ((np.abs(u / 0.55 % 1 - 0.5) > 0.475) | (np.abs(d / 0.55 % 1 - 0.5) > 0.475))[..., None]
    stone = np.where(tile > 0, [168.0, 140.0, 112.0], [150.0, 122.0, 98.0])
    beds = (np.abs(u) > 1.35)[..., None]
    leaves = 58.0 + 34.0 * np.sin(u * 17.0 + np.sin(d * 9.0) * 2.0) * np.sin(d * 13.0)
    green = np.stack([leaves * 0.62, leaves * 1.15, leaves * 0.5], axis=2)
    return np.where(beds, green, np.where(joint, [112.0, 92.0, 76.0], stone))


def _glazed(across: np.ndarray, up: np.ndarray, sky: np.ndarray) -> np.ndarray:
    bar = ((np.abs(across / 0.8 % 1 - 0.5) > 0.46) | (np.abs(up / 0.75 % 1 - 0.5) > 0.46))[..., None]
    return np.where(bar, [74.0, 96.0, 88.0], sky)


def _side(u: np.ndarray, v: np.ndarray, d: np.ndarray) -> np.ndarray:
    light = np.clip(v / TALL, 0, 1)[..., None]
    sky = np.array([150.0, 178.0, 168.0]) * (1 - light) + np.array([226.0, 232.0, 208.0]) * light
    glass = _glazed(d, v, sky)
    leaf = np.sin(d * 5.3 + 1.7 * np.sin(v * 6.0)) + np.sin(d * 11.7 + v * 4.0) * 0.6 + 1.9 - v * 1.7
    plants = np.stack([40 + 22 * np.sin(d * 21), 92 + 30 * np.sin(d * 17 + v * 9), 52 + 14 * np.sin(v * 15)], axis=2)
    brick = np.where((np.abs(v / 0.14 % 1 - 0.5) > 0.43)[..., None], [140.0, 116.0, 98.0], [168.0, 112.0, 84.0])
    low = np.where((v < 0.55)[..., None], brick, glass)
    return np.where(((leaf > 0) & (v > 0.3))[..., None], plants, low)


def _roof(u: np.ndarray, v: np.ndarray, d: np.ndarray) -> np.ndarray:
    sky = np.broadcast_to(np.array([228.0, 234.0, 214.0]), (*u.shape, 3))
    return _glazed(d, u + 0.4, sky)


def _end(u: np.ndarray, v: np.ndarray, d: np.ndarray) -> np.ndarray:
    door = (np.abs(u) < 0.8) & (v < 2.3)
    frame = door & ((np.abs(u) > 0.7) | (v > 2.2) | (np.abs(u) < 0.05))
    glass = _glazed(u + 0.4, v, np.broadcast_to(np.array([222.0, 228.0, 200.0]), (*u.shape, 3)))
    out = np.where(door[..., None], [186.0, 206.0, 172.0], glass)
    return np.where(frame[..., None], [58.0, 84.0, 74.0], out)
