"""Hostile artwork: each is read through the door that everything uses, which is watched from outside."""

import ctypes
import os
import random
import struct
import time
from collections.abc import Collection
from pathlib import Path

from wild_heron.files.errors import FileError
from wild_heron.files.reader import Reader
from wild_heron.scene import ImageFile, Layer, Logo, Model, ModelFile, Picture

from .bombs import Bomb, make_bombs
from .mutate import mutated_bytes
from .scenes import MAX_BYTES, MAX_SECONDS, Failure

_IN_ACCESS, _IN_OPEN = 1, 0x20


class Canary:
    """A file that nobody may open; the kernel tells when somebody does."""

    def __init__(self, path: Path) -> None:
        libc = ctypes.CDLL(None)
        self._handle = libc.inotify_init1(os.O_NONBLOCK)
        libc.inotify_add_watch(self._handle, os.fsencode(path), _IN_ACCESS | _IN_OPEN)

    def was_opened(self) -> bool:
        try:
            return bool(os.read(self._handle, 65_536))
        except BlockingIOError:
            return False


def asked(reader: Reader, path: Path, how: str) -> object:
    """Ask for something of a file."""
    match how:
        case "picture":
            return reader.picture(path, 4096)
        case "layer":
            picture = Picture(id="p", name="P", artwork=Layer(path.name, "data/a.png"), width=99, height=99)
            return reader.pixels(picture, path, 1.0, 4096)
        case "solid":
            node: Model | Logo = Model(id="m", name="M", shape=ModelFile(path.name))
            if path.suffix.startswith(".svg"):
                node = Logo(id="l", name="L", outlines=ImageFile(path.name), width=9, height=9, depth=3.0, bevel=1.0)
            return reader.solid(node, path)
        case "frame":
            return reader.movie_frame(path, 3, 4096)
        case "animation":
            summary = reader.model(path)
            return [reader.animation(path, name, 24.0) for name in summary.animations]
    return getattr(reader, how)(path)


_HOWS = {
    ".svg": ("probe", "picture", "layers", "logo_size", "solid"), ".svgz": ("picture",), ".ora": ("layers", "layer"),
    ".glb": ("model", "solid", "animation"), ".gltf": ("model", "solid"), ".mp4": ("movie", "frame"),
    ".webm": ("movie", "frame"), ".csv": ("table",),
}  # fmt: skip


def tried(reader: Reader, path: Path, how: str) -> tuple[str, str]:
    """What came of asking: a result, a clear refusal, or a failure and why."""
    started = time.monotonic()
    try:
        asked(reader, path, how)
        state, what = "read", ""
    except FileError as refused:
        state, what = "refused", str(refused)
    except BaseException as problem:
        return "failed", f"{how}: {type(problem).__name__}: {str(problem)[:200]}"
    took = time.monotonic() - started
    if took > MAX_SECONDS * max(1.0, os.getloadavg()[0] / (os.cpu_count() or 1)):
        return "failed", f"{how}: {took:.1f} s"
    if state == "refused" and (path.name not in what or "Traceback" in what):
        return "failed", f"{how}: it does not say which file: {what[:200]}"
    for process in reader._processes:
        if process is not None and process.process.poll() is None:
            pid = process.process.pid
            peak = int(Path(f"/proc/{pid}/status").read_text().partition("VmHWM:")[2].split()[0]) * 1024
            if peak > MAX_BYTES:
                return "failed", f"{how}: {peak / 1e9:.1f} GB"
            if Path(f"/proc/{pid}/task/{pid}/children").read_text().strip():
                return "failed", f"{how}: a program was started"
    return state, what


def fuzz_artworks(count: int, seed: int, folder: Path) -> tuple[dict[str, int], list[Failure]]:
    """Attack with so many mutants of the files in a folder."""
    originals = sorted(path for path in folder.iterdir() if path.is_file())
    tally: dict[str, int] = {}
    failures: list[Failure] = []
    (folder / "mutants").mkdir(exist_ok=True)
    with Reader() as reader:
        for k in range(count):
            rng = random.Random(f"{seed}/artwork/{k}")
            original = originals[k % len(originals)]
            path = folder / "mutants" / f"m{k}{original.suffix}"
            path.write_bytes(mutated_bytes(original.read_bytes(), rng))
            state, what = tried(reader, path, rng.choice(_HOWS.get(original.suffix, ("probe", "picture"))))
            tally[state] = tally.get(state, 0) + 1
            if state == "failed":
                failures.append(Failure(f"artwork {original.name}", k, what))
            else:
                path.unlink()
    return tally, failures


class Armoury:
    """Every bomb, in a folder, and what none of them may touch beside it."""

    def __init__(self, folder: Path) -> None:
        (folder / "inside").mkdir()
        canaries = [folder / "canary.png", folder / "it's.png"]
        for canary in canaries:
            canary.write_bytes(_tiny_picture())
        self.bombs: list[Bomb] = [*make_bombs(folder / "inside", canaries[0]), *_places(folder / "inside")]
        self._watched = [Canary(canary) for canary in canaries]

    def set_off(self, wanted: Collection[str] | None = None) -> tuple[dict[str, int], list[Failure]]:
        """Set off every bomb, or those whose names are wanted."""
        tally: dict[str, int] = {}
        failures: list[Failure] = []
        with Reader() as reader:
            for each in self.bombs:
                if wanted is not None and each.name not in wanted:
                    continue
                state, what = tried(reader, each.path, each.how)
                if any(canary.was_opened() for canary in self._watched):
                    state, what = "failed", "a file outside was opened"
                tally[state] = tally.get(state, 0) + 1
                if state == "failed":
                    failures.append(Failure(f"bomb {each.name}", 0, what))
        return tally, failures


