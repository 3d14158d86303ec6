"""Small pictures' mipmaps are what each texel covers, and OpenGL takes them for its own."""

import moderngl
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from wild_heron.gl.mipmaps import build_mipmaps, levels_of
from wild_heron.gl.textures import as_texture


@pytest.fixture(scope="module")
def context():
    context = moderngl.create_context(standalone=True, backend="egl", require=330)
    yield context
    context.release()


@given(st.integers(1, 70), st.integers(1, 70))
def test_every_level_has_the_mean_of_the_picture_and_its_texels_that_of_what_they_cover(width, height):
    pixels = np.random.default_rng(width * 71 + height).random((height, width, 4)).astype(np.float32)
    sizes = [(height, width)]
    for level in levels_of(pixels):
        sizes.append(level.shape[:2])
        # Sizes are rounded down, and nothing of the picture counts more than the rest.
        assert sizes[-1] == tuple(max(1, each // 2) for each in sizes[-2])
        assert level.mean(axis=(0, 1)) == pytest.approx(pixels.mean(axis=(0, 1)), abs=1e-5)
    assert sizes[-1] == (1, 1)


def test_a_level_of_an_odd_picture_is_the_area_that_each_texel_covers():
    pixels = np.arange(7, dtype=np.float32)[None, :, None] * np.ones((1, 1, 4), np.float32)
    fine = np.repeat(pixels[0, :, 0], 300).reshape(3, 700).mean(axis=1)
    assert next(levels_of(pixels))[0, :, 0] == pytest.approx(fine, abs=1e-5)


@pytest.mark.parametrize("kind", [np.uint8, np.float16, np.float32])
@pytest.mark.parametrize("size", [(64, 32), (37, 61)])
def test_what_is_looked_up_is_what_was_made(context, kind, size):
    rows = np.random.default_rng(3).random((size[1], size[0], 4))
    pixels = (rows * 255).astype(kind) if kind is np.uint8 else rows.astype(kind)
    texture = as_texture(context, pixels, linear=False)
    build_mipmaps(context, texture, pixels, linear=False)
    texture.filter = (moderngl.NEAREST_MIPMAP_NEAREST, moderngl.NEAREST)
    program = context.program(
        vertex_shader="#version 330\nvoid main() {"
        " gl_Position = vec4(vec2(gl_VertexID & 1, gl_VertexID >> 1) * 4.0 - 1.0, 0.0, 1.0); }",
        fragment_shader="#version 330\nuniform sampler2D t; uniform int level; out vec4 o;"
        " void main() { o = texelFetch(t, ivec2(gl_FragCoord.xy), level); }",
    )
    for number, level in enumerate(levels_of(pixels), 1):
        height, width = level.shape[:2]
        target = context.simple_framebuffer((width, height), 4, dtype="f4")
        target.use()
        texture.use(0)
        program["level"] = number
        context.vertex_array(program, []).render(moderngl.TRIANGLES, vertices=3)
        seen = np.frombuffer(target.read(components=4, dtype="f4"), np.float32).reshape(height, width, 4)
        assert seen == pytest.approx(level / 255.0 if kind is np.uint8 else level.astype(np.float32), abs=1e-6)
