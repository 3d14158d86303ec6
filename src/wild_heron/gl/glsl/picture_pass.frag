// What lies in a pixel of a picture.
in vec2 uv;
in vec2 spot;
uniform sampler2D artwork;
uniform float opacity;
out vec4 result;
#include "cuts.glsl"
#include "pass.glsl"
void main() {
    if (is_cut_away(uv)) discard;
    if (any(lessThan(uv, vec2(0.0))) || any(greaterThan(uv, vec2(1.0)))) discard;
    if (texture(artwork, spot).a * opacity < least) discard;
    result = pass(1.0 / gl_FragCoord.w);
}