def _places(folder: Path) -> list[Bomb]:
    """Things that are no plain files."""
    os.mkfifo(folder / "pipe.png")
    os.mkfifo(folder / "pipe.glb")
    (folder / "zero.ora").symlink_to("/dev/zero")
    (folder / "zero.svg").symlink_to("/dev/zero")
    (folder / "folder.png").mkdir()
    return [
        Bomb("pipe.png", folder / "pipe.png", "picture"), Bomb("pipe.glb", folder / "pipe.glb", "solid"),
        Bomb("zero.ora", folder / "zero.ora", "layer"), Bomb("zero.svg", folder / "zero.svg", "logo_size"),
        Bomb("folder.png", folder / "folder.png", "picture"),
    ]  # fmt: skip


def _tiny_picture() -> bytes:
    import zlib

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = chunk(b"IHDR", struct.pack(">IIBBBBB", 1, 1, 8, 0, 0, 0, 0))
    return b"\x89PNG\r\n\x1a\n" + head + chunk(b"IDAT", zlib.compress(b"\0\0")) + chunk(b"IEND", b"")


def write_originals(folder: Path) -> None:
    """A small file of every kind that is read."""
    import gzip
    import io
    import zipfile

    import av
    import numpy as np
    import OpenEXR
    from PIL import Image

    from .bombs import _glb, _model, _svg

    rng = np.random.default_rng(1)
    picture = Image.fromarray(rng.integers(0, 255, (48, 64, 4), np.uint8))
    for suffix in ("png", "webp", "tif", "bmp", "gif"):
        picture.save(folder / f"a.{suffix}")
    picture.convert("RGB").save(folder / "a.jpg")
    deep = rng.integers(0, 65535, (20, 30), np.uint16)
    Image.fromarray(deep).save(folder / "deep.png")
    planes = {name: np.asarray(rng.random((20, 30)), np.float32) for name in "RGBA"}
    OpenEXR.File({"type": OpenEXR.scanlineimage}, planes).write(str(folder / "a.exr"))
    body = (
        '<defs><linearGradient id="g"><stop offset="0" stop-color="#ff0000"/><stop offset="1" stop-color="#00ff00"/>'
        '</linearGradient><clipPath id="c"><circle cx="50" cy="50" r="40"/></clipPath></defs>'
        '<g id="one" opacity=".5" transform="rotate(9 4 4)">'
        '<path fill="url(#g)" d="M0 0C9 9 20 0 90 90A30 20 10 1 0 5 5z"/></g>'
        '<g id="two" clip-path="url(#c)"><rect width="60" height="40" rx="5" stroke="#0000ff" stroke-width="3"/>'
        '<use href="#one" x="9"/><text x="5" y="60" font-size="20">Fair</text></g>'
    )
    (folder / "a.svg").write_text(_svg(body))
    (folder / "a.svgz").write_bytes(gzip.compress(_svg(body).encode()))
    with zipfile.ZipFile(folder / "a.ora", "w") as archive:
        stack = '<image w="64" h="48"><stack><layer src="data/a.png" name="A" x="3" opacity="0.5"/></stack></image>'
        archive.writestr("stack.xml", stack)
        archive.writestr("data/a.png", (folder / "a.png").read_bytes())
    triangle = struct.pack("<9f", 0, 0, 0, 1, 0, 0, 0, 1, 0)
    image = io.BytesIO()
    picture.save(image, "PNG")
    views = [{"buffer": 0, "byteLength": 36}, {"buffer": 0, "byteOffset": 36, "byteLength": len(image.getvalue())}]
    times, turns = struct.pack("<2f", 0.0, 1.0), struct.pack("<8f", 0, 0, 0, 1, 0, 1, 0, 0)
    place = 36 + len(image.getvalue()) + (-len(image.getvalue()) % 4)
    views += [
        {"buffer": 0, "byteOffset": place, "byteLength": 8},
        {"buffer": 0, "byteOffset": place + 8, "byteLength": 32},
    ]
    gltf = _model(
        bufferViews=views,
        buffers=[{"byteLength": place + 40}],
        accessors=[
            {"componentType": 5126, "type": "VEC3", "count": 3, "bufferView": 0},
            {"componentType": 5126, "type": "SCALAR", "count": 2, "bufferView": 2},
            {"componentType": 5126, "type": "VEC4", "count": 2, "bufferView": 3},
        ],
        images=[{"bufferView": 1, "mimeType": "image/png"}],
        animations=[
            {
                "name": "Turn",
                "samplers": [{"input": 1, "output": 2}],
                "channels": [{"sampler": 0, "target": {"node": 0, "path": "rotation"}}],
            }
        ],
    )
    binary = triangle + image.getvalue()
    binary += b"\0" * (place - len(binary)) + times + turns
    (folder / "a.glb").write_bytes(_glb(gltf, binary))
    (folder / "a.csv").write_text(
        "frame,x,y,z,rx,ry,rz\n" + "".join(f"{k},{k * 2},0.5,-1,0,{k * 9},0\n" for k in range(30))
    )
    for suffix, codec in (("mp4", "libx264"), ("webm", "libvpx-vp9")):
        with av.open(str(folder / f"a.{suffix}"), "w") as movie:
            stream = movie.add_stream(codec, rate=24)
            stream.width, stream.height, stream.pix_fmt = 64, 48, "yuv420p"
            for k in range(8):
                frame = av.VideoFrame.from_ndarray(np.full((48, 64, 3), k * 30, np.uint8), format="rgb24")
                for packet in stream.encode(frame):
                    movie.mux(packet)
            for packet in stream.encode():
                movie.mux(packet)
