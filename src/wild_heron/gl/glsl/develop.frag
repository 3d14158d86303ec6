// What a pixel shows, as it is asked for. Colours come premultiplied, but over a background that is there.
in vec2 uv;
uniform sampler2D sample_frame;
uniform bool light_in;
uniform bool light_out;
uniform bool clear;         // nothing lies behind: values for a display are told without their alpha
out vec4 colour;
#include "colour.glsl"
void main() {
    vec4 found = texelFetch(sample_frame, ivec2(gl_FragCoord.xy), 0);
    float own = clear ? found.a : 1.0;
    vec3 c = own > 0.0 ? found.rgb / own : vec3(0.0);
    if (light_in != light_out) c = light_out ? to_linear(c) : to_display(c);
    // Bytes tell how far artwork covers the background; light over a background has nothing behind it.
    colour = vec4(light_out ? c * own : c, clear || !light_out ? found.a : 1.0);
}
