"""GLSL 3.30. Textures are premultiplied, and so is everything that is blended."""

PICTURE_VERTEX = """
#version 330
in vec2 place;              // u, v in the picture, v from the top
uniform mat4 clip_from_picture;
uniform vec2 margin;        // half a pixel and more, in u and v, beyond the true edges
out vec2 uv;
void main() {
    uv = place + margin * (step(1.0, place) - step(place, vec2(0.0)));
    gl_Position = clip_from_picture * vec4(uv, 0.0, 1.0);
}
"""

PICTURE_FRAGMENT = """
#version 330
in vec2 uv;
uniform sampler2D artwork;
uniform float opacity;
out vec4 colour;
void main() {
    colour = texture(artwork, uv) * opacity;
}
"""

# The same, with the picture's own edges covering pixels by their share. It costs a little, so it is used only where
# an edge is in view.
EDGED_FRAGMENT = """
#version 330
in vec2 uv;
uniform sampler2D artwork;
uniform float opacity;
out vec4 colour;
void main() {
    vec2 pixel = max(fwidth(uv), vec2(1e-9));
    vec2 cover = clamp(0.5 + min(uv, 1.0 - uv) / pixel, 0.0, 1.0);
    colour = texture(artwork, uv) * (opacity * cover.x * cover.y);
}
"""

WHOLE_FRAME_VERTEX = """
#version 330
in vec2 place;
out vec2 uv;
void main() {
    uv = place;
    gl_Position = vec4(place * 2.0 - 1.0, 0.0, 1.0);
}
"""

WEIGHTED_FRAGMENT = """
#version 330
in vec2 uv;
uniform sampler2D sample_frame;
uniform float weight;
out vec4 colour;
void main() {
    colour = texelFetch(sample_frame, ivec2(gl_FragCoord.xy), 0) * weight;
}
"""
