"""OpenUSD: a camera with its lens, apertures, focus and shutter, nulls, cards, models and lights.

Lengths of the lens are told in tenths of a unit, as the schema has it, so that focal length and apertures read as
millimetres where a unit is a centimetre; only their ratio is what is seen.
"""

import re
from typing import Any

import numpy as np
from pxr import Gf, Sdf, Usd, UsdGeom, UsdLux, UsdShade, Vt

from ...arrays import Array
from ...colour import to_light
from ..reader import Reader
from .flat_artwork import FlatMesh, Shown, meshes_of, png
from .lights import LightTold, light_of
from .move import Move, MovedCamera, MovedNode, Poses

_ROOT = "/Scene"
_LAMP = 0.01
"""Units: the radius of what stands for a point."""


def usd(move: Move, reader: Reader, folder: str) -> tuple[Any, dict[str, bytes]]:
    """A move as a stage, and the pictures that it shows by their names relative to it, in a folder beside it."""
    files: dict[str, bytes] = {}
    stage = Usd.Stage.CreateInMemory()
    UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.y)
    UsdGeom.SetStageMetersPerUnit(stage, move.metres)
    fps = move.scene.settings.rate.fps
    stage.SetTimeCodesPerSecond(fps)
    stage.SetFramesPerSecond(fps)
    stage.SetStartTimeCode(float(move.frames[0]))
    stage.SetEndTimeCode(float(move.frames[-1]))
    root = UsdGeom.Xform.Define(stage, _ROOT)
    stage.SetDefaultPrim(root.GetPrim())
    root.GetPrim().SetDisplayName(move.scene.name)
    names: dict[str, set[str]] = {}

    def free(name: str, above: str) -> str:
        return f"{above}/{_name(name, names.setdefault(above, set()))}"

    paths: list[str] = []
    for moved in move.nodes:
        node = moved.node
        path = free(node.name, _ROOT if moved.parent < 0 else paths[moved.parent])
        paths.append(path)
        light = light_of(move, moved)
        holder = UsdGeom.Xform.Define(stage, path) if light is None else _light(stage, path, light)
        holder.GetPrim().SetDisplayName(node.name)
        _place(holder, moved.poses)
        if isinstance(node, Shown):
            _shown(stage, path, move, moved, reader, folder, files, lambda name, path=path: free(name, path))
    if move.camera is not None:
        above = _ROOT if move.camera.parent < 0 else paths[move.camera.parent]
        _camera(stage, free(move.camera.name, above), move.camera)
    return stage, files


def _shown(
    stage: Any, path: str, move: Move, moved: MovedNode, reader: Reader, folder: str, files: dict[str, bytes],
    free: Any,
) -> None:  # fmt: skip
    """The meshes of a node, below it."""
    node = moved.node
    assert isinstance(node, Shown)
    for number, mesh in enumerate(meshes_of(node, move.scene, move.base, reader, float(move.frames[0]))):
        file = None
        if mesh.texture is not None:
            file = f"{folder}/{len(files) + 1:04d}_{path.rpartition('/')[2][:80]}.png"
            files[file] = png(mesh.texture)
        _mesh(stage, free(f"Mesh_{number}"), mesh, file, moved.level)


def _light(stage: Any, path: str, told: LightTold) -> Any:
    strength = told.strength
    if told.kind == "ambient":
        light = UsdLux.DomeLight.Define(stage, path)
    elif told.kind == "directional":
        light = UsdLux.DistantLight.Define(stage, path)
        light.CreateAngleAttr(0.0)
    else:
        light = UsdLux.SphereLight.Define(stage, path)
        light.CreateRadiusAttr(_LAMP)
        light.CreateTreatAsPointAttr(True)
        light.CreateNormalizeAttr(True)
        # A sphere sends a quarter of what is told, by its surface, towards each side.
        strength = 4.0 * strength
    light.CreateColorAttr(Gf.Vec3f(*told.colour))
    if told.shadow:
        UsdLux.ShadowAPI.Apply(light.GetPrim()).CreateShadowEnableAttr(True)
    _sampled(light.CreateIntensityAttr(), told.frames, strength.tolist())
    return light


