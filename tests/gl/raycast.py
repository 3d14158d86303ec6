"""Pictures by casting a ray through the middle of every pixel: slow, exact, and without any of the renderer's ideas."""

import numpy as np

import wild_heron as wh
from wild_heron.evaluate import evaluate
from wild_heron.files.simple_solids import simple


def rays(scene, camera: str, size: tuple[int, int], frame: float = 0.0, beside=(0.0, 0.0)):
    """Where a camera is (3,), and the directions (H·W, 3) through the middles of its pixels, or so many pixels beside
    them, one unit deep."""
    view = evaluate(scene, frame).camera(camera, None, size)
    pose, focal = view.pose[0], float(view.focal_px[0])
    x, y = np.meshgrid(*(np.arange(size[k]) + 0.5 - size[k] / 2 + beside[k] for k in (0, 1)))
    local = np.stack([x.ravel() / focal, -y.ravel() / focal, np.full(x.size, -1.0)], axis=1)
    return pose[:3, 3], local @ pose[:3, :3].T


def card_hits(scene, origin, ways, frame: float = 0.0):
    """For each picture, how far along each ray it is met; infinite where it is not."""
    here = evaluate(scene, frame)
    unit = scene.settings.pixels_per_unit
    out = []
    for node in scene.nodes:
        if not isinstance(node, wh.Picture):
            continue
        local = np.linalg.inv(here.content(node.id)[0])
        start, way = local[:3, :3] @ origin + local[:3, 3], ways @ local[:3, :3].T
        t = -start[2] / np.where(np.abs(way[:, 2]) < 1e-300, 1e-300, way[:, 2])
        at = start + way * t[:, None]
        inside = 0.5 - np.abs(at[:, :2] / np.array([node.width / unit, node.height / unit]))
        out.append((node, np.where((inside.min(axis=1) >= 0.0) & (t > 0.0), t, np.inf)))
    return out


def triangles(scene, frame: float = 0.0) -> dict[str, np.ndarray]:
    """The triangles (T, 3, 3) in the world of each simple model."""
    here = evaluate(scene, frame)
    out = {}
    for node in scene.nodes:
        if isinstance(node, wh.Model):
            world = here.content(node.id)[0]
            parts = [mesh.positions[mesh.faces] for mesh, *_ in simple(node).parts]
            out[node.id] = np.concatenate(parts) @ world[:3, :3].T + world[:3, 3]
    return out


def met(origin: np.ndarray, ways: np.ndarray, corners: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """How far along rays (N, 3) from one point (3,) or several (N, 3) any triangle (T, 3, 3) is met first (N,), and
    which it is."""
    first, which = np.full(len(ways), np.inf), np.zeros(len(ways), int)
    origins = np.broadcast_to(origin, ways.shape)
    for start in range(0, len(corners), 64):
        group = corners[start : start + 64]
        # Only rays that come near the group at all.
        middle = group.reshape(-1, 3).mean(axis=0)
        radius = np.linalg.norm(group.reshape(-1, 3) - middle, axis=1).max()
        away = np.linalg.norm(np.cross(middle - origins, ways), axis=1) / np.linalg.norm(ways, axis=1)
        near = np.flatnonzero(away <= radius * 1.001)
        found, number = _met(origins[near], ways[near], group)
        nearer = found < first[near]
        first[near[nearer]], which[near[nearer]] = found[nearer], start + number[nearer]
    return first, which


def _met(origin: np.ndarray, ways: np.ndarray, corners: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    first, which = np.full(len(ways), np.inf), np.zeros(len(ways), int)
    for number, (a, b, c) in enumerate(corners):
        # Möller and Trumbore 1997.
        one, two = b - a, c - a
        p = np.cross(ways, two)
        det = p @ one
        safe = np.where(np.abs(det) < 1e-14, np.nan, det)
        s = origin - a
        u = (p * s).sum(axis=1) / safe
        q = np.cross(s, one)
        v = (ways * q).sum(axis=1) / safe
        t = q @ two / safe
        with np.errstate(invalid="ignore"):
            good = (u >= 0.0) & (v >= 0.0) & (u + v <= 1.0) & (t > 1e-9)
        nearer = good & (t < first)
        first, which = np.where(nearer, t, first), np.where(nearer, number, which)
    return first, which
