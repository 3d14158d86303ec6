// A flat picture. EDGED: its own edges cover pixels by their share; it costs a little, so it is used only where such an
// edge is in view. HAZED, LIT: as they say. CUT: it is a part, up to the lines along which it is cut from the rest.
// FINE: it is averaged over what the sample stands for.
in vec2 uv;
in vec2 spot;
in vec3 at;
uniform sampler2D artwork;
uniform float opacity;
uniform vec3 normal;
out vec4 result;
#ifdef CUT
#include "cuts.glsl"
#endif
#ifdef HAZED
#include "haze.glsl"
#endif
#ifdef LIT
#include "light.glsl"
#endif
#ifdef FINE
#include "footprint.glsl"
#endif
void main() {
#ifdef FINE
#ifdef EDGED
    vec4 colour = averaged(true) * opacity;
#else
    vec4 colour = averaged(false) * opacity;
#endif
#else
    vec4 colour = texture(artwork, spot) * opacity;
#endif
#ifdef LIT
    if (colour.a > 0.0) colour.rgb = shaded(colour.rgb / colour.a, normal, at) * colour.a;
#endif
#if defined(EDGED) && !defined(FINE)
    vec2 pixel = max(fwidth(uv), vec2(1e-9));
    vec2 share = clamp(0.5 + min(uv, 1.0 - uv) / pixel, 0.0, 1.0);
    colour *= share.x * share.y;
#endif
#ifdef CUT
    if (is_cut_away(uv)) discard;
#endif
#ifdef HAZED
    colour = hazed(colour, at);
#endif
    result = colour;
}