def _name(name: str, taken: set[str]) -> str:
    """A name that a prim can have, told apart from those before."""
    plain = re.sub(r"\W", "_", name, flags=re.ASCII) or "Node"
    plain = f"_{plain}" if plain[0].isdigit() else plain
    found, number = plain, 2
    while found in taken:
        found, number = f"{plain}_{number}", number + 1
    taken.add(found)
    return found


def _sampled(attribute: Any, frames: Array, values: list[Any]) -> None:
    """Set an attribute once, or at each frame."""
    if len(values) == 1:
        attribute.Set(values[0])
        return
    for frame, value in zip(frames.tolist(), values, strict=True):
        attribute.Set(value, Usd.TimeCode(frame))


def _place(prim: Any, poses: Poses) -> None:
    if poses.skewed is not None:
        whole = prim.AddTransformOp(UsdGeom.XformOp.PrecisionDouble)
        # USD has rows where columns are here.
        _sampled(whole.GetAttr(), poses.frames, [Gf.Matrix4d(each.T.tolist()) for each in poses.skewed])
        return
    translate = prim.AddTranslateOp(UsdGeom.XformOp.PrecisionDouble)
    orient = prim.AddOrientOp(UsdGeom.XformOp.PrecisionDouble)
    scale = prim.AddScaleOp(UsdGeom.XformOp.PrecisionDouble)
    _sampled(translate.GetAttr(), poses.frames, [Gf.Vec3d(*row) for row in poses.position.tolist()])
    turns = [Gf.Quatd(w, x, y, z) for x, y, z, w in poses.quaternion.tolist()]
    _sampled(orient.GetAttr(), poses.frames, turns)
    sizes = poses.scale
    if (np.abs(sizes - sizes[0]) < 1e-9).all():
        sizes = sizes[:1]
    _sampled(scale.GetAttr(), poses.frames, [Gf.Vec3d(*row) for row in sizes.tolist()])


def _camera(stage: Any, path: str, camera: MovedCamera) -> None:
    view, at = camera.view, camera.lens
    prim = UsdGeom.Camera.Define(stage, path)
    prim.GetPrim().SetDisplayName(camera.name)
    _place(prim, camera.poses)
    frames = view.frames[at]
    # The part of the sensor that the frame shows, however it is fitted.
    per_pixel = view.focal_mm[at] / view.focal_px[at]
    focus = np.where(np.isfinite(view.focus[at]), view.focus[at], 0.0)
    _sampled(prim.CreateFocalLengthAttr(), frames, view.focal_mm[at].tolist())
    _sampled(prim.CreateHorizontalApertureAttr(), frames, _once((view.width * per_pixel).tolist()))
    _sampled(prim.CreateVerticalApertureAttr(), frames, _once((view.height * per_pixel).tolist()))
    if view.shift is not None:
        # The window lies the other way from where the axis lands.
        across, down = view.shift[at, 0], view.shift[at, 1]
        _sampled(prim.CreateHorizontalApertureOffsetAttr(), frames, (-across * per_pixel).tolist())
        _sampled(prim.CreateVerticalApertureOffsetAttr(), frames, (down * per_pixel).tolist())
    _sampled(prim.CreateFocusDistanceAttr(), frames, _once(focus.tolist()))
    stops = np.where(view.depth_of_field[at] & np.isfinite(view.f_stop[at]), view.f_stop[at], 0.0)
    _sampled(prim.CreateFStopAttr(), frames, _once(stops.tolist()))
    half = view.shutter[at] / 720.0
    _sampled(prim.CreateShutterOpenAttr(), frames, _once((-half).tolist()))
    _sampled(prim.CreateShutterCloseAttr(), frames, _once(half.tolist()))
    far = float(view.far.max())
    prim.CreateClippingRangeAttr(Gf.Vec2f(float(max(view.near.min(), 1e-3)), min(far, 1e7)))
    prim.CreateProjectionAttr(UsdGeom.Tokens.perspective)


def _once(values: list[float]) -> list[float]:
    return values[:1] if all(abs(value - values[0]) < 1e-9 for value in values) else values


