"""Files made to hang, fill the memory, start programs, or read what is none of their business."""

import io
import json
import struct
import wave
import zipfile
import zlib
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import NamedTuple


class Bomb(NamedTuple):
    """A file, and what of it is asked for (a method of ``Reader``)."""

    name: str
    path: Path
    how: str


def _svg(body: str, size: str = 'width="200" height="200"') -> str:
    return f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {size}>{body}</svg>'


def _png(width: int, height: int, rows: bytes) -> bytes:
    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", rows) + chunk(b"IEND", b"")


def _zeros(count: int) -> bytes:
    """So many zeros, packed."""
    packer = zlib.compressobj(9)
    block = b"\0" * 1_000_000
    parts = [packer.compress(block) for _ in range(count // len(block))]
    return b"".join([*parts, packer.compress(b"\0" * (count % len(block))), packer.flush()])


def _glb(gltf: dict[str, object], binary: bytes = b"") -> bytes:
    text = json.dumps(gltf).encode()
    text += b" " * (-len(text) % 4)
    binary += b"\0" * (-len(binary) % 4)
    body = struct.pack("<I4s", len(text), b"JSON") + text + struct.pack("<I4s", len(binary), b"BIN\0") + binary
    return struct.pack("<4sII", b"glTF", 2, 12 + len(body)) + body


def _model(**more: object) -> dict[str, object]:
    base: dict[str, object] = {
        "asset": {"version": "2.0"},
        "nodes": [{"mesh": 0}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
        "accessors": [{"componentType": 5126, "type": "VEC3", "count": 3, "bufferView": 0}],
        "bufferViews": [{"buffer": 0, "byteLength": 36}],
        "buffers": [{"byteLength": 36}],
    }
    return base | more


def _svgs(canary: Path) -> Iterator[tuple[str, str]]:
    deep = 5000
    yield "nested-250", _svg("<g>" * 250 + '<rect width="9" height="9"/>' + "</g>" * 250)
    yield "nested-5000", _svg("<g>" * deep + '<rect width="9" height="9"/>' + "</g>" * deep)
    yield "arc", _svg('<path fill="red" d="M0 0A1e308 1e308 0 1 1 1e-308 1e300A0 5 0 0 0 9 9A1e9 1e-9 45 0 1 5 5z"/>')
    blur = '<feGaussianBlur stdDeviation="500"/>' * 200
    filters = f'<filter id="f" width="9000%" height="9000%">{blur}</filter>'
    yield (
        "filters",
        _svg(f'{filters}<g filter="url(#f)">' + '<rect width="9" height="9" filter="url(#f)"/>' * 99 + "</g>"),
    )
    turbulence = '<feTurbulence baseFrequency="0.9" numOctaves="9999"/>'
    yield "turbulence", _svg(f'<filter id="f">{turbulence}</filter><rect width="200" height="200" filter="url(#f)"/>')
    patterns = "".join(
        f'<pattern id="p{k}" width="1" height="1" patternUnits="userSpaceOnUse"><rect width="1" height="1" '
        f'fill="url(#p{k + 1})"/></pattern>'
        for k in range(40)
    )
    yield "patterns", _svg(f'{patterns}<rect width="200" height="200" fill="url(#p0)"/>')
    masks = "".join(
        f'<mask id="m{k}"><rect width="200" height="200" fill="white" mask="url(#m{k + 1})"/></mask>'
        for k in range(400)
    )
    yield "masks", _svg(masks + '<rect width="200" height="200" mask="url(#m0)"/>' * 200)
    clips = "".join(
        f'<clipPath id="c{k}" clip-path="url(#c{k + 1})"><rect width="9" height="9"/></clipPath>' for k in range(400)
    )
    yield "clips", _svg(clips + '<rect width="200" height="200" clip-path="url(#c0)"/>' * 200)
    yield (
        "opacity",
        _svg(
            '<g opacity=".9">' * 150 + '<rect width="9" height="9"/>' * 2000 + "</g>" * 150,
            'width="20000" height="4000"',
        ),
    )
    rules = "".join(f".a{k} > .b{k} ~ rect:first-child {{ fill: red }}" for k in range(20_000))
    yield "css", _svg(f"<style>{rules}</style>" + '<rect width="1" height="1" class="a1 b1"/>' * 2000)
    yield "large", _svg('<rect width="9" height="9"/>', 'width="30000" height="30000"')
    yield "huge", _svg('<rect width="9" height="9"/>', 'width="1e30" height="1e30"')
    yield "unlimited", _svg('<rect width="9" height="9"/>', 'width="nan" height="inf"')
    uses = "".join(f'<g id="u{k}">' + f'<use href="#u{k + 1}"/>' * 10 + "</g>" for k in range(12))
    yield "copies", _svg(f'{uses}<rect id="u12" width="1" height="1"/>')
    yield "itself", _svg('<g id="a"><use href="#a"/></g>')
    entities = "".join(f'<!ENTITY e{k} "{f"&e{k - 1};" * 10}">' for k in range(1, 12))
    yield "entities", f'<!DOCTYPE svg [<!ENTITY e0 "lol">{entities}]>' + _svg("<text>&e11;</text>")
    outside = f'<!DOCTYPE svg [<!ENTITY x SYSTEM "file://{canary}">]>'
    yield "entity-file", outside + _svg("<text>&x;</text>")
    for quote in ('"', "'"):
        yield f"link-{ord(quote)}", _svg(f"<image href={quote}{canary}{quote} width='99' height='99'/>")
    yield "link-apostrophe", _svg(f'<image xlink:href="{canary.parent}/it\'s.png" width="99" height="99"/>')
    yield "link-spaced", _svg(f'<image xlink:href = "\n{canary}" width="99" height="99"/>')
    yield "link-import", _svg(f"<style>@import url({canary}); rect {{ fill: url({canary}) }}</style><rect/>")
    inner = (
        _svg(f'<image href="{canary}" width="9" height="9"/>')
        .replace('"', "%22")
        .replace("<", "%3C")
        .replace(">", "%3E")
    )
    yield "link-inner", _svg(f'<image href="data:image/svg+xml,{inner}" width="99" height="99"/>')
    yield "use-file", _svg(f'<use href="{canary}#a"/>')
    points = " ".join(f"{k % 997},{k % 787}" for k in range(200_000))
    yield "points", _svg(f'<polyline stroke="red" stroke-dasharray="0.001" fill="none" points="{points}"/>')
    yield "dash", _svg('<line x2="1e9" y2="1e9" stroke="red" stroke-dasharray="1e-6"/>')
    yield "text", _svg(f'<text font-size="1e6">{"ﷺ" * 50_000}</text>')


def make_bombs(folder: Path, canary: Path) -> Iterator[Bomb]:
    """Write every bomb into a folder. ``canary`` is a picture that nothing may read."""

    def bomb(name: str, data: bytes | str, how: str) -> Bomb:
        path = folder / name
        path.write_bytes(data.encode() if isinstance(data, str) else data)
        return Bomb(name, path, how)

    for name, text in _svgs(canary):
        for how in ("probe", "layers", "logo_size"):
            yield bomb(f"{name}-{how}.svg", text, how)
    postscript = f"%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 0 0 9 9\n({canary}) (r) file closefile\nshowpage\n"
    for suffix in ("png", "jpg", "tif", "bmp"):
        yield bomb(f"postscript.{suffix}", postscript, "picture")
    yield bomb("megapixels.png", _png(13_300, 13_300, _zeros(13_301 * 13_300)), "picture")
    yield bomb("long.png", _png(2**31 - 1, 1, _zeros(99)), "picture")
    yield bomb("text.png", b"\x89PNG\r\n\x1a\n" + b"\x7f\xff\xff\xffzTXt" + _zeros(9_000_000), "picture")
    yield bomb("short.png", _png(9000, 9000, _zeros(99)), "picture")
    yield from _packed(bomb)
    yield from _models(bomb, canary)
    yield from _movies(bomb, canary)
    yield bomb("rows.csv", "frame,x,y,z\n" + "1,2,3,4\n" * 4_000_000, "table")
    yield bomb("wide.csv", "frame,x,y,z," + "," * 20_000_000 + "\n1,2,3,4", "table")
    yield bomb("quote.csv", 'frame,x,y,z\n"' + "1" * 9_000_000, "table")
    yield bomb("window.exr", _exr((0, 0, 2**30, 2**30)), "picture")
    yield bomb("data.exr", _exr((0, 0, 99, 99), (-(2**30), -(2**30), 2**30, 2**30)), "picture")


def _packed(bomb: Callable[[str, bytes | str, str], Bomb]) -> Iterator[Bomb]:
    import gzip

    yield bomb("packed.svgz", gzip.compress(b"<svg>" + b" " * 400_000_000), "probe")
    stack = '<image w="9" h="9"><stack><layer src="data/a.png" name="A"/></stack></image>'
    cases = {
        "bomb.ora": {"stack.xml": stack, "data/a.png": _png(30_000, 30_000, _zeros(30_001 * 3_000))},
        "deep.ora": {"stack.xml": '<image w="9" h="9">' + "<stack>" * 90_000 + "</stack>" * 90_000 + "</image>"},
        "large.ora": {"stack.xml": stack + " " * 300_000_000, "data/a.png": b""},
        "entity.ora": {"stack.xml": '<!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/passwd">]><image>&x;</image>'},
        "outside.ora": {"stack.xml": stack.replace("data/a.png", "../../../../etc/passwd")},
    }
    for name, members in cases.items():
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
            for member, data in members.items():
                archive.writestr(member, data)
        yield bomb(name, out.getvalue(), "layers")


def _models(bomb: Callable[[str, bytes | str, str], Bomb], canary: Path) -> Iterator[Bomb]:
    def accessor(**more: object) -> list[dict[str, object]]:
        return [{"componentType": 5126, "type": "VEC3", "count": 3} | more]

    yield bomb("zeros.glb", _glb(_model(accessors=accessor(count=200_000_000))), "model")
    many = [{"primitives": [{"attributes": {"POSITION": 0}}] * 400}]
    yield bomb("again.glb", _glb(_model(accessors=accessor(count=1_000_000), meshes=many)), "model")
    sparse = {"count": 2**31, "indices": {"bufferView": 0, "componentType": 5125}, "values": {"bufferView": 0}}
    yield bomb("sparse.glb", _glb(_model(accessors=accessor(sparse=sparse))), "model")
    chain = [{"children": [k + 1], "mesh": 0} for k in range(15_000)] + [{"mesh": 0}]
    yield bomb("chain.glb", _glb(_model(nodes=chain), b"\0" * 36), "model")
    yield bomb("loop.glb", _glb(_model(nodes=[{"children": [0], "mesh": 0}]), b"\0" * 36), "model")
    times = struct.pack("<2f", 0.0, 1e9) + b"\0" * 24
    animation = [
        {
            "name": "Long",
            "samplers": [{"input": 1, "output": 2}],
            "channels": [{"sampler": 0, "target": {"node": 0, "path": "translation"}}],
        }
    ]
    views = [
        {"buffer": 0, "byteLength": 36},
        {"buffer": 0, "byteOffset": 36, "byteLength": 8},
        {"buffer": 0, "byteOffset": 44, "byteLength": 24},
    ]
    accessors = [
        {"componentType": 5126, "type": "VEC3", "count": 3, "bufferView": 0},
        {"componentType": 5126, "type": "SCALAR", "count": 2, "bufferView": 1},
        {"componentType": 5126, "type": "VEC3", "count": 2, "bufferView": 2},
    ]
    long = _model(animations=animation, bufferViews=views, accessors=accessors, buffers=[{"byteLength": 68}])
    yield bomb("animation.glb", _glb(long, b"\0" * 36 + times), "animation")
    for k, uri in enumerate(
        (str(canary), f"../{canary.name}", f"file://{canary}", "..%2f" + canary.name, "sub/../../" + canary.name)
    ):
        outside = _model(buffers=[{"byteLength": 36, "uri": uri}], images=[{"uri": uri}])
        yield bomb(f"outside{k}.gltf", json.dumps(outside), "model")
    yield bomb("deep.gltf", '{"asset":' * 100_000, "model")
    yield bomb("number.gltf", '{"asset": {"version": "2.0"}, "scene": ' + "9" * 5000 + "}", "model")


def _movies(bomb: Callable[[str, bytes | str, str], Bomb], canary: Path) -> Iterator[Bomb]:
    playlist = f"#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\nfile://{canary}\n#EXT-X-ENDLIST\n"
    for suffix in ("mp4", "avi", "mkv"):
        yield bomb(f"playlist.{suffix}", playlist, "movie")
    yield bomb("concat.mp4", f"ffconcat version 1.0\nfile {canary}\n", "movie")
    yield bomb("sdp.mp4", "v=0\no=- 0 0 IN IP4 127.0.0.1\nc=IN IP4 127.0.0.1\nm=video 5004 RTP/AVP 96\n", "movie")
    out = io.BytesIO()
    with wave.open(out, "wb") as sound:
        sound.setnchannels(1), sound.setsampwidth(2), sound.setframerate(8000)
        sound.writeframes(b"\0" * 16_000)
    yield bomb("sound.mp4", out.getvalue(), "movie")


def _exr(display: tuple[int, int, int, int], data: tuple[int, int, int, int] | None = None) -> bytes:
    """An EXR's head that promises more than there is."""

    def attribute(name: str, kind: str, value: bytes) -> bytes:
        return name.encode() + b"\0" + kind.encode() + b"\0" + struct.pack("<i", len(value)) + value

    def channel(name: str) -> bytes:
        return name.encode() + b"\0" + struct.pack("<iBBBBii", 2, 0, 0, 0, 0, 1, 1)

    box = struct.pack("<4i", *display)
    head = struct.pack("<ii", 20000630, 2)
    head += attribute("channels", "chlist", b"".join(map(channel, "ABGR")) + b"\0")
    head += attribute("compression", "compression", b"\3")
    head += attribute("dataWindow", "box2i", struct.pack("<4i", *data) if data else box)
    head += attribute("displayWindow", "box2i", box)
    head += attribute("lineOrder", "lineOrder", b"\0") + attribute("pixelAspectRatio", "float", struct.pack("<f", 1.0))
    head += attribute("screenWindowCenter", "v2f", b"\0" * 8) + attribute(
        "screenWindowWidth", "float", struct.pack("<f", 1.0)
    )
    return head + b"\0" + b"\0" * 64
