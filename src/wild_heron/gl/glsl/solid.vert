// A part of a model. MOVING: with where it is before and after.
in vec3 position;
in vec3 direction;
in vec2 texture_place;
uniform mat4 clip_from_part;
uniform mat4 world;         // to places told from near the eye
uniform mat3 turned;        // inverse transpose of the world's 3 × 3
uniform vec2 seen_depth;    // the nearest and the farthest depth that is seen
out vec3 at;
out vec3 normal;
out vec2 uv;
#ifdef MOVING
#include "motion.glsl"
#endif
invariant gl_Position;      // one solid may be drawn twice, to the very same depths
void main() {
    at = (world * vec4(position, 1.0)).xyz;
    normal = turned * direction;
    uv = texture_place;
    gl_Position = clip_from_part * vec4(position, 1.0);
    gl_ClipDistance[0] = gl_Position.w - seen_depth.x;
    gl_ClipDistance[1] = seen_depth.y - gl_Position.w;
#ifdef MOVING
    before = clip_before * vec4(position, 1.0);
    after = clip_after * vec4(position, 1.0);
#endif
}