def _mesh(stage: Any, path: str, mesh: FlatMesh, file: str | None, opacity: tuple[Array, Array]) -> None:
    prim = UsdGeom.Mesh.Define(stage, path)
    prim.CreatePointsAttr(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(mesh.positions, np.float32)))
    prim.CreateFaceVertexCountsAttr(Vt.IntArray([3] * len(mesh.faces)))
    prim.CreateFaceVertexIndicesAttr(Vt.IntArray.FromNumpy(np.ascontiguousarray(mesh.faces, np.int32).ravel()))
    prim.CreateNormalsAttr(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(mesh.normals, np.float32)))
    prim.SetNormalsInterpolation(UsdGeom.Tokens.vertex)
    prim.CreateSubdivisionSchemeAttr(UsdGeom.Tokens.none)
    prim.CreateDoubleSidedAttr(mesh.material.double_sided)
    low, high = mesh.positions.min(axis=0), mesh.positions.max(axis=0)
    prim.CreateExtentAttr(Vt.Vec3fArray([Gf.Vec3f(*low.tolist()), Gf.Vec3f(*high.tolist())]))
    uv = UsdGeom.PrimvarsAPI(prim).CreatePrimvar("st", Sdf.ValueTypeNames.TexCoord2fArray, UsdGeom.Tokens.vertex)
    # USD counts v from the bottom.
    flipped = np.stack([mesh.uv[:, 0], 1.0 - mesh.uv[:, 1]], axis=1)
    uv.Set(Vt.Vec2fArray.FromNumpy(np.ascontiguousarray(flipped, np.float32)))
    material = _material(stage, f"{path}_material", mesh, file, opacity)
    UsdShade.MaterialBindingAPI.Apply(prim.GetPrim()).Bind(material)


def _material(stage: Any, path: str, mesh: FlatMesh, file: str | None, opacity: tuple[Array, Array]) -> Any:
    """A surface by UsdPreviewSurface; what light leaves alone glows by its own colours."""
    material = UsdShade.Material.Define(stage, path)
    surface = UsdShade.Shader.Define(stage, f"{path}/Surface")
    surface.CreateIdAttr("UsdPreviewSurface")
    material.CreateSurfaceOutput().ConnectToSource(surface.ConnectableAPI(), "surface")
    colour = Gf.Vec3f(*to_light(np.array(mesh.material.colour[:3])).tolist())
    shown = surface.CreateInput("emissiveColor" if mesh.material.unlit else "diffuseColor", Sdf.ValueTypeNames.Color3f)
    if mesh.material.unlit:
        surface.CreateInput("diffuseColor", Sdf.ValueTypeNames.Color3f).Set(Gf.Vec3f(0.0))
    clear = surface.CreateInput("opacity", Sdf.ValueTypeNames.Float)
    frames, values = opacity
    if file is None:
        shown.Set(colour)
        _sampled(clear, frames, (values * mesh.material.colour[3]).tolist())
        return material
    reader = UsdShade.Shader.Define(stage, f"{path}/Place")
    reader.CreateIdAttr("UsdPrimvarReader_float2")
    reader.CreateInput("varname", Sdf.ValueTypeNames.String).Set("st")
    texture = UsdShade.Shader.Define(stage, f"{path}/Texture")
    texture.CreateIdAttr("UsdUVTexture")
    texture.CreateInput("file", Sdf.ValueTypeNames.Asset).Set(Sdf.AssetPath(f"./{file}"))
    texture.CreateInput("sourceColorSpace", Sdf.ValueTypeNames.Token).Set("sRGB")
    for name in ("wrapS", "wrapT"):
        texture.CreateInput(name, Sdf.ValueTypeNames.Token).Set("repeat" if mesh.repeats else "clamp")
    scale = texture.CreateInput("scale", Sdf.ValueTypeNames.Float4)
    _sampled(scale, frames, [Gf.Vec4f(*colour, value * mesh.material.colour[3]) for value in values.tolist()])
    texture.CreateInput("st", Sdf.ValueTypeNames.Float2).ConnectToSource(
        reader.CreateOutput("result", Sdf.ValueTypeNames.Float2)
    )
    shown.ConnectToSource(texture.CreateOutput("rgb", Sdf.ValueTypeNames.Float3))
    clear.ConnectToSource(texture.CreateOutput("a", Sdf.ValueTypeNames.Float))
    if mesh.material.cutoff > 0.0:
        surface.CreateInput("opacityThreshold", Sdf.ValueTypeNames.Float).Set(mesh.material.cutoff)
    return material
