// What lies in a pixel of a model.
in vec2 uv;
uniform float alpha;
uniform bool textured;
uniform sampler2D artwork;
uniform float cutoff;
out vec4 result;
#include "pass.glsl"
void main() {
    float own = textured ? texture(artwork, uv).a : 1.0;
    if (own < cutoff || own * alpha < least) discard;
    result = pass(1.0 / gl_FragCoord.w);
}
