// A sample by its weight, each pixel the sum of so many either way.
in vec2 uv;
uniform sampler2D sample_frame;
uniform float weight;
uniform int times;          // as large as the result
uniform vec2 first;         // the pixel that the result begins at
out vec4 colour;
void main() {
    ivec2 from = ivec2(gl_FragCoord.xy - first) * times;
    vec4 sum = vec4(0.0);
    for (int y = 0; y < times; ++y)
        for (int x = 0; x < times; ++x) sum += texelFetch(sample_frame, from + ivec2(x, y), 0);
    colour = sum * weight;
}
