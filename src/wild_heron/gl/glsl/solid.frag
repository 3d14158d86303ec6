// A model's surface, with PROJECTIONS photographs on it. STRETCH: in their place, how far the first is stretched.
in vec3 at;
in vec3 normal;
in vec2 uv;
uniform vec4 own;
uniform float opacity;
uniform float cutoff;
uniform float sharper;      // levels of a mipmap, for samples that are a part of a pixel
uniform sampler2D artwork;
out vec4 result;
#ifdef HAZED
#include "haze.glsl"
#endif
#ifdef LIT
#include "light.glsl"
#endif
#if PROJECTIONS > 0
#include "projection.glsl"
#endif
void main() {
#ifdef TEXTURED
    vec4 base = own * texture(artwork, uv, sharper);
    float alpha = base.a * opacity;
    base.rgb /= max(base.a, 1e-4);
    base.rgb *= own.a;
#else
    vec4 base = own;
    float alpha = base.a * opacity;
#endif
    if (base.a < cutoff) discard;
    vec3 facing = normalize(normal);
#ifdef LIT
    if (dot(facing, lit_from - at) < 0.0) facing = -facing;
    vec4 colour = vec4(shaded(base.rgb, facing, at), 1.0);
#else
    vec4 colour = vec4(base.rgb, 1.0);
#endif
#ifdef STRETCH
    vec3 p;
    float seen = RECEIVED(0, p);
    vec2 dx = dFdx(p.xy) * photo_size[0].xy, dy = dFdy(p.xy) * photo_size[0].xy;
    // The smaller singular value: photograph pixels to an output pixel, along the most stretched direction.
    float sum = dot(dx, dx) + dot(dy, dy), area = dx.x * dy.y - dx.y * dy.x;
    float least = sqrt(max(0.5 * (sum - sqrt(max(sum * sum - 4.0 * area * area, 0.0))), 1e-12));
    // In octaves, eight of them over a byte, and what is left over of its steps in another.
    float steps = clamp(log2(1.0 / least) / 8.0 + 0.5, 0.0, 1.0) * 255.0;
    result = vec4(floor(steps) / 255.0, seen > 0.5 ? 1.0 : 0.0, fract(steps), 1.0);
#else
    // A photograph shows its own colours, as it was lit when it was taken.
#if PROJECTIONS > 0
    SHOW_PHOTOGRAPH(0)
#endif
#if PROJECTIONS > 1
    SHOW_PHOTOGRAPH(1)
#endif
#if PROJECTIONS > 2
    SHOW_PHOTOGRAPH(2)
#endif
#if PROJECTIONS > 3
    SHOW_PHOTOGRAPH(3)
#endif
#ifdef HAZED
    colour = hazed(colour, at);
#endif
    result = colour * alpha;
#endif
}
