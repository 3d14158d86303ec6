// A flat picture. FINE: with where it falls in the frame, for what is averaged there. MOVING: with where it is before
// and after.
in vec2 place;              // u, v in the picture, v from the top
uniform mat4 clip_from_picture;
uniform mat4 world_from_picture;
uniform vec2 margin;        // beyond the true edges, in u and v
uniform float order;        // a depth to draw at in place of its own, or 2
uniform vec4 inside;        // where the artwork lies in its texture: first and size, in u and v
uniform vec2 seen_depth;    // the nearest and the farthest depth that is seen
out vec2 uv;
out vec2 spot;
out vec3 at;
#ifdef FINE
out vec3 in_frame;
#endif
#ifdef MOVING
#include "motion.glsl"
#endif
void main() {
    uv = place + margin * (step(1.0, place) - step(place, vec2(0.0)));
    gl_Position = clip_from_picture * vec4(uv, 0.0, 1.0);
    gl_ClipDistance[0] = gl_Position.w - seen_depth.x;
    gl_ClipDistance[1] = seen_depth.y - gl_Position.w;
#ifdef FINE
    in_frame = gl_Position.xyw;
#endif
#ifdef MOVING
    before = clip_before * vec4(uv, 0.0, 1.0);
    after = clip_after * vec4(uv, 0.0, 1.0);
#endif
    if (order < 1.5) gl_Position.z = order * gl_Position.w;
    spot = inside.xy + uv * inside.zw;
    at = (world_from_picture * vec4(uv, 0.0, 1.0)).xyz;
}
